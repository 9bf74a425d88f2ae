#!/usr/bin/env bash
# Makes the pictures in docs/screenshots anew, from the demo world.
set -euo pipefail
source "$(dirname "${BASH_SOURCE[0]}")/common.sh"
need_tools
install_chromium
install_npm "$root/tests/browser"
build_console
for project in src/Kettlefog.Service src/Kettlefog.Cli demo/Kettlefog.Demo; do build_dotnet "$root/$project"; done
cd "$root/tests/browser" && npx playwright test --config screenshots.config.ts
