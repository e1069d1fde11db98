import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

let compiled: WebAssembly.Module | null | undefined;

/** The compiled kernel; null when it has not been built (`bash scripts/kernel.sh`), and the plain backend has to do. */
export function kernelModule(): WebAssembly.Module | null {
  if (compiled !== undefined) return compiled;
  const path = join(dirname(require.resolve('@inkavo/core/package.json')), 'program/cpu/wasm/kernel.wasm');
  compiled = existsSync(path) ? new WebAssembly.Module(readFileSync(path)) : null;
  return compiled;
}
