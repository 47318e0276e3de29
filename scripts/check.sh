#!/usr/bin/env bash
# Every check and test; those of code, types and front end run first, beside each other. With --long, the long tests too. Other arguments go to
# pytest, and then only the tests run.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
ROOT="$PWD"
bin="$ROOT/.venv/bin"
said="$ROOT/.cache/checks"

check() { # name, command: runs it in the background and keeps what it says
  local name="$1"; shift
  ( began=$SECONDS; "$@" > "$said/$name.txt" 2>&1; status=$?; echo "$((SECONDS - began)) s" >> "$said/$name.txt"; exit $status ) &
  names+=("$name"); numbers+=("$!")
}

python_code() { "$bin/ruff" format --check --quiet . && "$bin/ruff" check --quiet . && "$bin/lint-imports" --no-cache && "$bin/mypy"; }
front_end() {
  cd "$ROOT/web"
  node_modules/.bin/biome check --colors=off --error-on-warnings . && node_modules/.bin/tsc --noEmit --incremental --tsBuildInfoFile ../.cache/tsc.json \
    && node_modules/.bin/vitest run
}

names=() numbers=() failed=()
if [ $# -eq 0 ] || [ "$*" = --long ]; then
  mkdir -p "$said"
  check "code, import rules and types" python_code
  check "generated API types" bash scripts/generate-api.sh --check
  check "front end" front_end
fi
for place in "${!names[@]}"; do
  name="${names[$place]}"
  if wait "${numbers[$place]}"; then
    echo "$name: well, after $(tail -n 1 "$said/$name.txt")"
  else
    failed+=("$name")
    printf '\n== %s\n' "$name"
    cat "$said/$name.txt"
  fi
done
"$bin/python" -m pytest -n 2 --dist worksteal "$@" || failed+=("tests")
[ ${#failed[@]} -eq 0 ] || { echo "failed: ${failed[*]}" >&2; exit 1; }
