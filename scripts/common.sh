# Shared by the scripts: where things are, and how they are installed and built.
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
service="$root/artifacts/bin/Kettlefog.Service/release/kettlefog-service.dll"
cli="$root/artifacts/bin/Kettlefog.Cli/release/kettlefog.dll"
demo="$root/artifacts/bin/Kettlefog.Demo/release/kettlefog-demo.dll"

need() {
  command -v "$1" >/dev/null || { echo "error: $2 is not installed." >&2; echo "hint: $3" >&2; exit 1; }
}

need_tools() {
  need dotnet "The .NET SDK" "Install .NET SDK 10 and try again."
  need node "Node.js" "Install Node.js 20 or newer and try again."
  need npm "npm" "Install npm, which comes with Node.js, and try again."
}

# Installs Debian packages that are missing: NAME=COMMAND ...
install_debian() {
  local missing=() pair
  for pair in "$@"; do
    command -v "${pair#*=}" >/dev/null || missing+=("${pair%%=*}")
  done
  [ ${#missing[@]} -eq 0 ] && return
  local as_root=()
  [ "$(id -u)" -eq 0 ] || as_root=(sudo)
  echo "Installing ${missing[*]} ..." >&2
  "${as_root[@]}" apt-get update -qq >&2
  DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -y -qq --no-install-recommends "${missing[@]}" >&2
}

# Finds Chromium for the browser tests, or installs it: the one without a window, which is quicker, where Debian has it.
install_chromium() {
  if [ -z "${KETTLEFOG_CHROMIUM:-}" ]; then
    install_debian chromium-headless-shell=chromium-headless-shell 2>/dev/null || install_debian chromium=chromium || return 1
    KETTLEFOG_CHROMIUM=$(command -v chromium-headless-shell || command -v chromium)
  fi
  export KETTLEFOG_CHROMIUM PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1
}

# Installs a folder's npm packages as its lock file says, unless they are there already. Not 'npm ci': that wants an
# optional package of every platform in the lock file, also where the registry does not carry them all.
install_npm() {
  local stamp="$1/node_modules/.package-lock.json"
  if [ ! -f "$stamp" ] || [ "$1/package-lock.json" -nt "$stamp" ]; then
    echo "Installing the npm packages of ${1#"$root"/} ..." >&2
    (cd "$1" && npm install --no-save --silent && touch "$stamp") >&2
  fi
}

# Builds the console, unless it is newer than its sources.
build_console() {
  local page="$root/src/Kettlefog.Service/wwwroot/index.html"
  install_npm "$root/console"
  if [ ! -f "$page" ] || [ -n "$(find "$root/console" "$root/docs/openapi.json" -newer "$page" -type f -not -path '*/node_modules/*' -not -name '*.gen.ts' -print -quit)" ]; then
    echo "Building the console ..." >&2
    (cd "$root/console" && npm run --silent build) >&2
  fi
}

# Builds a project, and is silent about it unless it fails.
build_dotnet() {
  echo "Building ${1#"$root"/} ..." >&2
  local log
  log=$(dotnet build "$@" -c Release -v quiet --nologo 2>&1) || { echo "$log" >&2; return 1; }
}
