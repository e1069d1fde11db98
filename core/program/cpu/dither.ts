// 8 × 8 ordered dither matrix (Bayer 1973).
const bayer = (x: number, y: number): number => {
  let v = 0;
  for (let bit = 0; bit < 3; bit += 1) v = (v << 2) | (((((x ^ y) >> bit) & 1) << 1) | ((y >> bit) & 1));
  return v;
};

/**
 * Offset added to sixteenths of a code value before truncation, for 8 × 8 positions: 0–15 in dither order where the
 * depth is reduced, otherwise 8 everywhere.
 */
export const thresholds = (dither: boolean): number[] =>
  Array.from({ length: 64 }, (_, i) => (dither ? bayer(i & 7, i >> 3) >> 2 : 8));

/** The same in units of a code value. */
export const roundings = (dither: boolean): Float32Array =>
  dither ? Float32Array.from(thresholds(true), (t) => (t + 0.5) / 16) : new Float32Array(64).fill(0.5);
