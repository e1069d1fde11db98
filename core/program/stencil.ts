/** Where windows end, in standard deviations: what lies beyond has 0.3 % of the weight. */
const REACH = 3;
/** With a narrower one, in pixels, a neighbour's weight is less than 4e-6: there is nothing to be seen. */
const LEAST = 0.2;

/** Weights of a Gaussian in one direction: of the middle, then of the neighbours on either side; together 1. */
export interface Taps {
  radius: number;
  weights: Float32Array;
}

/** Neighbours on either side that a standard deviation in pixels reaches; 0: nothing changes. */
export const radiusOf = (deviation: number): number => (deviation < LEAST ? 0 : Math.ceil(REACH * deviation));

/** Weights for a standard deviation in pixels; a radius of 0: nothing changes. */
export function tapsOf(deviation: number): Taps {
  const radius = radiusOf(deviation);
  const weights = Float32Array.from({ length: radius + 1 }, (_, i) => (i ? Math.exp(-0.5 * (i / deviation) ** 2) : 1));
  const sum = weights.reduce((s, w, i) => s + (i ? 2 * w : w), 0);
  return { radius, weights: weights.map((w) => w / sum) };
}
