import type { Step } from '@inkavo/core/model/grade';
import { LUMA } from '@inkavo/core/colour/ycbcr';
import type { Baked } from '@inkavo/core/program/baked';
import { compile } from '@inkavo/core/program/compile';
import { bakeFor, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { RowGrader } from '@inkavo/core/program/cpu/rowGrader';
import { RowKernel } from '@inkavo/core/program/cpu/rowKernel';
import { needsOf, rowKernelBytes, type RowKernelCapacity } from '@inkavo/core/program/cpu/rowCapacity';
import { kernelModule } from '../kernelFile';

const align = (n: number): number => Math.ceil(n / 64) * 64;
export const formatOf = (part: Partial<PlanarFormat>): PlanarFormat => ({
  width: 70,
  height: 38,
  depth: 8,
  chroma: '420',
  range: 'limited',
  matrix: 'bt709',
  chromaSite: 'left',
  ...part,
});

/** A picture with a gradient from open water to detailed objects that uses all code values. */
export function fill({ format, y, cb, cr }: PlanarPicture): void {
  const max = 2 ** format.depth - 1;
  const noise = (i: number): number => ((i * 7919 + (i >> 3) * 104729) % 1000) / 1000;
  y.forEach((_, i) => (y[i] = max * (i % 17 === 0 ? noise(i) : 0.3 + 0.5 * (i / y.length) * noise(i))));
  for (const plane of [cb, cr])
    plane.forEach((_, i) => (plane[i] = max * (i % 23 === 0 ? noise(i + 5) : 0.5 + 0.1 * Math.sin(i / 40))));
}

/** A kernel with a picture and space for another one in its memory. */
export function setUp(input: PlanarFormat, output: PlanarFormat, capacity: RowKernelCapacity) {
  const inAt = align(rowKernelBytes(capacity));
  const outAt = inAt + align(pictureBytes(input));
  const pages = Math.ceil((outAt + pictureBytes(output) + 64) / 65536);
  const memory = new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true });
  const kernel = new RowKernel(kernelModule()!, memory, 0, capacity);
  const source = planesOver(memory.buffer, input, inAt);
  fill(source);
  return { kernel, source, target: planesOver(memory.buffer, output, outAt) };
}

export const roomOf = (baked: Baked, width: number): RowKernelCapacity => ({ ...needsOf(baked), width });

export function bakedFor(steps: Step[], format: PlanarFormat, seconds = 0, size = 33): Baked {
  const picture = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  fill(picture);
  return bakeFor(compile(steps, seconds), picture, size);
}

/**
 * The maximum difference of two pictures, the share of samples that differ, and of those that differ by more than one
 * code value.
 */
export function apart(a: PlanarPicture, b: PlanarPicture): { most: number; share: number; beyond: number } {
  let [most, off, beyond, n] = [0, 0, 0, 0];
  for (const plane of ['y', 'cb', 'cr'] as const)
    a[plane].forEach((v, i) => {
      const d = Math.abs(v - b[plane][i]);
      most = Math.max(most, d);
      off += d > 0 ? 1 : 0;
      beyond += d > 1 ? 1 : 0;
      n += 1;
    });
  return { most, share: off / n, beyond: beyond / n };
}

/** Rows of floats of the same picture, through the kernel and through the plain backend. */
export function bothRows(
  steps: Step[],
  seconds = 0,
  size: Partial<PlanarFormat> = {},
): { kernel: Float32Array; plain: Float32Array; code: Float32Array } {
  const format = formatOf({ depth: 16, chroma: '444', ...size });
  const baked = bakedFor(steps, format, seconds);
  const { kernel, source } = setUp(format, format, roomOf(baked, format.width));
  const weights = LUMA[format.matrix];
  const code = pictureToRgb(undefined, source);
  const { width, height } = format;
  const [a, b] = [code.slice(), code.slice()];
  const row = (of: Float32Array, y: number): Float32Array => of.subarray(3 * y * width, 3 * (y + 1) * width);
  const grader = new RowGrader(baked, width, height, weights, (y, line) => line.set(row(code, y)));
  for (let y = 0; y < height; y += 1) grader.grade(y, row(a, y));
  kernel.setGrade(baked);
  kernel.rgb(code, b, width, height, weights);
  return { kernel: b, plain: a, code };
}

/** The largest difference between two lists of numbers. */
export const furthest = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  let most = 0;
  for (let i = 0; i < a.length; i += 1) most = Math.max(most, Math.abs(a[i] - b[i]));
  return most;
};
