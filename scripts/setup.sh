#!/usr/bin/env bash
# Installs what is missing and builds: Debian packages (ffmpeg; with "browsers" as an argument also those that tests drive),
# npm packages, the compiled database driver, kernel, server and application. What can, goes on side by side.
set -euo pipefail
cd "$(dirname "$0")/.."

say() { printf '\033[1m%s\033[0m\n' "$*"; }
took() { say "  $1: $((SECONDS - $2)) s"; }

major=$(node -p 'process.versions.node.split(".")[0]' 2>/dev/null || echo 0)
if [ "$major" -lt 20 ]; then
  echo "Node.js 20 or newer is needed." >&2
  exit 1
fi

driver=node_modules/better-sqlite3/build/Release/better_sqlite3.node
packages=()
command -v ffmpeg >/dev/null && command -v ffprobe >/dev/null || packages+=(ffmpeg)
if [ "${1:-}" = browsers ]; then
  command -v chromium-headless-shell >/dev/null || packages+=(chromium-headless-shell)
  # A second engine, with a screen for it and its decoders of H.264.
  command -v WebKitWebDriver >/dev/null || packages+=(webkit2gtk-driver)
  command -v Xvfb >/dev/null || packages+=(xvfb)
  for plugins in libav plugins-good plugins-bad; do
    dpkg -s "gstreamer1.0-$plugins" >/dev/null 2>&1 || packages+=("gstreamer1.0-$plugins")
  done
fi
if [ ! -f "$driver" ]; then
  command -v python3 >/dev/null || packages+=(python3)
  command -v make >/dev/null || packages+=(make)
  command -v g++ >/dev/null || packages+=(g++)
fi
debian() {
  local root=()
  [ "$(id -u)" -eq 0 ] || root=(sudo)
  "${root[@]}" apt-get update -qq
  DEBIAN_FRONTEND=noninteractive "${root[@]}" apt-get install -y -qq --no-install-recommends "${packages[@]}" >/dev/null
}
apt=
if [ "${#packages[@]}" -gt 0 ]; then
  say "Installing from Debian: ${packages[*]} …"
  # A password is asked for now, not from the background.
  [ "$(id -u)" -eq 0 ] || sudo -v
  debian &
  apt=$!
fi

stamp=node_modules/.installed-from
digest=$(sha256sum package-lock.json | cut -d' ' -f1)
if [ ! -f "$stamp" ] || [ "$(cat "$stamp")" != "$digest" ]; then
  say 'Installing npm packages …'
  from=$SECONDS
  npm ci --ignore-scripts --no-audit --no-fund --loglevel=error
  echo "$digest" >"$stamp"
  took 'npm packages' "$from"
fi
[ -z "$apt" ] || wait "$apt"

compiled=
if [ ! -f "$driver" ]; then
  say 'Compiling the database driver beside the build …'
  log=$(mktemp)
  npm rebuild better-sqlite3 --loglevel=error >"$log" 2>&1 &
  compiled=$!
fi
from=$SECONDS
bash scripts/build.sh
took 'build' "$from"
[ -z "$compiled" ] || wait "$compiled" || { cat "$log" >&2; exit 1; }
