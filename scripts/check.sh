#!/usr/bin/env bash
# Every check and test, in the order in which they are quick to fail. Extra arguments go to pytest.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
bin="$PWD/.venv/bin"
step() { printf '\n== %s\n' "$*"; }

if [ $# -eq 0 ]; then
  step "format and lint"
  "$bin/ruff" format --check --quiet . && "$bin/ruff" check --quiet .
  step "types"
  "$bin/mypy"
  step "import rules"
  "$bin/lint-imports" --no-cache | tail -n 8
  step "generated API types"
  bash scripts/generate-api.sh --check
  step "front end: lint, types, unit tests"
  (cd web && node_modules/.bin/biome check --colors=off --error-on-warnings . && node_modules/.bin/tsc --noEmit && node_modules/.bin/vitest run)
fi
step "tests"
exec "$bin/python" -m pytest -n 2 --dist loadfile "$@"
