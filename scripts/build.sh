#!/usr/bin/env bash
# Builds the kernel, server, threads and command line, and the application unless the build is newer than everything it is made from.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/kernel.sh
node scripts/bundle.mjs
# The reader of headers that looks at a device's own files.
mkdir -p app/public
cp -u node_modules/mediainfo.js/dist/MediaInfoModule.wasm app/public/
if [ -f app/dist/index.html ] &&
  [ -z "$(find app core package-lock.json \( -name node_modules -o -name dist -o -name .expo -o -name wasm -o -name '*.test.ts' \) -prune -o -type f -newer app/dist/index.html -print -quit)" ]; then
  echo 'The application is built.'
  exit 0
fi
echo 'Building the application (half a minute; the first time a few) …'
log=$(mktemp)
npm run --silent build >"$log" 2>&1 || { cat "$log" >&2; exit 1; }
