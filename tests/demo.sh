#!/usr/bin/env bash
# Starts the demo as a newcomer does, in a folder of its own: it says where to go, what it says works, and it ends when asked.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
folder=$(mktemp -d)
export XDG_CONFIG_HOME="$folder/config" XDG_STATE_HOME="$folder/state"
port=$(node -e 'const s = require("net").createServer().listen(0, "127.0.0.1", () => { console.log(s.address().port); s.close(); })')
bash "$root/kettlefog" demo --folder "$folder/world" --port "$port" --vendors 60 >"$folder/said" 2>"$folder/errors" &
demo=$!
trap 'kill -TERM "$demo" 2>/dev/null || true; wait "$demo" || true; rm -rf "$folder"' EXIT
fail() { echo "$1" >&2; cat "$folder/said" "$folder/errors" >&2; exit 1; }
for _ in $(seq 3000); do
  grep -q "Ctrl-C stops the service" "$folder/said" && break
  kill -0 "$demo" 2>/dev/null || fail "The demo ended by itself."
  sleep 0.1
done

link=$(sed -n 's/.*#\([^ ]*\)$/\1/p' "$folder/said")
signed=$(curl -sf "http://127.0.0.1:$port/api/session" -H 'Content-Type: application/json' -d "{\"link\":\"$link\"}") || fail "The sign-in link does not work."
[[ $signed == *m.tilling* ]] || fail "The link signs in somebody else: $signed"

# The lines that it offers, as they stand.
sed -n 's/^  \(\.\/kettlefog .*\)$/\1/p' "$folder/said" >"$folder/offered"
[ "$(wc -l <"$folder/offered")" -ge 7 ] || fail "The demo offers no commands."
while read -r line; do
  case "$line" in *" merge "*) line="$line --yes" ;; esac
  (cd "$root" && KETTLEFOG_URL="http://127.0.0.1:$port" bash -c "$line" >"$folder/ran" 2>&1 </dev/null) || { cat "$folder/ran" >&2; fail "'$line' does not work."; }
done <"$folder/offered"

kill -TERM "$demo"
status=0
wait "$demo" || status=$?
[ "$status" -eq 0 ] || fail "The demo ended with $status."
grep -q "Stopped. The demo world stays" "$folder/said" || fail "The demo does not say that it stopped."
