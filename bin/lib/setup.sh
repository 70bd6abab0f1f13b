# Shared by the commands in bin/: installs what is missing and runs a private PostgreSQL cluster.
set -euo pipefail

ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/../.." && pwd)"
cd "$ROOT"
export NEXT_TELEMETRY_DISABLED=1

say() { printf '%s\n' "$*" >&2; }
fail() { say "$*"; exit 1; }

need_node() {
  command -v node >/dev/null || fail 'Node.js is missing. Install Node.js 20.9 or newer, then run this again.'
  node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 9) ? 0 : 1)' ||
    fail "Node.js $(node --version) is too old. Install Node.js 20.9 or newer, then run this again."
}

# Installs Debian packages that are missing; as another user than root it says which.
need_packages() {
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return
  [ "$(id -u)" = 0 ] || fail "Missing Debian packages: ${missing[*]}. Install them (apt-get install ${missing[*]}), then run this again."
  say "Installing ${missing[*]} …"
  { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "${missing[@]}"; } >"$(log apt)" 2>&1 ||
    fail "Installing ${missing[*]} failed; see $(log apt)."
}

log() { mkdir -p "$ROOT/.data/logs"; printf '%s' "$ROOT/.data/logs/$1.log"; }

need_modules() {
  local stamp=node_modules/.oikon-installed
  [ -f "$stamp" ] && cmp -s package-lock.json "$stamp" && return
  say 'Installing npm packages …'
  local before; before="$(cat package-lock.json)"
  npm install --no-audit --no-fund >"$(log npm)" 2>&1 || fail "npm install failed; see $(log npm)."
  [ "$before" = "$(cat package-lock.json)" ] || say 'Note: npm changed package-lock.json.'
  cp package-lock.json "$stamp"
}

# Builds when the sources are newer than the build.
need_build() {
  if [ ! -f .next/BUILD_ID ] || [ -n "$(find src next.config.ts package.json -newer .next/BUILD_ID -print -quit)" ]; then
    say 'Building (about a minute) …'
    npx --no-install next build >"$(log build)" 2>&1 || fail "The build failed; see $(log build)."
  fi
}

# PostgreSQL refuses to run as root: then its own user runs the cluster.
as_database_user() {
  if [ "$(id -u)" = 0 ]; then runuser -u postgres -- "$@"; else "$@"; fi
}

postgres_programs() {
  local folder
  for folder in /usr/lib/postgresql/15/bin /usr/lib/postgresql/*/bin; do
    [ -x "$folder/initdb" ] && { printf '%s' "$folder"; return; }
  done
  fail 'PostgreSQL’s server programs are missing. Install the package postgresql, then run this again.'
}

free_port() { node -e 'const s = require("net").createServer().listen(0, "127.0.0.1", () => { console.log(s.address().port); s.close(); })'; }

# The folder of a cluster: in .data, or where the database's user can enter when the clone lies under a closed folder.
cluster_folder() {
  local folder="$ROOT/.data/$1"
  mkdir -p "$folder"
  if [ "$(id -u)" = 0 ]; then
    chown postgres: "$folder"
    if ! runuser -u postgres -- test -w "$folder"; then
      rmdir "$folder" 2>/dev/null || true
      folder="/var/lib/postgresql/oikon-$(printf '%s' "$ROOT" | cksum | cut -d' ' -f1)-$1"
      mkdir -p "$folder"; chown postgres: "$folder"
    fi
  fi
  chmod 700 "$folder"
  printf '%s' "$folder"
}

# start_cluster NAME [SETTING...]: makes the cluster at its first start, starts it, and sets DATABASE_URL.
start_cluster() {
  local name="$1"; shift
  local programs; programs="$(postgres_programs)"
  CLUSTER="$(cluster_folder "$name")"
  local secret="$ROOT/.data/$name.password"
  if ! as_database_user test -f "$CLUSTER/PG_VERSION"; then
    say 'Making a PostgreSQL cluster …'
    (umask 077; node -e 'console.log(require("crypto").randomBytes(18).toString("hex"))' >"$secret")
    local handed; handed="$(mktemp)"; cp "$secret" "$handed"
    [ "$(id -u)" = 0 ] && chown postgres: "$handed"
    as_database_user "$programs/initdb" -D "$CLUSTER" -U oikon --pwfile="$handed" --auth=scram-sha-256 -E UTF8 --locale=C.UTF-8 >"$(log "$name-initdb")" 2>&1 ||
      { rm -f "$handed"; fail "Making the cluster failed; see $(log "$name-initdb")."; }
    rm -f "$handed"
  fi
  local port
  if as_database_user "$programs/pg_ctl" -D "$CLUSTER" status >/dev/null 2>&1; then
    port="$(as_database_user sed -n 4p "$CLUSTER/postmaster.pid")"
    CLUSTER_IS_OURS=no
  else
    port="$(free_port)"
    local options="-c listen_addresses=127.0.0.1 -c port=$port -c unix_socket_directories= -c max_connections=60" setting
    for setting in "$@"; do options="$options -c $setting"; done
    as_database_user "$programs/pg_ctl" -D "$CLUSTER" -l "$CLUSTER/server.log" -o "$options" -w start >/dev/null ||
      fail "PostgreSQL didn’t start; see $CLUSTER/server.log."
    CLUSTER_IS_OURS=yes
  fi
  export DATABASE_URL="postgres://oikon:$(cat "$secret")@127.0.0.1:$port/postgres"
}

# Stops the cluster that this command started.
stop_cluster() {
  [ "${CLUSTER_IS_OURS:-no}" = yes ] || return 0
  as_database_user "$(postgres_programs)/pg_ctl" -D "$CLUSTER" -m fast -w stop >/dev/null 2>&1 || true
}
