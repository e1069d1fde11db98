#!/usr/bin/env bash
# Compiles the CPU backend's kernel to WebAssembly unless it is newer than its source.
set -euo pipefail
cd "$(dirname "$0")/.."
folder=core/program/cpu/wasm
[ "$folder/kernel.wasm" -nt "$folder/kernel.ts" ] && exit 0
npx asc "$folder/kernel.ts" -O3 --enable simd,threads --importMemory --sharedMemory --initialMemory 1 --maximumMemory 65536 \
  --runtime stub --noAssert -o "$folder/kernel.wasm"
