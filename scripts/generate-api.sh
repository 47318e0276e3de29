#!/usr/bin/env bash
# Generates the front end's API types from the server's OpenAPI description. With --check it only says whether they differ.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
.venv/bin/python -m oddpair.cli openapi > web/openapi.json
if [ "${1:-}" = --check ]; then
  (cd web/codegen && node generate.mjs ../openapi.json ../openapi-check.ts)
  same=0; cmp -s web/openapi-check.ts web/src/api/schema.gen.ts || same=1
  rm -f web/openapi-check.ts
  [ "$same" = 0 ] || { echo "web/src/api/schema.gen.ts is out of date: run scripts/generate-api.sh" >&2; exit 1; }
else
  (cd web && npm run -s api)
fi
