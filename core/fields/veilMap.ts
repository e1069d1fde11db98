import type { Vec3 } from '../colour/matrix';
import { luma709 } from '../colour/ycbcr';
import { readPerceptron, runMany, type StoredPerceptron } from '../learned/perceptron';
import stored from '../learned/veil.json';
import { boxMean, boxStatistics, maxFilter, minFilter } from './filters';
import type { LinearPicture } from './map';
import { samplesOf, upsampled, subsampled, type CellFeatures } from './samples';
import { MAP_END } from './transmission';

/** Maximum share of the veil in the light that arrives from an object. */
export const MOST_VEILED = 0.92;

/** Half width of the band of cells that each percentile is averaged over, as a share. */
const AROUND = 0.03;

const roots = (plane: Float32Array): Float32Array => plane.map(Math.sqrt);

/**
 * Features for estimating a cell's veil: its light relative to the veil's colour; the dark channel (He, Sun, Tang 2009)
 * here and in windows of several sizes; contrast, saturation and position; and statistics of the whole picture.
 */
export function veilFeatures({ width, height, rgb }: LinearPicture, veil: Readonly<Vec3>): CellFeatures {
  const cells = width * height;
  const x = [0, 1, 2].map((c) =>
    new Float32Array(cells).map((_, i) => Math.min(1.6, Math.max(0, rgb[3 * i + c] / Math.max(1e-3, veil[c])))),
  );
  const least = x[0].map((v, i) => Math.min(v, x[1][i], x[2][i]));
  const most = x[0].map((v, i) => Math.max(v, x[1][i], x[2][i]));
  const level = x[0].map((v, i) => Math.sqrt(luma709(v, x[1][i], x[2][i])));
  const saturation = least.map((v, i) => (most[i] - v) / Math.max(0.03, most[i]));
  const away = x[0].map(
    (v, i) => (Math.abs(v - x[1][i]) + Math.abs(x[2][i] - x[1][i])) / ((v + x[1][i] + x[2][i]) / 3 + 0.02),
  );
  const mean = (plane: Float32Array, radius: number): Float32Array => boxMean(plane, width, height, radius);
  const darkest = (plane: Float32Array, radius: number): Float32Array => minFilter(plane, width, height, radius);
  const brightest = (plane: Float32Array, radius: number): Float32Array => maxFilter(plane, width, height, radius);
  const contrast = [1, 3, 7].map((radius) => roots(boxStatistics(level, width, height, radius).variance));
  const planes = [
    roots(least),
    ...[1, 3, 7].map((radius) => roots(darkest(least, radius))),
    ...[3, 8].map((radius) => roots(mean(least, radius))),
    roots(brightest(most, 3)),
    roots(darkest(x[0], 3)),
    roots(darkest(x[2], 3)),
    ...contrast,
    mean(level, 3),
    level,
    saturation,
    mean(saturation, 5),
    mean(away, 3),
    roots(brightest(darkest(least, 2), 6)),
  ];
  const sorted = least.slice().sort();
  const sortedLevel = level.slice().sort();
  // Each percentile is averaged over half a per cent on both sides, so that a small object does not decide it.
  const at = (s: Float32Array, share: number): number => {
    const [from, to] = [Math.max(0, share - AROUND), Math.min(1, share + AROUND)].map((p) =>
      Math.round(p * (cells - 1)),
    );
    return s.subarray(from, to + 1).reduce((sum, v) => sum + v, 0) / (to + 1 - from);
  };
  const whole = [
    ...[0.01, 0.1, 0.5, 0.9].map((share) => Math.sqrt(at(sorted, share))),
    at(sortedLevel, 0.01),
    at(sortedLevel, 0.99),
  ];
  const count = planes.length + 1 + whole.length;
  const values = new Float32Array(cells * count);
  for (let i = 0; i < cells; i += 1) {
    const o = i * count;
    planes.forEach((plane, k) => (values[o + k] = plane[i]));
    values[o + planes.length] = Math.floor(i / width) / height;
    values.set(whole, o + planes.length + 1);
  }
  return { width, height, count, values };
}

const estimator = readPerceptron(stored as StoredPerceptron);

/** The veil's share of the light, 0–{@link MOST_VEILED}, cell by cell of features. */
export const veilShares = ({ values }: CellFeatures): Float32Array =>
  runMany(estimator, values).map((v) => MOST_VEILED / (1 + Math.exp(-v)));

/**
 * Optical depth of the veil in front of each cell, 0–1 of {@link MAP_END}. `veil`: its colour, linear. `nearest`: share
 * of the cells that count as near, where the map is 0; without it, depths are as estimated. The estimate is learned
 * from pictures whose veil is known (`demo/known/learn`), so with little evidence it stays at the average.
 */
export function veilMap(picture: LinearPicture, veil: Readonly<Vec3>, nearest?: number): Float32Array {
  const small = subsampled(picture, ...samplesOf(picture));
  const depths = veilShares(veilFeatures(small, veil)).map((m) => -Math.log(1 - m) / MAP_END);
  const near = nearest === undefined ? 0 : depths.slice().sort()[Math.floor(nearest * (depths.length - 1))];
  const smooth = boxMean(depths, small.width, small.height, 1);
  return upsampled(smooth, small, picture).map((v) => Math.max(0, v - near));
}
