import type { Vec3 } from '@inkavo/core/colour/matrix';
import type { Baked } from '@inkavo/core/program/baked';
import { RowGrader } from '@inkavo/core/program/cpu/rowGrader';
import { REST_SIZE } from '@inkavo/core/program/bake';
import { RowKernel, type Chosen } from '@inkavo/core/program/cpu/rowKernel';
import { needsOf, rowKernelBytes, type RowKernelCapacity } from '@inkavo/core/program/cpu/rowCapacity';

/** The kernel's file is named by its content, so that no cache gives an old one to a new page. */
async function loadKernel(): Promise<WebAssembly.Module> {
  const { file } = (await (await fetch('/kernel.json')).json()) as { file: string };
  return WebAssembly.compileStreaming(fetch(`/${file}`));
}

/** The kernel that the server's exports run too; null where this browser cannot have it, and plain code has to do. */
const loaded: Promise<WebAssembly.Module | null> = loadKernel().catch(() => null);
let compiled: WebAssembly.Module | null = null;
/** Resolves when what can be had for grading is there. */
export const gradingReady: Promise<void> = loaded.then((module) => void (compiled = module));

const PAGE = 65536;
let kernel: { rows: RowKernel; capacity: RowKernelCapacity } | undefined;

/** A kernel with capacity for a program, made anew when a larger one comes. */
function kernelFor(baked: Baked, width: number): RowKernel | undefined {
  if (!compiled) return undefined;
  if (kernel?.rows.takes(baked, width)) return kernel.rows;
  const capacity: RowKernelCapacity = { ...needsOf(baked), width };
  capacity.size = Math.max(REST_SIZE, capacity.size);
  for (const key of Object.keys(capacity) as (keyof RowKernelCapacity)[])
    capacity[key] = Math.max(capacity[key], kernel?.capacity[key] ?? 0);
  const pages = Math.ceil((rowKernelBytes(capacity) + 64) / PAGE);
  try {
    // Each worker has one of its own: shared memory is for secure, isolated pages alone.
    const memory = new WebAssembly.Memory({ initial: pages, maximum: pages });
    kernel = { rows: new RowKernel(compiled, memory, 0, capacity), capacity };
    return kernel.rows;
  } catch {
    // A device without so much memory.
    compiled = null;
    return undefined;
  }
}

/** What grades here. */
export const gradingBackend = (): 'kernel' | 'plain' => (compiled ? 'kernel' : 'plain');

/**
 * A whole picture of R'G'B' code values (width × height × 3) through ops, see `RowKernel.rgb`: into floats or bytes. Where there is
 * no kernel `chosen` stays as it is, and `file` must be missing.
 */
export function gradeInto(
  baked: Baked,
  code: Float32Array,
  out: Float32Array | Uint8ClampedArray,
  width: number,
  height: number,
  weights: Readonly<Vec3>,
  chosen?: Chosen,
  file?: Float32Array,
): void {
  const fast = kernelFor(baked, width);
  if (fast) {
    fast.setGrade(baked);
    fast.rgb(code, out, width, height, weights, chosen, file);
    return;
  }
  const row = (y: number): Float32Array => code.subarray(y * width * 3, (y + 1) * width * 3);
  const grader = new RowGrader(baked, width, height, weights, (y, line) => line.set(row(y)));
  if (out instanceof Float32Array) {
    for (let y = 0; y < height; y += 1) grader.grade(y, out.subarray(y * width * 3, (y + 1) * width * 3));
    return;
  }
  const line = new Float32Array(3 * width);
  for (let y = 0, o = 0; y < height; y += 1) {
    grader.grade(y, line);
    for (let i = 0; i < line.length; i += 3, o += 4) {
      for (let c = 0; c < 3; c += 1) out[o + c] = 255 * line[i + c];
      out[o + 3] = 255;
    }
  }
}

/** A whole picture of R'G'B' code values (width × height × 3) through ops: encoded output, not clipped. */
export function gradeCode(
  baked: Baked,
  code: Float32Array,
  width: number,
  height: number,
  weights: Readonly<Vec3>,
): Float32Array {
  const out = new Float32Array(code.length);
  gradeInto(baked, code, out, width, height, weights);
  return out;
}
