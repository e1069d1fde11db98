#!/usr/bin/env bash
# Everything that has to hold: types, lint, format, unit tests, and the real interface in a real browser.
set -uo pipefail
cd "$(dirname "$0")/.."
bash scripts/setup.sh browsers || exit 1
step() { printf '\n\033[1m%s\033[0m\n' "$*"; }
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
step 'Tests of media, server and command line'
npx jest --selectProjects node --maxWorkers="$workers" --json --outputFile="$out/node.json" || failed=1

# Browser tests leave a third of the processor idle. The tests that only compute use it, and give way at once (SCHED_IDLE).
step 'Browser tests, and beside them those of the core and of the state of the interface'
idle='chrt --idle 0'
$idle true 2>/dev/null || idle='nice -n 19'
$idle npx jest --selectProjects core app --maxWorkers="$workers" --testTimeout=600000 --json --outputFile="$out/core.json" >"$out/core.log" 2>&1 &
core=$!
npx jest --selectProjects e2e --maxWorkers="$browsers" --json --outputFile="$out/e2e.json" || failed=1
wait "$core" || failed=1
cat "$out/core.log"
node scripts/summary.mjs "$out/node.json" "$out/core.json" "$out/e2e.json" "$failed"
