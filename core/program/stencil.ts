/** Truncation of the window in standard deviations: 0.3 % of the weight lies beyond. */
const REACH = 3;
/** With a smaller standard deviation, in pixels, a neighbour's weight is below 4e-6 and has no visible effect. */
const LEAST = 0.2;

/** Weights of a Gaussian along one axis: of the centre, then of the neighbours on either side; they sum to 1. */
export interface Taps {
  radius: number;
  weights: Float32Array;
}

/** Window radius in pixels for a standard deviation; 0: no effect. */
export const radiusOf = (deviation: number): number => (deviation < LEAST ? 0 : Math.ceil(REACH * deviation));

/** Weights for a standard deviation in pixels; a radius of 0: no effect. */
export function tapsOf(deviation: number): Taps {
  const radius = radiusOf(deviation);
  const weights = Float32Array.from({ length: radius + 1 }, (_, i) => (i ? Math.exp(-0.5 * (i / deviation) ** 2) : 1));
  const sum = weights.reduce((s, w, i) => s + (i ? 2 * w : w), 0);
  return { radius, weights: weights.map((w) => w / sum) };
}
