#!/usr/bin/env bash
# Compiles the CPU backend's kernel to WebAssembly unless it is newer than its sources; the application gets a copy.
set -euo pipefail
cd "$(dirname "$0")/.."
out=core/program/cpu/wasm/kernel.wasm
copy=app/public/kernel.wasm
sources=(core/program/cpu/wasm/*.ts core/steps/*/wasm/*.ts)
if [ ! -f "$out" ] || [ -n "$(find "${sources[@]}" scripts/kernel.sh -newer "$out" -print -quit)" ]; then
  npx asc core/program/cpu/wasm/kernel.ts core/program/cpu/wasm/rows.ts core/steps/*/wasm/*.ts -O3 \
    --enable simd,threads --importMemory --sharedMemory --initialMemory 1 --maximumMemory 65536 \
    --runtime stub --noAssert -o "$out"
fi
mkdir -p "$(dirname "$copy")"
cmp -s "$out" "$copy" || cp "$out" "$copy"
