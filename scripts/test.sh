#!/usr/bin/env bash
# Everything that has to hold: types, lint, format, unit tests, and the real interface in a real browser.
set -uo pipefail
cd "$(dirname "$0")/.."
bash scripts/setup.sh chromium || exit 1
step() { printf '\n\033[1m%s\033[0m\n' "$*"; }
failed=0
step 'Types';        npm run --silent typecheck || failed=1
step 'Lint';         npm run --silent lint || failed=1
step 'Format';       npm run --silent format:check || failed=1
step 'Kernel and application'; bash scripts/build.sh || failed=1
step 'Footage';      npm run --silent demo:footage || failed=1
out=$(mktemp -d)
step 'Unit tests';   npx jest --selectProjects node app --maxWorkers=2 --json --outputFile="$out/unit.json" || failed=1
step 'Browser tests'; npx jest --selectProjects e2e --runInBand --json --outputFile="$out/e2e.json" || failed=1
node scripts/summary.mjs "$out/unit.json" "$out/e2e.json" "$failed"
