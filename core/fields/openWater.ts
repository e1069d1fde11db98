import { luma709 } from '../colour/ycbcr';
import { readPerceptron, runMany, type Perceptron, type StoredPerceptron } from '../learned/perceptron';
import stored from '../learned/openWater.json';
import { boxMean, boxStatistics, maxFilter } from './filters';
import type { LinearPicture } from './map';
import { samplesOf, upsampled, subsampled, type CellFeatures } from './samples';

/** Offset (linear light) added before taking logarithms: below it, noise would dominate. */
const DARK = 0.004;
/** Contrast (log2 of light) below which a sample counts as smooth. */
const SMOOTH = 0.08;

/** log2 of a contrast below which differences are ignored. */
const LEAST_CONTRAST = 0.01;
const contrastOf = (variance: Float32Array): Float32Array =>
  variance.map((v) => Math.log2(LEAST_CONTRAST + Math.sqrt(Math.max(0, v))));

function percentile(plane: Float32Array, share: number): number {
  return plane.slice().sort()[Math.round(share * (plane.length - 1))];
}

/** Weighted mean of a plane. */
function weightedMean(plane: Float32Array, weights: Float32Array): number {
  let [sum, total] = [0, 0];
  plane.forEach((v, i) => {
    sum += weights[i] * v;
    total += weights[i];
  });
  return sum / total;
}

/** Mean of the samples at and above each sample in its column. */
function meanAbove(plane: Float32Array, width: number): Float32Array {
  const out = new Float32Array(plane.length);
  plane.forEach((v, i) => {
    out[i] = i < width ? v : out[i - width] + v;
  });
  return out.map((v, i) => v / (Math.floor(i / width) + 1));
}

/** Features per sample and the values they are derived from: log2 of light, and of red and blue over green. */
export interface OpenWaterFeatures extends CellFeatures {
  level: Float32Array;
  red: Float32Array;
  blue: Float32Array;
}

/**
 * What distinguishes open water from objects in it: how smooth a sample's surroundings are, absolutely and after a
 * linear gradient is removed; its light and colour relative to the whole frame and to the frame's smooth parts; its
 * position. Red, green and blue are linear; `values` are log2 ratios and shares.
 */
export function openWaterFeatures({ width, height, rgb }: LinearPicture): OpenWaterFeatures {
  const cells = width * height;
  const [level, red, blue] = [new Float32Array(cells), new Float32Array(cells), new Float32Array(cells)];
  for (let i = 0, o = 0; i < cells; i += 1, o += 3) {
    const [r, g, b] = [Math.max(0, rgb[o]) + DARK, Math.max(0, rgb[o + 1]) + DARK, Math.max(0, rgb[o + 2]) + DARK];
    level[i] = Math.log2(luma709(r, g, b));
    red[i] = Math.log2(r / g);
    blue[i] = Math.log2(b / g);
  }
  const mean = (plane: Float32Array, radius: number): Float32Array => boxMean(plane, width, height, radius);
  const contrast = (plane: Float32Array, radius: number): Float32Array =>
    contrastOf(boxStatistics(plane, width, height, radius).variance);
  // Median-filtered, to ignore particles drifting in the water.
  const even = mean(level, 1);
  const local = mean(level, 2);
  // A linear gradient leaves no residual.
  const rough = mean(
    level.map((v, i) => Math.abs(v - local[i])),
    3,
  );
  const contrasts = [1, 2, 4, 8].map((radius) => contrast(level, radius));
  const smooth = boxStatistics(level, width, height, 1).variance.map((v) => (v < SMOOTH * SMOOTH ? 1 : 0));
  const weights = rough.map((v) => 1 / (0.01 + v) ** 2);
  const [smoothLevel, smoothRed, smoothBlue] = [level, red, blue].map((plane) => weightedMean(plane, weights));
  const median = [level, red, blue].map((plane) => percentile(plane, 0.5));
  const upDown = new Float32Array(cells).map((_, i) =>
    i >= width && i < cells - width ? level[i - width] - level[i + width] : 0,
  );
  const planes = [
    ...contrasts,
    ...[3, 6].map((radius) => contrast(even, radius)),
    ...[red, blue].flatMap((plane) => [contrast(plane, 1), contrast(plane, 4), contrast(mean(plane, 1), 4)]),
    rough.map((v) => Math.log2(LEAST_CONTRAST + v)),
    maxFilter(contrasts[0], width, height, 2),
    meanAbove(contrasts[0], width),
    mean(smooth, 4),
    mean(upDown, 3),
    level.map((v) => v - median[0]),
    red,
    blue,
    red.map((v) => v - median[1]),
    blue.map((v) => v - median[2]),
    level.map((v) => v - smoothLevel),
    red.map((v) => Math.abs(v - smoothRed)),
    blue.map((v) => Math.abs(v - smoothBlue)),
  ];
  const whole = [
    percentile(level, 0.99) - percentile(level, 0.01),
    percentile(contrasts[0], 0.2),
    percentile(contrasts[0], 0.8),
    mean(smooth, Math.max(width, height))[0],
    median[1],
    median[2],
    smoothLevel - median[0],
    smoothRed - median[1],
    smoothBlue - median[2],
  ];
  const count = planes.length + 2 + whole.length;
  const values = new Float32Array(cells * count);
  for (let i = 0; i < cells; i += 1) {
    const o = i * count;
    planes.forEach((plane, k) => (values[o + k] = plane[i]));
    values[o + planes.length] = Math.floor(i / width) / height;
    values[o + planes.length + 1] = Math.abs((2 * ((i % width) + 0.5)) / width - 1);
    values.set(whole, o + planes.length + 2);
  }
  return { width, height, count, values, level, red, blue };
}

