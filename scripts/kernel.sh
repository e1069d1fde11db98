#!/usr/bin/env bash
# Compiles the CPU backend's kernel to WebAssembly unless it is newer than its sources: over shared memory for exports,
# over a memory of its own for the application, whose browsers give shared memory to secure, isolated pages alone. The
# application's file is named by its content, and kernel.json says how.
set -euo pipefail
cd "$(dirname "$0")/.."
out=core/program/cpu/wasm
sources=(core/program/cpu/wasm/{blocks,cells,fixed,fixedFloats,fixedLine,kernel,light,lines,samples}.ts core/formula core/fields/{removeVeil,tile}.ts core/steps/index.ts core/steps/*/{formula,falloff}.ts scripts/formulas.ts)
compile() {
  npx asc core/program/cpu/wasm/{kernel,fixed,fixedFloats,samples,cells,lines}.ts core/program/cpu/wasm/formulas.ts -O3 \
    --importMemory --initialMemory 1 --runtime stub --noAssert "$@"
}
if [ ! -f "$out/kernel.own.wasm" ] || [ -n "$(find "${sources[@]}" scripts/kernel.sh -newer "$out/kernel.own.wasm" -print -quit)" ]; then
  node --require tsx/cjs scripts/formulas.ts
  compile --enable simd,threads --sharedMemory --maximumMemory 65536 -o "$out/kernel.wasm"
  compile --enable simd -o "$out/kernel.own.wasm"
fi
# Noise reduction works where frames are decoded: on the server alone.
noise=core/noise/wasm
if [ ! -f "$noise/noise.wasm" ] || [ -n "$(find "$noise"/*.ts scripts/kernel.sh -newer "$noise/noise.wasm" -print -quit)" ]; then
  npx asc "$noise/noise.ts" -O3 --importMemory --initialMemory 1 --runtime stub --noAssert \
    --enable simd,threads --sharedMemory --maximumMemory 65536 -o "$noise/noise.wasm"
fi
mkdir -p app/public
name="kernel-$(sha256sum "$out/kernel.own.wasm" | cut -c1-16).wasm"
if [ ! -f "app/public/$name" ] || [ ! -f app/public/kernel.json ]; then
  rm -f app/public/kernel*
  cp "$out/kernel.own.wasm" "app/public/$name"
  printf '{"file":"%s"}\n' "$name" >app/public/kernel.json
fi
