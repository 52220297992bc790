# Set-up shared by ./start and ./test; sourced with the project's folder as the current one.
# Every step looks first whether it is done, so that a second run takes seconds.

export PROKLISIS_VAR="${PROKLISIS_VAR:-$PWD/var}"
export PROKLISIS_MODELS="$PROKLISIS_VAR/models"
export DJANGO_SETTINGS_MODULE=proklisis.web.settings
# Modules are compiled once, not at the start of every process that a run or a test starts.
unset PYTHONDONTWRITEBYTECODE
SYSTEM_PACKAGES=(postgresql chromium ffmpeg libegl1 libgl1-mesa-dri libgles2 libglib2.0-0 fonts-dejavu-core libpango-1.0-0 libpangoft2-1.0-0 bubblewrap curl)
PG_FOLDER="$PROKLISIS_VAR/pg"

say() { printf '\033[1m%s\033[0m\n' "$*" >&2; }
die() { printf 'Set-up stopped: %s\n' "$*" >&2; exit 1; }

# Run as the account the database server needs: PostgreSQL refuses to run as root.
as_postgres() { if [ "$(id -u)" = 0 ]; then runuser -u postgres -- "$@"; else "$@"; fi; }

setup_all() {
  mkdir -p "$PROKLISIS_VAR"
  setup_system
  setup_python
  setup_node
  setup_models
  setup_frontend
  start_postgres
}