/**
 * Radius in samples over which open water is expected to be consistent, and the weight of the whole frame beside it.
 */
const ALIKE = 8;
const FAR_WEIGHT = 0.02;

/**
 * Features of the second estimate: the same, plus the first estimate around the sample and over the whole frame, and
 * how far the sample's colour is from what was taken for open water, locally and globally (auto-context, Tu 2008).
 */
export function withContext(features: OpenWaterFeatures, first: Float32Array): CellFeatures {
  const { width, height, count, values } = features;
  const mean = (plane: Float32Array, radius: number): Float32Array => boxMean(plane, width, height, radius);
  const weights = first.map((v) => v * v + 1e-4);
  const nearWeights = mean(weights, ALIKE);
  const away = (['level', 'red', 'blue'] as const).flatMap((name) => {
    const plane = features[name];
    const whole = weightedMean(plane, weights);
    const near = mean(
      plane.map((v, i) => v * weights[i]),
      ALIKE,
    );
    const local = near.map((v, i) => (v + FAR_WEIGHT * whole) / (nearWeights[i] + FAR_WEIGHT));
    return [plane.map((v) => v - whole), plane.map((v, i) => Math.abs(v - local[i]))];
  });
  const shares = [1, 3, 7].map((radius) => mean(first, radius));
  const open = first.reduce((sum, v) => sum + v, 0) / first.length;
  const planes = [...shares, ...away];
  const more = planes.length + 1;
  const out = new Float32Array(first.length * (count + more));
  for (let i = 0; i < first.length; i += 1) {
    const o = i * (count + more);
    out.set(values.subarray(i * count, (i + 1) * count), o);
    planes.forEach((plane, k) => (out[o + count + k] = plane[i]));
    out[o + count + more - 1] = open;
  }
  return { width, height, count: count + more, values: out };
}

/** Radius in samples over which the likelihood is averaged, so that no single sample stands out. */
const AROUND = 2;

const [FIRST, SECOND] = (stored as StoredPerceptron[]).map(readPerceptron);

/**
 * Estimated at every second sample in both directions and interpolated: a quarter of the time for nearly the same map.
 */
function sharesBy(estimator: Perceptron, { width, height, count, values }: CellFeatures): Float32Array {
  const [columns, rows] = [Math.ceil(width / 2), Math.ceil(height / 2)];
  const some = new Float32Array(columns * rows * count);
  for (let row = 0, o = 0; row < rows; row += 1)
    for (let column = 0; column < columns; column += 1, o += count) {
      const at = count * (2 * row * width + 2 * column);
      some.set(values.subarray(at, at + count), o);
    }
  const shares = runMany(estimator, some).map((v) => 1 / (1 + Math.exp(-v)));
  return new Float32Array(width * height).map((_, i) => {
    const [x, y] = [(i % width) / 2, Math.floor(i / width) / 2];
    const [left, top] = [Math.floor(x), Math.floor(y)];
    const [right, low] = [Math.min(columns - 1, Math.ceil(x)), Math.min(rows - 1, Math.ceil(y))];
    const sum =
      shares[top * columns + left] +
      shares[top * columns + right] +
      shares[low * columns + left] +
      shares[low * columns + right];
    return sum / 4;
  });
}

