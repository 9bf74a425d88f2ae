#!/usr/bin/env bash
# Runs the benchmarks, all or those named: './kettlefog bench [merge] [pages] [duplicates] [million]'. Ends with 1 if a
# figure is not met.
set -euo pipefail
source "$(dirname "${BASH_SOURCE[0]}")/common.sh"
need_tools
install_debian postgresql=pg_ctlcluster || exit 1
build_console
build_dotnet "$root/demo/Kettlefog.Demo"
build_dotnet "$root/src/Kettlefog.Service"
build_dotnet "$root/bench/Kettlefog.Bench"
exec dotnet "$root/artifacts/bin/Kettlefog.Bench/release/Kettlefog.Bench.dll" "$@"
