# A private PostgreSQL server in a folder, of Debian's programs, reached by a socket in that folder only.
install_debian postgresql=pg_ctlcluster
postgres_bin=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1)
[ -n "$postgres_bin" ] || { echo "error: PostgreSQL's programs are not under /usr/lib/postgresql." >&2; exit 1; }

# The server does not run as root: Debian's user postgres owns it then.
as_postgres() {
  if [ "$(id -u)" -eq 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi
}

# Makes the server if it is not there, and starts it if it does not run: FOLDER
start_postgres() {
  mkdir -p "$1"
  [ "$(id -u)" -eq 0 ] && chown postgres "$1"
  if [ ! -f "$1/data/PG_VERSION" ]; then
    as_postgres "$postgres_bin/initdb" -D "$1/data" -U kettlefog -A trust -E UTF8 --locale=C.UTF-8 >/dev/null
  fi
  as_postgres "$postgres_bin/pg_ctl" -D "$1/data" status >/dev/null 2>&1 && return
  as_postgres "$postgres_bin/pg_ctl" -D "$1/data" -w -l "$1/log" -o "-c listen_addresses='' -k '$1'" start >/dev/null || {
    echo "error: PostgreSQL did not start; see $1/log." >&2
    exit 1
  }
}

stop_postgres() {
  as_postgres "$postgres_bin/pg_ctl" -D "$1/data" -m fast stop >/dev/null 2>&1 || true
}

# The address of a database: FOLDER NAME
postgres_address() {
  echo "Host=$1;Username=kettlefog;Database=$2"
}

# Makes a database; fails if it is there: FOLDER NAME
create_database() {
  "$postgres_bin/psql" -h "$1" -U kettlefog -d postgres -qAt -c "CREATE DATABASE $2" >/dev/null 2>&1
}

drop_database() {
  "$postgres_bin/psql" -h "$1" -U kettlefog -d postgres -qAt -c "DROP DATABASE $2" >/dev/null 2>&1
}
