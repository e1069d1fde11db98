#!/usr/bin/env bash
# Installs what is missing: Debian packages (ffmpeg; with "chromium" as an argument also the browser) and npm packages.
set -euo pipefail
cd "$(dirname "$0")/.."

say() { printf '\033[1m%s\033[0m\n' "$*"; }

major=$(node -p 'process.versions.node.split(".")[0]' 2>/dev/null || echo 0)
if [ "$major" -lt 20 ]; then
  echo "Node.js 20 or newer is needed." >&2
  exit 1
fi

packages=()
command -v ffmpeg >/dev/null && command -v ffprobe >/dev/null || packages+=(ffmpeg)
for wanted in "$@"; do command -v "$wanted" >/dev/null || packages+=("$wanted"); done
# The database's addon is compiled when it is installed.
if [ ! -d node_modules/better-sqlite3/build ]; then
  command -v python3 >/dev/null || packages+=(python3)
  command -v make >/dev/null || packages+=(make)
  command -v g++ >/dev/null || packages+=(g++)
fi
if [ "${#packages[@]}" -gt 0 ]; then
  say "Installing from Debian: ${packages[*]}"
  root=()
  [ "$(id -u)" -eq 0 ] || root=(sudo)
  "${root[@]}" apt-get update -qq
  DEBIAN_FRONTEND=noninteractive "${root[@]}" apt-get install -y -qq --no-install-recommends "${packages[@]}" >/dev/null
fi

stamp=node_modules/.installed-from
digest=$(sha256sum package-lock.json | cut -d' ' -f1)
if [ ! -f "$stamp" ] || [ "$(cat "$stamp")" != "$digest" ]; then
  say 'Installing npm packages (the database is compiled: a few minutes) …'
  npm ci --no-audit --no-fund --loglevel=error
  echo "$digest" > "$stamp"
fi
