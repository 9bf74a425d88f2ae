#!/usr/bin/env bash
# What one would write by hand in PostgreSQL: a self-join by trigram similarity. Reads id,name,city from the file IN, writes
# pairs to the file OUT, and prints the seconds that index and join took. Usage: trigram.sh IN OUT THRESHOLD
set -euo pipefail
bin=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1)
[ -n "$bin" ] || { echo "PostgreSQL is not installed." >&2; exit 3; }
folder=$(mktemp -d)
chmod 755 "$folder"
as() { if [ "$(id -u)" -eq 0 ]; then runuser -u postgres -- "$@"; else "$@"; fi; }
[ "$(id -u)" -eq 0 ] && chown postgres "$folder"
trap 'as "$bin/pg_ctl" -D "$folder/data" -m immediate stop >/dev/null 2>&1 || true; rm -rf "$folder"' EXIT
as "$bin/initdb" -D "$folder/data" -A trust >/dev/null
as "$bin/pg_ctl" -D "$folder/data" -w -o "-c listen_addresses='' -k $folder -c shared_buffers=512MB -c work_mem=128MB -c max_parallel_workers_per_gather=2" start >/dev/null
sql() { as "$bin/psql" -h "$folder" -d postgres -v ON_ERROR_STOP=1 -qAt "$@"; }
sql -c "CREATE EXTENSION pg_trgm" -c "CREATE TABLE party (id int PRIMARY KEY, name text, city text)"
sql -c "COPY party FROM STDIN (FORMAT csv)" <"$1"
begin=$(date +%s.%N)
sql -c "CREATE INDEX ON party USING gist (name gist_trgm_ops)" -c "ANALYZE party" \
  -c "SET pg_trgm.similarity_threshold = $3" \
  -c "COPY (SELECT a.id, b.id FROM party a JOIN party b ON a.name % b.name AND a.id < b.id WHERE a.city IS NULL OR b.city IS NULL OR a.city = b.city) TO STDOUT (FORMAT csv)" >"$2"
end=$(date +%s.%N)
awk "BEGIN { print $end - $begin }"
