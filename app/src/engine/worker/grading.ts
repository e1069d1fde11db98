import type { Vec3 } from '@inkavo/core/colour/matrix';
import type { Baked } from '@inkavo/core/program/baked';
import { RowGrader } from '@inkavo/core/program/cpu/rowGrader';
import { REST_SIZE } from '@inkavo/core/program/bake';
import { RowKernel, type Chosen } from '@inkavo/core/program/cpu/rowKernel';
import { needsOf, rowKernelBytes, type RowKernelCapacity } from '@inkavo/core/program/cpu/rowCapacity';

/** The kernel's file is named by its content, so that caches never serve an outdated one. */
async function loadKernel(): Promise<WebAssembly.Module> {
  const { file } = (await (await fetch('/kernel.json')).json()) as { file: string };
  return WebAssembly.compileStreaming(fetch(`/${file}`));
}

/** The kernel, shared with the server's exports; null if this browser does not support it: plain code is used. */
const loaded: Promise<WebAssembly.Module | null> = loadKernel().catch(() => null);
let compiled: WebAssembly.Module | null = null;
/** Resolves when grading is ready. */
export const gradingReady: Promise<void> = loaded.then((module) => void (compiled = module));

const PAGE = 65536;
let kernel: { rows: RowKernel; capacity: RowKernelCapacity } | undefined;

/** A kernel with capacity for a program, recreated when a larger one is needed. */
function kernelFor(baked: Baked, width: number): RowKernel | undefined {
  if (!compiled) return undefined;
  if (kernel?.rows.takes(baked, width)) return kernel.rows;
  const capacity: RowKernelCapacity = { ...needsOf(baked), width };
  capacity.size = Math.max(REST_SIZE, capacity.size);
  for (const key of Object.keys(capacity) as (keyof RowKernelCapacity)[])
    capacity[key] = Math.max(capacity[key], kernel?.capacity[key] ?? 0);
  const pages = Math.ceil((rowKernelBytes(capacity) + 64) / PAGE);
  try {
    // Each worker has its own memory: shared memory requires a secure, cross-origin isolated page.
    const memory = new WebAssembly.Memory({ initial: pages, maximum: pages });
    kernel = { rows: new RowKernel(compiled, memory, 0, capacity), capacity };
    return kernel.rows;
  } catch {
    // The device has too little memory.
    compiled = null;
    return undefined;
  }
}

/** Grading in this worker. */
export const gradingBackend = (): 'kernel' | 'plain' => (compiled ? 'kernel' : 'plain');

/**
 * Grades a whole picture of R'G'B' code values (width × height × 3), see `RowKernel.rgb`: into floats or bytes. Without
 * a kernel `chosen` is not written, and `file` must be absent.
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

/** Grades a whole picture of R'G'B' code values (width × height × 3): encoded output, not clipped. */
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
