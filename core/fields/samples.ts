import type { LinearPicture } from './map';
import { subsampledCells, subsample } from './subsample';

/** Samples across a frame for estimating maps that vary slowly. */
const ACROSS = 64;

/** Numbers about each sample of a picture, `count` for each. */
export interface CellFeatures {
  width: number;
  height: number;
  count: number;
  values: Float32Array;
}

interface Size {
  width: number;
  height: number;
}

/**
 * Size to which a picture is subsampled: windows of samples then have the sizes that the estimates were trained with.
 */
export function samplesOf({ width, height }: Size): [across: number, down: number] {
  const across = Math.min(width, ACROSS);
  return [across, Math.max(2, Math.round((across * height) / width))];
}

/** Indices of the cells that a sample-based estimate reads in a picture of this size. */
export const sampledCells = (width: number, height: number): Int32Array =>
  subsampledCells(width, height, ...samplesOf({ width, height }));

/** A picture subsampled to that size. */
export const subsampled = ({ width, height, rgb }: LinearPicture, across: number, down: number): LinearPicture => ({
  width: across,
  height: down,
  rgb: subsample(rgb, width, height, across, down),
});

/** Sample values interpolated to every cell of the picture. */
export function upsampled(values: Float32Array, small: Size, { width, height }: Size): Float32Array {
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y += 1) {
    const v = Math.min(small.height - 1, Math.max(0, ((y + 0.5) * small.height) / height - 0.5));
    const top = Math.floor(v);
    const low = Math.min(small.height - 1, top + 1);
    for (let x = 0; x < width; x += 1) {
      const u = Math.min(small.width - 1, Math.max(0, ((x + 0.5) * small.width) / width - 0.5));
      const left = Math.floor(u);
      const right = Math.min(small.width - 1, left + 1);
      const of = (row: number): number =>
        values[row * small.width + left] +
        (u - left) * (values[row * small.width + right] - values[row * small.width + left]);
      out[y * width + x] = of(top) + (v - top) * (of(low) - of(top));
    }
  }
  return out;
}