setup_system() {
  local missing=()
  for p in "${SYSTEM_PACKAGES[@]}"; do
    dpkg-query -W -f='${db:Status-Status}' "$p" 2>/dev/null | grep -qx installed || missing+=("$p")
  done
  [ ${#missing[@]} -eq 0 ] && return
  [ "$(id -u)" = 0 ] || die "these system packages are missing: ${missing[*]}. Install them, or run this as root."
  say "Installing system packages: ${missing[*]}"
  apt-get update -qq || die "the Debian package lists cannot be fetched; check the network and run this again."
  # No database cluster of the system's own: ours lives in var/.
  mkdir -p /etc/postgresql-common
  [ -e /etc/postgresql-common/createcluster.conf ] || echo 'create_main_cluster = false' > /etc/postgresql-common/createcluster.conf
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >"$PROKLISIS_VAR/apt.log" 2>&1 \
    || die "a system package could not be installed; $PROKLISIS_VAR/apt.log says why."
}

setup_python() {
  local stamp=.venv/installed want
  want=$(cat requirements.lock pyproject.toml | sha256sum)
  if [ ! -x .venv/bin/python ] || [ "$(cat $stamp 2>/dev/null)" != "$want" ]; then
    say "Installing Python packages"
    command -v python3.11 >/dev/null || die "Python 3.11 is needed."
    python3.11 -m venv .venv
    .venv/bin/python -m pip install --quiet --disable-pip-version-check uv
    .venv/bin/uv pip install --quiet --compile-bytecode --python .venv/bin/python --require-hashes -r requirements.lock
    .venv/bin/uv pip install --quiet --python .venv/bin/python --no-deps -e .
    echo "$want" > $stamp
  fi
  export PATH="$PWD/.venv/bin:$PATH"
  export VIRTUAL_ENV="$PWD/.venv"
}

setup_node() {
  local stamp=frontend/node_modules/.installed want
  want=$(cat frontend/package.json frontend/package-lock.json | sha256sum)
  [ "$(cat $stamp 2>/dev/null)" = "$want" ] && return
  command -v npm >/dev/null || die "Node 20 with npm is needed."
  say "Installing front-end packages"
  # Not npm ci: the lock lists optional packages of other systems that it would insist on.
  (cd frontend && npm install --no-audit --no-fund --loglevel=error) || die "the front-end packages could not be installed."
  cat frontend/package.json frontend/package-lock.json | sha256sum > $stamp
}

setup_models() {
  [ -e "$PROKLISIS_MODELS/pose_full.task" ] && return
  say "Building the body-tracking model"
  python -m proklisis.footage.pose_bundle frontend/node_modules/@mediapipe/pose "$PROKLISIS_MODELS/pose_full.task" >/dev/null
}

setup_frontend() {
  local stamp=frontend/dist/.built want
  want=$(cd frontend && find src public index.html rider.html vite.config.ts vite.rider.config.ts package.json package-lock.json -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum)
  [ "$(cat $stamp 2>/dev/null)" = "$want" ] && return
  say "Building the front end"
  (cd frontend && npm run --silent build >/dev/null) || die "the front end could not be built."
  # Sent as they lie on the disk, so that nothing is compressed while somebody waits.
  python -m whitenoise.compress --quiet frontend/dist
  echo "$want" > $stamp
}

# Photographs and film of real people for the tests of the body tracker: a Debian package of examples carries them.
setup_pictures() {
  export PROKLISIS_PICTURES="${PROKLISIS_PICTURES:-$PWD/var/pictures}"
  [ -e "$PROKLISIS_PICTURES/.complete" ] && return
  say "Fetching pictures of people for the tests"
  local folder
  folder=$(mktemp -d)
  (
    cd "$folder"
    apt-get download -qq opencv-doc >/dev/null 2>&1 || { apt-get update -qq && apt-get download -qq opencv-doc >/dev/null 2>&1; }
  ) || die "the Debian package opencv-doc cannot be fetched; check the network and run this again."
  mkdir -p "$PROKLISIS_PICTURES"
  dpkg-deb --fsys-tarfile "$folder"/opencv-doc_*.deb | tar -x -C "$PROKLISIS_PICTURES" --strip-components=7 --wildcards \
    './usr/share/doc/opencv-doc/examples/data/basketball?.png' './usr/share/doc/opencv-doc/examples/data/vtest.avi' \
    || die "the package opencv-doc does not hold the pictures that the tests use."
  rm -r "$folder"
  touch "$PROKLISIS_PICTURES/.complete"
}

pg_bin() { ls -d /usr/lib/postgresql/*/bin | sort -V | tail -1; }

start_postgres() {
  local bin data
  bin=$(pg_bin)
  mkdir -p "$PG_FOLDER"
  # The server's own account may not be allowed to walk to this folder, as below /root.
  if ! as_postgres test -x "$PG_FOLDER" 2>/dev/null; then
    PG_FOLDER="/var/tmp/proklisis-$(echo "$PG_FOLDER" | sha256sum | cut -c1-12)"
    mkdir -p "$PG_FOLDER"
  fi
  data="$PG_FOLDER/data"
  if [ ! -e "$data/PG_VERSION" ]; then
    [ "$(id -u)" = 0 ] && chown postgres "$PG_FOLDER"
    as_postgres "$bin/initdb" -D "$data" -U proklisis -A trust -E UTF8 --locale=C.UTF-8 >"$PROKLISIS_VAR/initdb.log" 2>&1 \
      || die "the database could not be made; $PROKLISIS_VAR/initdb.log says why."
  fi
  PG_STARTED=0
  if as_postgres "$bin/pg_ctl" -D "$data" status >/dev/null 2>&1; then
    PROKLISIS_DB_PORT=$(sed -n 4p "$data/postmaster.pid")
  else
    PROKLISIS_DB_PORT=$(free_port "${PROKLISIS_DB_PORT:-54329}")
    as_postgres "$bin/pg_ctl" -D "$data" -w -s -l "$PG_FOLDER/log" \
      -o "-p $PROKLISIS_DB_PORT -h 127.0.0.1 -k '$PG_FOLDER' ${PG_OPTIONS:-}" start || die "the database did not start; $PG_FOLDER/log says why."
    PG_STARTED=1
  fi
  export PROKLISIS_DB_PORT
  as_postgres "$bin/psql" -h 127.0.0.1 -p "$PROKLISIS_DB_PORT" -U proklisis -d postgres -tAc \
    "SELECT 1 FROM pg_database WHERE datname = 'proklisis'" | grep -q 1 \
    || as_postgres "$bin/createdb" -h 127.0.0.1 -p "$PROKLISIS_DB_PORT" -U proklisis proklisis
}

stop_postgres() {
  [ "${PG_STARTED:-0}" = 1 ] || return 0
  as_postgres "$(pg_bin)/pg_ctl" -D "$PG_FOLDER/data" -m fast -s stop || true
}

# The first free port on loopback from the given one on.
free_port() {
  python - "$1" <<'PY'
import socket, sys
for port in range(int(sys.argv[1]), int(sys.argv[1]) + 200):
    with socket.socket() as s:
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind(("127.0.0.1", port))
        except OSError:
            continue
        print(port)
        break
else:
    sys.exit("no free port")
PY
}

wait_for() {
  for _ in $(seq 100); do
    curl -fsS -o /dev/null "$1" 2>/dev/null && return
    sleep 0.2
  done
  die "$1 did not answer."
}
