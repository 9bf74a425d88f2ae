#!/usr/bin/env bash
# Runs the benchmarks, all or those named: './kettlefog bench [merge] [engine] [pages] [proofs] [learning] [duplicates] [million] [console]'.
# Ends with 1 if a figure is not met.
set -euo pipefail
source "$(dirname "${BASH_SOURCE[0]}")/common.sh"
need_tools
install_debian postgresql=pg_ctlcluster sqlite3=sqlite3 || exit 1
build_console
for project in demo/Kettlefog.Demo src/Kettlefog.Service bench/Kettlefog.Bench; do build_dotnet "$root/$project"; done

# What the browser measures is run beside the rest, by the browser tests' own runner.
others=() console=$([ $# -eq 0 ] && echo yes || echo no)
for name in "$@"; do
  if [ "$name" = console ]; then console=yes; else others+=("$name"); fi
done
status=0
if [ $# -eq 0 ] || [ ${#others[@]} -gt 0 ]; then
  dotnet "$root/artifacts/bin/Kettlefog.Bench/release/Kettlefog.Bench.dll" "${others[@]}" || status=1
fi
if [ "$console" = yes ]; then
  install_chromium
  install_npm "$root/tests/browser"
  (cd "$root/tests/browser" && npx playwright test --config figures.config.ts) || status=1
fi
exit "$status"
