#!/usr/bin/env bash
# Builds what is installed: the service with the console inside, and the command line, each one file that needs no .NET.
set -euo pipefail
source "$(dirname "${BASH_SOURCE[0]}")/common.sh"

usage() {
  cat <<'TXT'
usage: ./kettlefog publish [--runtime NAME] [--out DIR] [--quick]

  --runtime NAME  linux-x64 or linux-arm64; may be repeated (default: this machine's)
  --out DIR       put what is built there (default: dist)
  --quick         compile only our own code ahead: built in one minute instead of six, starts in 1.0 s instead of 0.8
TXT
}

runtimes=() out="$root/dist" whole=true
while [ $# -gt 0 ]; do
  case "$1" in
    --runtime | --out)
      [ $# -gt 1 ] || { echo "error: $1 needs a value." >&2; usage >&2; exit 2; }
      if [ "$1" = --out ]; then out=$2; else runtimes+=("$2"); fi
      shift
      ;;
    --quick) whole=false ;;
    -h | --help) usage; exit 0 ;;
    *) echo "error: publish does not know '$1'." >&2; usage >&2; exit 2 ;;
  esac
  shift
done
if [ ${#runtimes[@]} -eq 0 ]; then
  case "$(uname -m)" in
    aarch64 | arm64) runtimes=(linux-arm64) ;;
    *) runtimes=(linux-x64) ;;
  esac
fi
for runtime in "${runtimes[@]}"; do
  case "$runtime" in
    linux-x64 | linux-arm64) ;;
    *) echo "error: nothing is built for '$runtime'." >&2; usage >&2; exit 2 ;;
  esac
done

need_tools
build_console
version=$(sed -n 's:.*<Version>\(.*\)</Version>.*:\1:p' "$root/Directory.Build.props")
mkdir -p "$out"
out=$(cd "$out" && pwd)
for runtime in "${runtimes[@]}"; do
  name="kettlefog-$version-$runtime" work="$root/artifacts/dist/$runtime"

  # Nothing that a publish broke off has left behind is taken for done.
  rm -rf "$work" "${out:?}/$name" "$root"/artifacts/obj/*/"release_$runtime"
  for project in Kettlefog.Service Kettlefog.Cli; do
    # The service with all that it stands on is compiled as one, so that hardly anything is left to do when it starts.
    composite=$([ "$project" = Kettlefog.Service ] && echo "$whole" || echo false)
    echo "Publishing $project for $runtime ..." >&2
    log=$(dotnet publish "$root/src/$project" -c Release -r "$runtime" --self-contained -o "$work/$project" -v quiet --nologo \
      -p:PublishSingleFile=true -p:PublishReadyToRun=true -p:PublishReadyToRunComposite="$composite" -p:PublishLocks="$work/locks" -p:TieredCompilationQuickJitForLoops=true -p:IncludeNativeLibrariesForSelfExtract=true -p:DebugType=none 2>&1) \
      || { echo "$log" >&2; exit 1; }
  done
  mkdir -p "$out/$name"
  cp "$work/Kettlefog.Service/kettlefog-service" "$work/Kettlefog.Cli/kettlefog" "$root/LICENSE" "$root/packaging/kettlefog.service" "$root/packaging/Containerfile" "$out/$name/"
  tar -C "$out" -czf "$out/$name.tar.gz" "$name"
  echo "$out/$name.tar.gz"
done
