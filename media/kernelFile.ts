import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { repositoryRoot } from './root';

const compiled = new Map<string, WebAssembly.Module | null>();

function moduleAt(file: string): WebAssembly.Module | null {
  const known = compiled.get(file);
  if (known !== undefined) return known;
  const path = join(repositoryRoot(), file);
  // Compiles directly with the optimising compiler: the baseline compiler's code runs at half speed for the first
  // dozens of frames. Compilation may be deferred to the first call, so the flag stays set; there are no other modules
  // in this program.
  setFlagsFromString('--no-liftoff');
  const made = existsSync(path) ? new WebAssembly.Module(readFileSync(path)) : null;
  compiled.set(file, made);
  return made;
}

/** The compiled kernel; null if it has not been built (`bash scripts/kernel.sh`): the plain backend is used. */
export const kernelModule = (): WebAssembly.Module | null => moduleAt('core/program/cpu/wasm/kernel.wasm');

/** The compiled noise reduction; null if it has not been built: the plain implementation is used. */
export const noiseModule = (): WebAssembly.Module | null => moduleAt('core/noise/wasm/noise.wasm');
