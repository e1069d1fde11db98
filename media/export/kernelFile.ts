import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { repositoryRoot } from '../root';

let compiled: WebAssembly.Module | null | undefined;

/** The compiled kernel; null when it has not been built (`bash scripts/kernel.sh`), and the plain backend has to do. */
export function kernelModule(): WebAssembly.Module | null {
  if (compiled !== undefined) return compiled;
  const path = join(repositoryRoot(), 'core/program/cpu/wasm/kernel.wasm');
  if (!existsSync(path)) return (compiled = null);
  // Straight to optimised code: the engine's quick first version runs at half the speed for the first dozens of frames.
  // It may compile at the first call, so the flag stays; there is no other module in this program.
  setFlagsFromString('--no-liftoff');
  compiled = new WebAssembly.Module(readFileSync(path));
  return compiled;
}
