// An 8 × 8 order of thresholds in which neighbours lie far apart (Bayer 1973).
const bayer = (x: number, y: number): number => {
  let v = 0;
  for (let bit = 0; bit < 3; bit += 1) v = (v << 2) | (((((x ^ y) >> bit) & 1) << 1) | ((y >> bit) & 1));
  return v;
};

/**
 * What is added to sixteenths of a code value before the rest is cut off, for 8 × 8 places: 0–15 in an order that
 * spreads the error where the depth is lowered, 8 everywhere where it is not.
 */
export const thresholds = (dither: boolean): number[] =>
  Array.from({ length: 64 }, (_, i) => (dither ? bayer(i & 7, i >> 3) >> 2 : 8));

/** The same as shares of a code value. */
export const roundings = (dither: boolean): Float32Array =>
  dither ? Float32Array.from(thresholds(true), (t) => (t + 0.5) / 16) : new Float32Array(64).fill(0.5);
