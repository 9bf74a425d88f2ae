#!/usr/bin/env bash
# Makes the demo world, starts the service on loopback, and says where to go. Runs until Ctrl-C.
set -euo pipefail
source "$(dirname "${BASH_SOURCE[0]}")/common.sh"

usage() {
  cat <<'TXT'
usage: ./kettlefog demo [--database ENGINE] [--fresh] [--port N] [--folder DIR] [--vendors N]

  --database E sqlite (the default), or postgres: a private server of its own in the folder
  --fresh      throw the demo world away and make it anew
  --port N     listen on this port of 127.0.0.1 (default: 7420)
  --folder DIR keep the demo world in this folder (default: .demo)
  --vendors N  make a world with this many different vendors (default: 420)
TXT
}

engine=sqlite fresh=no port=7420 folder="$root/.demo" vendors=420
while [ $# -gt 0 ]; do
  case "$1" in
    --fresh) fresh=yes ;;
    --database)
      case "${2:-}" in
        sqlite | postgres) engine=$2 ;;
        *) echo "error: the demo runs on sqlite or postgres, not on '${2:-}'." >&2; usage >&2; exit 2 ;;
      esac
      shift
      ;;
    --port | --folder | --vendors)
      [ $# -gt 1 ] || { echo "error: $1 needs a value." >&2; usage >&2; exit 2; }
      declare "${1#--}=$2"
      shift
      ;;
    -h | --help) usage; exit 0 ;;
    *) echo "error: the demo does not know '$1'." >&2; usage >&2; exit 2 ;;
  esac
  shift
done

need_tools
build_console
build_dotnet "$root/src/Kettlefog.Service"
build_dotnet "$root/src/Kettlefog.Cli"
build_dotnet "$root/demo/Kettlefog.Demo"

url="http://127.0.0.1:$port"
if (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null; then
  echo "error: port $port is already in use." >&2
  echo "hint: Stop it, perhaps another demo, or choose another port with '--port'." >&2
  exit 1
fi

mkdir -p "$folder"
folder=$(cd "$folder" && pwd)
if [ "$engine" = postgres ]; then
  source "$root/scripts/postgres.sh"
  [ "$fresh" = yes ] && stop_postgres "$folder/postgres" && rm -rf "$folder/postgres"
  start_postgres "$folder/postgres"
  database=$(postgres_address "$folder/postgres" saltmarrow)
  if create_database "$folder/postgres" saltmarrow; then
    echo "Making the demo world ..." >&2
    dotnet "$demo" postgres "$database" "$folder" "$vendors" || { drop_database "$folder/postgres" saltmarrow; exit 1; }
  fi
else
  database="$folder/saltmarrow.db"
  [ "$fresh" = yes ] && rm -rf "$database" "$database-wal" "$database-shm"
  if [ ! -f "$database" ]; then
    echo "Making the demo world ..." >&2
    dotnet "$demo" "$folder" "$vendors"
  fi
fi
dotnet "$service" init --database "$database"
for user in "m.tilling:Maud Tilling:administrator" "c.weeks:Corin Weeks:operator" "h.trewin:Hob Trewin:viewer"; do
  IFS=: read -r name full role <<<"$user"
  dotnet "$service" add-user "$name" --full-name "$full" --role "$role" --if-missing --database "$database"
done

dotnet "$service" serve --database "$database" --map "$folder/saltmarrow.map.yaml" --port "$port" \
  --signing-key "$folder/history.key" \
  >"$folder/service.out" 2>>"$folder/service.log" &
pid=$!
stop() {
  trap - INT TERM
  kill -TERM "$pid" 2>/dev/null || true
  wait "$pid" 2>/dev/null || true
  [ "$engine" = postgres ] && stop_postgres "$folder/postgres"
  echo
  echo "Stopped. The demo world stays in ${folder#"$PWD"/}; './kettlefog demo' goes on with it."
  exit 0
}
trap stop INT TERM
for _ in $(seq 100); do
  grep -qs "is listening on" "$folder/service.out" && break
  kill -0 "$pid" 2>/dev/null || { tail -n 5 "$folder/service.log" >&2; exit 1; }
  sleep 0.1
done

# The kept sign-in of an earlier demo still works, unless its world was thrown away.
if ! dotnet "$cli" whoami --url "$url" >/dev/null 2>&1; then
  dotnet "$service" token --user m.tilling --label "demo" --database "$database" \
    | dotnet "$cli" sign-in --url "$url" --token-stdin >/dev/null
fi
# A queue to begin with; later ones are the user's own.
if [ -z "$(dotnet "$cli" scan list --url "$url" -o csv | sed 1d)" ]; then
  echo "Scanning for duplicates ..." >&2
  for type in vendor account contact household vessel; do
    dotnet "$cli" scan "$type" --url "$url" >/dev/null
  done
fi
link=$(dotnet "$service" sign-in-link --user m.tilling --database "$database")

cat <<TXT

The demo of the Saltmarrow Harbour Trust is running at $url

  Sign in (once, within an hour):  $url/sign-in#$link

What to try first
  1. Tick vendors 1001 and 1002 (Gannet Chandlery, twice) and press c to compare them.
  2. Choose the surviving values, give a reason, and press Ctrl+Enter to merge.
  3. Open the history, review the old values, and reverse the merge.
  Then: 1003 to 1005 are one firm three times; 1006 and 1007 conflict in a bill; 1008 and 1009 differ in currency.
  Accounts 1 and 2 are duplicates, and so are their vessels, their owners, and the owners' households.

The command line is signed in as well; in another terminal:
  ./kettlefog clusters list vendor
  ./kettlefog clusters show 1
  ./kettlefog similar contact 1
  ./kettlefog search vendor 'gann*'
  ./kettlefog plan vendor 1001 1002
  ./kettlefog merge vendor 1001 1002 --reason 'same firm'
  ./kettlefog history list

Another sign-in link:  ./kettlefog service sign-in-link --user c.weeks --database '${database#"$PWD"/}'
The service's log:     ${folder#"$PWD"/}/service.log
Ctrl-C stops the service.
TXT
wait "$pid" || true
echo "The service stopped by itself; see ${folder#"$PWD"/}/service.log" >&2
exit 1
