#!/usr/bin/env bash
# For working on the code: the server restarts and the page reloads when a file changes.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/setup.sh
npm run --silent demo:footage
port=${INKAVO_PORT:-4680}
trap 'kill 0' EXIT
node scripts/bundle.mjs
node scripts/bundle.mjs --watch &
INKAVO_APP=none INKAVO_PORT="$port" node --watch dist/server.cjs &
INKAVO_API="http://127.0.0.1:$port" npm run --silent dev --workspace @inkavo/app
