#!/usr/bin/env bash
# Installs what the tests need, and runs every one of them. The last line sums up all runners.
# With --long, random tests try ten times as many cases.
set -uo pipefail
source "$(dirname "${BASH_SOURCE[0]}")/common.sh"
cd "$root" || exit 1
case "${1:-}" in
  "") ;;
  --long) export KETTLEFOG_TEST_FACTOR=10 ;;
  *)
    echo "error: the tests do not know '$1'." >&2
    echo "usage: ./kettlefog test [--long]" >&2
    exit 2
    ;;
esac
results="$root/.test"
rm -rf "$results"
mkdir -p "$results"
passed=0 failed=0 skipped=0

# What failed is said once more at the end, where nobody has to look for it.
failures="$results/failures"
failed_as() {
  echo "FAILED: $1" | tee -a "$failures"
}

# Runs a check that passes or fails as a whole: NAME COMMAND ...
check() {
  local name=$1
  shift
  echo "== $name"
  if "$@"; then
    passed=$((passed + 1))
  else
    failed=$((failed + 1))
    failed_as "$name"
  fi
}

# Runs a test runner, and adds the counts that it left in a file: NAME FILE COMMAND ...
run() {
  local name=$1 file=$2
  shift 2
  echo "== $name"
  "$@"
  local status=$? read
  if ! read=$(node "$root/scripts/test-results.mjs" "$file" 2>/dev/null); then
    failed_as "$name left no result"
    failed=$((failed + 1))
    return
  fi
  read -r p f s <<<"$read"
  echo "$name: $p passed, $f failed, $s skipped"
  passed=$((passed + p)) failed=$((failed + f)) skipped=$((skipped + s))
  if [ "$f" -gt 0 ]; then
    failed_as "$name" >/dev/null
    tail -n +2 <<<"$read" >>"$failures"
  elif [ "$status" -ne 0 ]; then
    failed_as "$name ended with $status"
    failed=$((failed + 1))
  fi
}

# Prints what failed, and the sum of all runners as the last line.
finish() {
  [ ! -f "$failures" ] || { echo "== what failed"; cat "$failures"; }
  echo "$passed passed, $failed failed, $skipped skipped"
  [ "$failed" -eq 0 ]
  exit
}

# A database in memory needs no disk to be sure of a commit; what is tested is whether commits are made, and by whom.
if [ -w /dev/shm ] && [ "$(df --output=avail -k /dev/shm | tail -1)" -gt 4000000 ]; then
  TMPDIR=$(mktemp -d /dev/shm/kettlefog.XXXXXX)
  export TMPDIR
  chmod 755 "$TMPDIR"
  trap 'rm -rf "$TMPDIR"' EXIT
fi

# Run as what is published is: most of what a test starts lives for a second or two. Memory that is writable and
# executable by turns is a quarter of what a start takes, and guards nothing here.
export DOTNET_TieredPGO=0 DOTNET_TC_QuickJitForLoops=1 DOTNET_EnableWriteXorExecute=0

need_tools
install_debian postgresql=pg_ctlcluster sqlite3=sqlite3 || exit 1
# What needs no console is built while that is made; whether it fails is asked below.
build_dotnet "$root/tests/Kettlefog.Database.Tests" 2>/dev/null &
early=$!
install_chromium || exit 1
install_npm "$root/console" || exit 1
install_npm "$root/tests/browser" || exit 1
check "console build" build_console
wait "$early"
check "build without warnings" build_dotnet "$root/Kettlefog.slnx"
[ "$failed" -eq 0 ] || finish
check "programs compiled ahead of time" bash "$root/scripts/compile-ahead.sh"

dotnet_tests() {
  run "$1" "$results/$1.json" \
    dotnet "$root/artifacts/bin/Kettlefog.$1.Tests/release/Kettlefog.$1.Tests.dll" -noLogo -noColor -ctrf "$results/$1.json"
}

# What goes beside something else is shown after it: beside NAME COMMAND ..., and later joined NAME.
declare -A lanes
beside() {
  local name=$1
  shift
  (
    passed=0 failed=0 skipped=0
    "$@"
    echo "$passed $failed $skipped" >"$results/$name.counts"
  ) >"$results/$name.log" 2>&1 &
  lanes[$name]=$!
}

joined() {
  local p f s
  wait "${lanes[$1]}"
  cat "$results/$1.log"
  read -r p f s <"$results/$1.counts" || { p=0 f=1 s=0; failed_as "$1 left no result"; }
  passed=$((passed + p)) failed=$((failed + f)) skipped=$((skipped + s))
}

csharp_format() {
  dotnet tool restore >/dev/null && dotnet csharpier check src tests demo bench
}

# Prints every line that is too long. A row of a table in Markdown cannot be broken.
short_lines() {
  local long
  long=$(git ls-files '*.cs' '*.md' ':!docs/record-map.md' | LC_ALL=C.UTF-8 xargs grep -nP '^(?!\|).{121,}$')
  [ -z "$long" ] || { echo "$long" | cut -c1-160; return 1; }
}

small_checks() {
  # Style is checked by the build.
  check "C# format" csharp_format
  check "lines end at 120 columns" short_lines
  check "console format, lint and types" npm --prefix "$root/console" run --silent lint
  run "console units" "$results/console.json" \
    npm --prefix "$root/console" test --silent -- --reporter=default --reporter=json --outputFile="$results/console.json"
}

# Two processors, and two lanes of about the same length.
console_lane() {
  run "browser" "$results/browser.json" \
    env PLAYWRIGHT_JSON_OUTPUT_NAME="$results/browser.json" npm --prefix "$root/tests/browser" test --silent -- --reporter=list,json
  dotnet_tests Cli
  small_checks
}

beside console console_lane
dotnet_tests Core
dotnet_tests Database
dotnet_tests Service
joined console
# The demo builds anew, and would take away what others run.
check "demo" bash "$root/tests/demo.sh"

finish
