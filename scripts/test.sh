#!/usr/bin/env bash
# Everything that has to hold: types, lint, format, unit tests, and the real interface in a real browser.
set -uo pipefail
cd "$(dirname "$0")/.."
bash scripts/setup.sh browsers || exit 1
step() { printf '\n\033[1m%s\033[0m (after %d s)\n' "$*" "$SECONDS"; }
failed=0
out=$(mktemp -d)
trap 'rm -rf "$out"' EXIT
# A browser with its server and codec keeps two cores busy.
cores=$(nproc)
workers=$((cores > 2 ? cores : 2))
browsers=$((cores > 2 ? cores / 2 : 1))

step 'Types, lint, format and the footage, side by side'
declare -A running
for check in typecheck lint format:check demo:footage; do
  npm run --silent "$check" >"$out/$check.log" 2>&1 &
  running[$check]=$!
done
for check in typecheck lint format:check demo:footage; do
  wait "${running[$check]}" && { echo "$check: passed"; continue; }
  failed=1
  echo "$check: failed"
  cat "$out/$check.log"
done
step 'Unit tests';    npx jest --selectProjects core node app --maxWorkers="$workers" --json --outputFile="$out/unit.json" || failed=1
step 'Browser tests'; npx jest --selectProjects e2e --maxWorkers="$browsers" --json --outputFile="$out/e2e.json" || failed=1
node scripts/summary.mjs "$out/unit.json" "$out/e2e.json" "$failed"
