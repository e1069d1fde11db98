#!/usr/bin/env bash
# Sets up what is missing and starts the server with the demo; its footage is rendered while the page is up already.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/setup.sh
node dist/demo.cjs --fresh
INKAVO_DEMO=1 exec node dist/server.cjs
