import type { Vec3 } from '../../colour/matrix';
import { water, type WaterParams } from './index';

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
