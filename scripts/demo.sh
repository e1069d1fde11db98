#!/usr/bin/env bash
# Sets up what is missing, renders the demo footage once, and starts the server with the built application.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/setup.sh
bash scripts/build.sh
npm run --silent demo:footage
exec node dist/server.cjs
