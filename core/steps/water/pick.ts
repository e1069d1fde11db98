import type { Vec3 } from '../../colour/matrix';
import { FIT_LIMITS, water, waterLeft, type WaterParams } from './index';
import { WATER_TYPES } from './waters';

/** Candidate depths in metres. */
const DEEPEST = 60;
const DEPTH_STEP = 0.25;

/** The depth at which water of this type makes a neutral object look most like a colour (linear, all above 0). */
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

const ROUNDS = 40;

/** The losses of red and blue that make a colour neutral, within their limits; null where there is nothing to fit. */
function fitLosses(
  params: WaterParams,
  colour: Readonly<Vec3>,
  map: number,
): Pick<WaterParams, 'fitRed' | 'fitBlue'> | null {
  if (Math.min(...colour) <= 0 || (params.depth === 0 && params.distance === 0 && map === 0)) return null;
  const fit = { fitRed: params.fitRed, fitBlue: params.fitBlue };
  // More loss means more gain: each channel changes relative to green with its own fit, and hardly with the other's.
  for (const [key, c] of [
    ['fitRed', 0],
    ['fitBlue', 2],
    ['fitRed', 0],
    ['fitBlue', 2],
  ] as const) {
    let [low, high] = FIT_LIMITS.map(Math.log);
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

/** How far a colour is from neutral after the step: the larger deviation of red and blue from green. */
function offNeutral(params: WaterParams, colour: Readonly<Vec3>, map: number): number {
  const rgb: Vec3 = [colour[0], colour[1], colour[2]];
  water.prepare(params)(rgb, map);
  return Math.max(Math.abs(rgb[0] - rgb[1]), Math.abs(rgb[2] - rgb[1])) / Math.max(1e-6, rgb[1]);
}

/** Differences of red and blue from green (linear) below this are neutral: about 0.5 in a* and b*. */
const NEUTRAL = 0.01;

type Fit = Pick<WaterParams, 'fitRed' | 'fitBlue'> & Partial<Pick<WaterParams, 'type' | 'depth' | 'keepWater'>>;

/**
 * Fits the losses of red and blue so that a colour comes out neutral. A neutral is an object: if the step took it for
 * open water, keeping open water is switched off. See {@link fitThing}.
 */
export function fitNeutral(params: WaterParams, colour: Readonly<Vec3>, map: number): Fit | null {
  if (params.distanceFrom === 'picture' || params.keepWater === 0) return fitThing(params, colour, map);
  const fit = fitThing({ ...params, keepWater: 0 }, colour, map);
  if (!fit) return null;
  const off = (keepWater: number): number => offNeutral({ ...params, ...fit, keepWater }, colour, map);
  return off(params.keepWater) > off(0) + NEUTRAL ? { ...fit, keepWater: 0 } : fit;
}

/**
 * Fits the losses of red and blue so that a colour comes out neutral; if these losses are outside the limits of the
 * type of water, also another type and depth. `colour`: linear, as it enters the step; `map`: the step's map there,
 * 0–1. Null without a depth or a distance, or for a colour with a channel at or below 0.
 */
function fitThing(params: WaterParams, colour: Readonly<Vec3>, map: number): Fit | null {
  const own = fitLosses(params, colour, map);
  if (!own || offNeutral({ ...params, ...own }, colour, map) < NEUTRAL) return own;
  let best: Fit = own;
  let least = offNeutral({ ...params, ...own }, colour, map) * 100;
  for (const type of WATER_TYPES) {
    const depth = depthForNeutral({ ...params, type, fitRed: 1, fitBlue: 1 }, colour, params.distance);
    const changed = { ...params, type, depth };
    const fit = fitLosses(changed, colour, map);
    if (!fit) continue;
    const off = 100 * offNeutral({ ...changed, ...fit }, colour, map);
    const cost = (off < 100 * NEUTRAL ? 0 : off) + Math.log(fit.fitRed) ** 2 + Math.log(fit.fitBlue) ** 2;
    if (cost < least) [best, least] = [{ ...fit, type, depth }, cost];
  }
  return best;
}
