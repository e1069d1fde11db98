/** A tone curve on one encoded channel, finite for every finite input. */
export type Tone = (x: number) => number;

/**
 * Moves the middle: 0.5 maps to 0.5 + shift (|shift| < 0.5) while 0 and 1 are fixed. Schlick's bias (1994): increasing,
 * smooth, with a finite slope at both ends, with which it is extrapolated outside 0–1.
 */
export function midTone(shift: number): Tone {
  const k = 1 / (0.5 + shift) - 2;
  const slope0 = 1 / (k + 1);
  const slope1 = k + 1;
  return (x) => {
    if (x <= 0) return x * slope0;
    if (x >= 1) return 1 + (x - 1) * slope1;
    return x / (k * (1 - x) + 1);
  };
}

/**
 * Soft ends: within `size` of 0 and 1 values approach the ends asymptotically; continuous slope. `size` 0–0.25; 0 is
 * off.
 */
export function softEnds(size: number): Tone {
  const bend = (over: number): number => (size * over) / (size + over);
  return (x) => {
    if (x > 1 - size) return 1 - size + bend(x - (1 - size));
    if (x < size) return size - bend(size - x);
    return x;
  };
}

/** A monotone piecewise cubic through points with increasing x: Fritsch, Carlson (1980); extrapolated linearly. */
export function monotoneCubic(xs: readonly number[], ys: readonly number[]): Tone {
  const n = xs.length;
  const secant: number[] = [];
  for (let i = 0; i < n - 1; i += 1) secant.push((ys[i + 1] - ys[i]) / (xs[i + 1] - xs[i]));
  const m = xs.map((_, i) => {
    if (i === 0) return secant[0];
    if (i === n - 1) return secant[n - 2];
    return secant[i - 1] * secant[i] <= 0 ? 0 : (secant[i - 1] + secant[i]) / 2;
  });
  for (let i = 0; i < n - 1; i += 1) {
    if (secant[i] === 0) {
      m[i] = 0;
      m[i + 1] = 0;
      continue;
    }
    const [a, b] = [m[i] / secant[i], m[i + 1] / secant[i]];
    const s = a * a + b * b;
    if (s > 9) {
      const t = 3 / Math.sqrt(s);
      m[i] = t * a * secant[i];
      m[i + 1] = t * b * secant[i];
    }
  }
  return (x) => {
    if (x <= xs[0]) return ys[0] + (x - xs[0]) * m[0];
    if (x >= xs[n - 1]) return ys[n - 1] + (x - xs[n - 1]) * m[n - 1];
    let i = 0;
    while (x > xs[i + 1]) i += 1;
    const h = xs[i + 1] - xs[i];
    const t = (x - xs[i]) / h;
    const u = 1 - t;
    return (
      u * u * (1 + 2 * t) * ys[i] + t * u * u * h * m[i] + t * t * (3 - 2 * t) * ys[i + 1] - t * t * u * h * m[i + 1]
    );
  };
}

/** Input tones of the five levels. */
export const LEVEL_CENTRES = [0, 0.25, 0.5, 0.75, 1] as const;
/** Minimum distance between levels, so that tones never swap order. */
const MIN_GAP = 0.01;

/** Five levels: each moves its tone by `shifts[i]`, the others stay, tones in between are interpolated smoothly. */
export function fiveLevels(shifts: readonly number[]): Tone {
  const ys = LEVEL_CENTRES.map((x, i) => x + shifts[i]);
  for (let i = 1; i < ys.length; i += 1) ys[i] = Math.max(ys[i], ys[i - 1] + MIN_GAP);
  return monotoneCubic(LEVEL_CENTRES, ys);
}
