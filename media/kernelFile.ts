import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { repositoryRoot } from './root';

const compiled = new Map<string, WebAssembly.Module | null>();

function moduleAt(file: string): WebAssembly.Module | null {
  const known = compiled.get(file);
  if (known !== undefined) return known;
  const path = join(repositoryRoot(), file);
  // Straight to optimised code: the engine's quick first version runs at half the speed for the first dozens of frames.
  // It may compile at the first call, so the flag stays; there are no other modules in this program.
  setFlagsFromString('--no-liftoff');
  const made = existsSync(path) ? new WebAssembly.Module(readFileSync(path)) : null;
  compiled.set(file, made);
  return made;
}

/** The compiled kernel; null when it has not been built (`bash scripts/kernel.sh`), and the plain backend has to do. */
export const kernelModule = (): WebAssembly.Module | null => moduleAt('core/program/cpu/wasm/kernel.wasm');

/** The compiled noise reduction; null when it has not been built, and the plain one has to do. */
export const noiseModule = (): WebAssembly.Module | null => moduleAt('core/noise/wasm/noise.wasm');
