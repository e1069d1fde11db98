/** Filters over a single plane (width × height, row-major). Windows are square and truncated at the edges. */

/** Box filter: mean over windows of (2·radius + 1)². */
export function boxMean(plane: ArrayLike<number>, width: number, height: number, radius: number): Float32Array {
  const sums = new Float64Array(width);
  const out = new Float32Array(width * height);
  let rows = 0;
  const addRow = (y: number, sign: 1 | -1): void => {
    rows += sign;
    for (let x = 0, at = y * width; x < width; x += 1, at += 1) sums[x] += sign * plane[at];
  };
  for (let y = 0; y < Math.min(radius, height); y += 1) addRow(y, 1);
  for (let y = 0; y < height; y += 1) {
    if (y + radius < height) addRow(y + radius, 1);
    if (y - radius - 1 >= 0) addRow(y - radius - 1, -1);
    let sum = 0;
    let columns = 0;
    for (let x = 0; x < Math.min(radius, width); x += 1, columns += 1) sum += sums[x];
    for (let x = 0, at = y * width; x < width; x += 1, at += 1) {
      if (x + radius < width) {
        sum += sums[x + radius];
        columns += 1;
      }
      if (x - radius - 1 >= 0) {
        sum -= sums[x - radius - 1];
        columns -= 1;
      }
      out[at] = sum / (columns * rows);
    }
  }
  return out;
}

/**
 * Standard deviation from which three box filters approximate a Gaussian; below it, windows of whole samples are too
 * coarse.
 */
const WIDE = 6;

/**
 * Radii of three box filters whose variances add up to that of a Gaussian (Kovesi 2010, Fast Almost-Gaussian
 * Filtering): the cost does not depend on the width.
 */
function wideMean(plane: Float32Array, width: number, height: number, deviation: number): Float32Array {
  const passes = 3;
  const variance = 12 * deviation * deviation;
  const ideal = Math.sqrt(variance / passes + 1);
  const less = 2 * Math.floor((ideal - 1) / 2) + 1;
  const narrow = Math.round((variance - passes * (less * less + 4 * less + 3)) / (-4 * less - 4));
  let out = plane;
  for (let i = 0; i < passes; i += 1) out = boxMean(out, width, height, (less - 1) / 2 + (i < narrow ? 0 : 1));
  return out;
}

/**
 * Gaussian blur with this standard deviation, in samples; the kernel is truncated at three deviations and at the edges.
 * Wide kernels are approximated by box filters.
 */
export function gaussianMean(plane: Float32Array, width: number, height: number, deviation: number): Float32Array {
  if (deviation >= WIDE) return wideMean(plane, width, height, deviation);
  const radius = Math.ceil(3 * deviation);
  const weights = Float64Array.from({ length: radius + 1 }, (_, i) => Math.exp(-0.5 * (i / deviation) ** 2));
  const pass = (from: Float32Array, count: number, lines: number, step: number, lineStep: number): Float32Array => {
    const out = new Float32Array(from.length);
    for (let line = 0; line < lines; line += 1)
      for (let i = 0, base = line * lineStep; i < count; i += 1) {
        let [sum, weight] = [0, 0];
        for (let k = Math.max(0, i - radius); k <= Math.min(count - 1, i + radius); k += 1) {
          const w = weights[k < i ? i - k : k - i];
          sum += w * from[base + k * step];
          weight += w;
        }
        out[base + i * step] = sum / weight;
      }
    return out;
  };
  return pass(pass(plane, width, height, 1, width), height, width, width, 1);
}

/** Minimum (sign 1) or maximum (sign −1) filter with windows of (2·radius + 1)². */
function extreme(plane: Float32Array, width: number, height: number, radius: number, sign: 1 | -1): Float32Array {
  const pass = (from: Float32Array, count: number, lines: number, step: number, lineStep: number): Float32Array => {
    const out = new Float32Array(from.length);
    // Monotonic queue of candidate indices, best first: each sample enters and leaves once.
    const queue = new Int32Array(count);
    for (let line = 0; line < lines; line += 1) {
      const base = line * lineStep;
      let [head, tail] = [0, 0];
      for (let i = 0; i < count + radius; i += 1) {
        if (i < count) {
          const value = sign * from[base + i * step];
          while (tail > head && sign * from[base + queue[tail - 1] * step] >= value) tail -= 1;
          queue[tail] = i;
          tail += 1;
        }
        const at = i - radius;
        if (at < 0) continue;
        if (queue[head] < at - radius) head += 1;
        out[base + at * step] = from[base + queue[head] * step];
      }
    }
    return out;
  };
  return pass(pass(plane, width, height, 1, width), height, width, width, 1);
}

/** Minimum filter with windows of (2·radius + 1)². */
export const minFilter = (plane: Float32Array, width: number, height: number, radius: number): Float32Array =>
  extreme(plane, width, height, radius, 1);

/** Maximum filter with windows of (2·radius + 1)². */
export const maxFilter = (plane: Float32Array, width: number, height: number, radius: number): Float32Array =>
  extreme(plane, width, height, radius, -1);

/** Mean and variance in each window. */
export function boxStatistics(
  plane: Float32Array,
  width: number,
  height: number,
  radius: number,
): { mean: Float32Array; variance: Float32Array } {
  const mean = boxMean(plane, width, height, radius);
  const squares = boxMean(plane.map((v) => v * v) as Float32Array, width, height, radius);
  return { mean, variance: squares.map((s, i) => Math.max(0, s - mean[i] * mean[i])) };
}

/**
 * The guided filter of He, Sun, Tang (2010/2013) with a grey guide, returned as its averaged coefficients a and b
 * (interleaved, width × height × 2): the filtered plane is a · guide + b. Interpolated to a larger guide of the same
 * picture they give the filtered plane at that size (He, Sun 2015, fast guided filter).
 */
export function guidedCoefficients(
  guide: Float32Array,
  plane: Float32Array,
  width: number,
  height: number,
  radius: number,
  epsilon: number,
): Float32Array {
  const { mean, variance } = boxStatistics(guide, width, height, radius);
  const meanP = boxMean(plane, width, height, radius);
  const products = boxMean(guide.map((g, i) => g * plane[i]) as Float32Array, width, height, radius);
  const a = products.map((s, i) => (s - mean[i] * meanP[i]) / (variance[i] + epsilon));
  const b = meanP.map((p, i) => p - a[i] * mean[i]);
  const [meanA, meanB] = [a, b].map((k) => boxMean(k, width, height, radius));
  const out = new Float32Array(width * height * 2);
  for (let i = 0; i < width * height; i += 1) {
    out[2 * i] = meanA[i];
    out[2 * i + 1] = meanB[i];
  }
  return out;
}
