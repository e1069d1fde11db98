import { decode709 } from '../colour/transferTables';
import type { Vec3 } from '../colour/matrix';
import type { LinearPicture } from '../fields/map';
import type { SmallPicture } from '../fields/smallPicture';

/** Cells of frames as they enter a step: linear light and its encoding. */
export interface ReadFrame extends LinearPicture {
  encoded: Float32Array;
}

/**
 * Applies the earlier steps to a small picture: a function of a colour and its cell index to encoded values; without
 * one it is standard video as recorded.
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

/** Median; 0 for an empty list. */
export function median(values: ArrayLike<number>): number {
  if (values.length === 0) return 0;
  const sorted = Float64Array.from(values).sort();
  return sorted[sorted.length >> 1];
}

/** Values at the given quantiles; 0 for an empty list. */
export function percentiles(values: ArrayLike<number>, shares: readonly number[]): number[] {
  if (values.length === 0) return shares.map(() => 0);
  const sorted = Float64Array.from(values).sort();
  return shares.map((share) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]);
}

/** Value at a quantile; 0 for an empty list. */
export const percentile = (values: ArrayLike<number>, share: number): number => percentiles(values, [share])[0];

/** At most this many items, evenly spaced over a list. */
export const spread = <T>(list: readonly T[], most: number): T[] =>
  list.filter((_, i) => Math.floor((i * most) / list.length) !== Math.floor(((i - 1) * most) / list.length));
