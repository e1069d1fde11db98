import { decode709 } from '../colour/transferTables';
import type { Vec3 } from '../colour/matrix';
import type { LinearPicture } from '../fields/map';
import type { SmallPicture } from '../fields/smallPicture';

/** Frames as they enter a step, cell by cell: linear light and its encoding. */
export interface ReadFrame extends LinearPicture {
  encoded: Float32Array;
}

/**
 * Takes a small picture through what comes before, which takes a colour and its cell to encoded values; without it, it
 * is standard video as recorded.
 */
export function readFrame(small: SmallPicture, before?: (rgb: Vec3, cell: number) => void): ReadFrame {
  const { width, height, code } = small;
  const rgb = new Float32Array(code.length);
  const encoded = new Float32Array(code);
  const c: Vec3 = [0, 0, 0];
  for (let i = 0; i < width * height; i += 1) {
    if (before) {
      for (let k = 0; k < 3; k += 1) c[k] = code[3 * i + k];
      before(c, i);
      encoded.set(c, 3 * i);
    }
    for (let k = 3 * i; k < 3 * i + 3; k += 1) rgb[k] = decode709(encoded[k]);
  }
  return { width, height, rgb, encoded };
}

/** Median of numbers; 0 for none. */
export function median(values: ArrayLike<number>): number {
  if (values.length === 0) return 0;
  const sorted = Float64Array.from(values).sort();
  return sorted[sorted.length >> 1];
}

/** Values below which shares of the numbers lie; 0 for none. */
export function percentiles(values: ArrayLike<number>, shares: readonly number[]): number[] {
  if (values.length === 0) return shares.map(() => 0);
  const sorted = Float64Array.from(values).sort();
  return shares.map((share) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]);
}

/** Value below which a share of the numbers lies; 0 for none. */
export const percentile = (values: ArrayLike<number>, share: number): number => percentiles(values, [share])[0];

/** Items spread evenly over a list, so many at most. */
export const spread = <T>(list: readonly T[], most: number): T[] =>
  list.filter((_, i) => Math.floor((i * most) / list.length) !== Math.floor(((i - 1) * most) / list.length));
