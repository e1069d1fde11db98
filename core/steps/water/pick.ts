import type { Vec3 } from '../../colour/matrix';
import { water, waterLeft, type WaterParams } from './index';

/** Depths that are tried, in metres. */
const DEEPEST = 60;
const DEPTH_STEP = 0.25;

/** The depth at which water of this kind makes a neutral thing look most like a colour (linear, all above 0). */
export function depthForNeutral(params: WaterParams, colour: Readonly<Vec3>, across: number): number {
  let best = { depth: 0, off: Infinity };
  for (let depth = 0; depth <= DEEPEST; depth += DEPTH_STEP) {
    const left = waterLeft(params, depth, across);
    const red = Math.log(left[0] / left[1]) - Math.log(colour[0] / colour[1]);
    const blue = Math.log(left[2] / left[1]) - Math.log(colour[2] / colour[1]);
    const off = red * red + blue * blue;
    if (off < best.off) best = { depth, off };
  }
  return best.depth;
}

/** What a measured loss may be, against the model's. */
const [LEAST, MOST] = [0.25, 4];
const ROUNDS = 40;

/**
 * Fits the losses of red and blue so that a colour comes out neutral. `colour`: linear, as it enters the step; `map`:
 * the step's map there, 0–1. Needs a depth or a distance, or there is nothing to fit: null. Null also for a colour
 * with a channel at or below 0.
 */
export function fitNeutral(
  params: WaterParams,
  colour: Readonly<Vec3>,
  map: number,
): Pick<WaterParams, 'fitRed' | 'fitBlue'> | null {
  if (Math.min(...colour) <= 0 || (params.depth === 0 && params.distance === 0 && map === 0)) return null;
  const fit = { fitRed: params.fitRed, fitBlue: params.fitBlue };
  // More loss means more gain: each channel rises against green with its own fit, and hardly with the other's.
  for (const [key, c] of [
    ['fitRed', 0],
    ['fitBlue', 2],
    ['fitRed', 0],
    ['fitBlue', 2],
  ] as const) {
    let [low, high] = [Math.log(LEAST), Math.log(MOST)];
    for (let k = 0; k < ROUNDS; k += 1) {
      const middle = (low + high) / 2;
      const rgb: Vec3 = [colour[0], colour[1], colour[2]];
      water.prepare({ ...params, ...fit, [key]: Math.exp(middle) })(rgb, map);
      if (rgb[c] > rgb[1]) high = middle;
      else low = middle;
    }
    fit[key] = Math.exp((low + high) / 2);
  }
  return fit;
}