/** The first estimate of how likely each sample is open water, 0–1, from its own surroundings. */
export const firstShares = (features: OpenWaterFeatures): Float32Array => sharesBy(FIRST, features);

/** How likely each sample of features is open water, 0–1. */
export const openWaterShares = (features: OpenWaterFeatures): Float32Array =>
  coherent(features, sharesBy(SECOND, withContext(features, firstShares(features))));

/**
 * Colours count as similar within this many stops of light, and this much of red and blue over green (log2). These and
 * the following constants were chosen by looking at twelve known cases of the validation part, until patches of colour
 * in grey water disappeared.
 */
const BIN = { level: 0.7, red: 0.12, blue: 0.12 };
const BINS = 1 << 10;
/** Change of light between neighbours (log2) from which a sample has less influence on other smooth ones. */
const EVEN = 0.06;
/** Maximum excess of a sample's likelihood over that of samples of similar colour. */
const LEEWAY = 0.1;

/**
 * Limits the likelihood of a sample to that of smooth samples of similar colour: where some are taken for open water
 * and others, equally smooth and of the same colour, are not, the evidence is too weak to treat them differently.
 */
function coherent({ level, red, blue, width, height }: OpenWaterFeatures, shares: Float32Array): Float32Array {
  const local = boxMean(level, width, height, 2);
  const binOf = (value: number, size: number): number => Math.round(value / size) + BINS / 2;
  const keyOf = (l: number, r: number, b: number): number => (l * BINS + r) * BINS + b;
  const bins = Array.from(level, (v, i): [number, number, number] => [
    binOf(v, BIN.level),
    binOf(red[i], BIN.red),
    binOf(blue[i], BIN.blue),
  ]);
  const sums = new Map<number, [sum: number, weight: number]>();
  bins.forEach(([l, r, b], i) => {
    const weight = 1 / (1 + ((level[i] - local[i]) / EVEN) ** 2);
    const key = keyOf(l, r, b);
    const [sum, total] = sums.get(key) ?? [0, 0];
    sums.set(key, [sum + weight * shares[i], total + weight]);
  });
  const alike = new Map<number, number>();
  const shareOf = ([l, r, b]: readonly [number, number, number]): number => {
    const key = keyOf(l, r, b);
    const known = alike.get(key);
    if (known !== undefined) return known;
    let [sum, total] = [0, 0];
    for (let dl = -1; dl <= 1; dl += 1)
      for (let dr = -1; dr <= 1; dr += 1)
        for (let db = -1; db <= 1; db += 1) {
          const bin = sums.get(keyOf(l + dl, r + dr, b + db));
          if (!bin) continue;
          sum += bin[0];
          total += bin[1];
        }
    const share = sum / Math.max(1e-9, total);
    alike.set(key, share);
    return share;
  };
  return shares.map((v, i) => Math.min(v, shareOf(bins[i]) + LEEWAY));
}

/** A frame's samples, the input of {@link openWaterFeatures}. */
export const openWaterSamples = (picture: LinearPicture): LinearPicture => subsampled(picture, ...samplesOf(picture));

/** Cache of recent results: the steps that follow are tried many times on the same few frames. */
const found: { samples: Float32Array; shares: Float32Array }[] = [];
const FOUND = 8;

/** {@link openWaterShares} of a picture's samples. */
function sharesIn(samples: LinearPicture): Float32Array {
  const known = found.find(
    (f) => f.samples.length === samples.rgb.length && f.samples.every((v, i) => v === samples.rgb[i]),
  );
  if (known) return known.shares;
  const shares = openWaterShares(openWaterFeatures(samples));
  if (found.length >= FOUND) found.shift();
  found.push({ samples: samples.rgb, shares });
  return shares;
}

/**
 * How likely each cell of a frame shows open water with no object in front of it, 0–1. Learned from known pictures
 * under water, with and without open water (`demo/known/learn/openWater.ts`); uncertain samples stay in between.
 */
export function openWaterMap(picture: LinearPicture): Float32Array {
  const small = openWaterSamples(picture);
  return upsampled(boxMean(sharesIn(small), small.width, small.height, AROUND), small, picture);
}
