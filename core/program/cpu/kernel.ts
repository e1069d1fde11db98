import { codeScale, inverseMatrix, LUMA } from '../../colour/ycbcr';
import type { Table } from '../bake';
import { TABLE_DOMAIN } from '../compile';
import { thresholds } from './dither';
import type { PlanarFormat } from './planar';

/** Exports of the compiled kernel. All addresses are byte offsets into its memory. */
export interface KernelExports {
  setInput(
    wide: number,
    ys: number,
    cs: number,
    middle: number,
    y: number,
    off: number,
    rv: number,
    gu: number,
    gv: number,
    bu: number,
  ): void;
  setOutput(
    wide: number,
    r: number,
    g: number,
    b: number,
    u: number,
    v: number,
    ys: number,
    yo: number,
    cs: number,
    co: number,
  ): void;
  gradeRows(
    table: number,
    nodeBits: number,
    inY: number,
    inU: number,
    inV: number,
    outY: number,
    outU: number,
    outV: number,
    width: number,
    height: number,
    from: number,
    to: number,
    scratch: number,
    pattern: number,
  ): void;
}

/** Value of 1 in a node of the kernel's table. */
export const ONE = 8192;
const Q15 = 32768;
export const PATTERN_BYTES = 8 * 8 * 2;
/** Bytes for the lookups of eight pixels at a time, see `wasm/blocks.ts`. */
export const LANES_BYTES = 256;

/** Table sizes that the kernel supports: nodes per edge, and bits of a node's index. */
export const NODE_BITS: Record<number, number> = { 33: 5, 65: 6 };

/** Whether the kernel can convert between these formats; otherwise the plain backend is used. */
export function kernelTakes(input: PlanarFormat, output: PlanarFormat, tableSize: number): boolean {
  const fits = (f: PlanarFormat): boolean => f.chroma === '420' && f.chromaSite === 'left' && f.depth <= 10;
  return fits(input) && fits(output) && input.width % 2 === 0 && input.width >= 16 && tableSize in NODE_BITS;
}

/** Bytes of a table in the kernel's memory. */
export const kernelTableBytes = (size: number): number => size ** 3 * 8;
/** Bytes of working memory per thread. */
export const kernelScratchBytes = (width: number): number => PATTERN_BYTES + 6 * (2 * width + 64) + LANES_BYTES;

/** Writes a table in the kernel's format: int16, 8192 for 1, clamped to ±4. */
export function writeKernelTable(table: Table, into: Int16Array): void {
  for (let i = 0; i < table.data.length; i += 1)
    into[i] = Math.max(-Q15, Math.min(Q15 - 1, Math.round(table.data[i] * ONE)));
}

/** A Q15 product with the kernel's rounding. */
const timesQ15 = (a: number, b: number): number => (a * b + 16384) >> 15;

/** The integer factor and offset that minimise the error of luma codes over all codes of a depth. */
function lumaFactors(depth: number, factor: number, offset: number): [factor: number, offset: number] {
  let best: [number, number] = [0, 0];
  let least = Infinity;
  for (const f of [Math.floor(factor), Math.ceil(factor)]) {
    for (const o of [Math.floor(offset), Math.ceil(offset)]) {
      let worst = 0;
      for (let code = 0; code < 2 ** depth; code += 1) {
        const exact = (code * factor) / 2 ** depth + offset;
        worst = Math.max(worst, Math.abs(timesQ15(code << (15 - depth), f) + o - exact));
      }
      if (worst < least) [best, least] = [[f, o], worst];
    }
  }
  return best;
}

/** Addresses of the three planes of a picture that starts at `at`. */
export function planesAt(at: number, f: PlanarFormat): [number, number, number] {
  const bytes = f.depth === 8 ? 1 : 2;
  const y = f.width * f.height * bytes;
  const c = (f.width >> 1) * ((f.height + 1) >> 1) * bytes;
  return [at, at + y, at + y + c];
}

function setInput(code: KernelExports, { depth, range, matrix }: PlanarFormat): void {
  const s = codeScale(depth, range);
  const m = inverseMatrix(matrix);
  const [lo, hi] = TABLE_DOMAIN;
  const span = hi - lo;
  const luma = 2 ** depth / s.yScale / span;
  const chroma = 2 ** (depth - 1) / s.cScale / span;
  const offset = (-lo - s.yOffset / s.yScale) / span;
  const [y, off] = lumaFactors(depth, luma * Q15, offset * Q15);
  code.setInput(
    depth === 8 ? 0 : 1,
    15 - depth,
    13 - depth,
    s.cOffset,
    y,
    off,
    ...([m.rv, m.gu, m.gv, m.bu].map((k) => Math.round(k * chroma * Q15)) as [number, number, number, number]),
  );
}

function setOutput(code: KernelExports, { depth, range, matrix }: PlanarFormat): void {
  const s = codeScale(depth, range);
  const [r, g, b] = LUMA[matrix];
  const q = (v: number): number => Math.round(v * Q15);
  code.setOutput(
    depth === 8 ? 0 : 1,
    q(r),
    q(g),
    q(b),
    q(0.5 / (1 - b)),
    q(0.5 / (1 - r)),
    s.yScale * 16,
    s.yOffset,
    s.cScale / 2,
    s.cOffset,
  );
}

/** Configures a compiled kernel for one pair of formats; `pattern`: an address with {@link PATTERN_BYTES} free. */
export function setFormats(
  code: KernelExports,
  memory: WebAssembly.Memory,
  pattern: number,
  input: PlanarFormat,
  output: PlanarFormat,
): void {
  new Int16Array(memory.buffer, pattern, 64).set(thresholds(output.depth < input.depth));
  setInput(code, input);
  setOutput(code, output);
}

/** The kernel, configured for one pair of formats; see {@link kernelTakes}. One instance per thread. */
export class Kernel {
  private readonly code: KernelExports;
  private readonly pattern: number;

  /**
   * `module`: the compiled kernel. `memory`: shared, holds pictures, tables and scratch space. `scratch`: an address
   * with {@link kernelScratchBytes} free, a multiple of 16.
   */
  constructor(
    module: WebAssembly.Module,
    memory: WebAssembly.Memory,
    private readonly input: PlanarFormat,
    private readonly output: PlanarFormat,
    scratch: number,
  ) {
    this.code = new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as KernelExports;
    this.pattern = scratch;
    setFormats(this.code, memory, scratch, input, output);
  }

  /**
   * Grades the picture at address `from` into the one at `to`, with the table at `table`. Addresses are multiples of
   * 16.
   */
  grade(table: number, size: number, from: number, to: number): void {
    const { width, height } = this.input;
    const scratch = this.pattern + PATTERN_BYTES;
    this.code.gradeRows(
      table,
      NODE_BITS[size],
      ...planesAt(from, this.input),
      ...planesAt(to, this.output),
      width,
      height,
      0,
      height,
      scratch,
      this.pattern,
    );
  }
}
