import { bt709 } from '../colour/transfer';
import { luma709 } from '../colour/ycbcr';
import type { Vec3 } from '../colour/matrix';
import { FIT_LIMITS, MOST_VEIL } from '../steps/water';
import { lightLeft, WATER_TYPES, type WaterType } from '../steps/water/waters';
import { depthAt, depthKeys, type ClipDive } from '../model/diveLog';
import type { Correction } from './correction';

/** The gains estimated from one frame. */
export interface FrameGain {
  seconds: number;
  gain: Vec3;
}

/** Keyframes of a number. */
interface Keys {
  keys: { seconds: number; value: number; ease: 'linear' }[];
}

/** Candidate distances of the nearest objects, in metres (common practice: a diver stays within two). */
const DISTANCES = [0.5, 0.8, 1.2, 1.8, 2.5, 4, 6];
const USUAL_DISTANCE = 1.5;
const DEEPEST = 30;
const DEPTH_STEP = 0.5;

const clamp = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v));

/** Logarithms of transmitted light, cached per type over depth and distance. */
const losses = new Map<string, Vec3>();
function lossOf(type: WaterType, depth: number, distance: number): Vec3 {
  const key = `${type} ${depth.toFixed(2)} ${distance}`;
  let loss = losses.get(key);
  if (!loss) {
    loss = lightLeft(type, depth, distance).map((v) => Math.min(-1e-3, Math.log(v))) as Vec3;
    if (losses.size > 20_000) losses.clear();
    losses.set(key, loss);
  }
  return loss;
}

interface Fit {
  type: WaterType;
  /** Metres, for each frame. */
  depths: number[];
  distance: number;
  fitRed: number;
  fitBlue: number;
}

/** Standard deviations of fits from 1, and of a frame's gains (natural logarithms). */
const FIT_DEVIATION = 0.35;
const GAIN_DEVIATION = 0.25;

/**
 * The fits of red and blue that explain gains over frames with a type of water: their mean, regularised towards 1.
 * `cost`: the residual in squared deviations.
 */
function fitTo(
  type: WaterType,
  depths: readonly number[],
  distance: number,
  gains: readonly Readonly<Vec3>[],
): { fitRed: number; fitBlue: number; cost: number } {
  const rows = depths.map((depth) => lossOf(type, depth, distance));
  let cost = 0;
  const [fitRed, fitBlue] = ([0, 2] as const).map((c) => {
    // gain_c − gain_g = loss_g − fit · loss_c: least squares over all frames, with a prior on fit = 1.
    const weight =
      ((GAIN_DEVIATION / FIT_DEVIATION) ** 2 * rows.reduce((s, r) => s + r[c] * r[c], 0)) / rows.length / rows.length;
    let [above, below] = [weight, weight];
    rows.forEach((r, i) => {
      const wanted = r[1] - (gains[i][c] - gains[i][1]);
      above += (wanted * r[c]) / rows.length;
      below += (r[c] * r[c]) / rows.length;
    });
    const fit = clamp(above / below, ...FIT_LIMITS);
    cost += (Math.log(fit) / FIT_DEVIATION) ** 2;
    rows.forEach((r, i) => {
      cost += ((r[1] - fit * r[c] - (gains[i][c] - gains[i][1])) / GAIN_DEVIATION) ** 2 / rows.length;
    });
    return fit;
  });
  return { fitRed, fitBlue, cost };
}

/** Penalty of a distance: for unusual ones, and for those whose veil would have to be brighter than white. */
function distanceCost(type: WaterType, depth: number, distance: number, veil: Readonly<Vec3>): number {
  const [far, here] = [lossOf(type, depth, distance), lossOf(type, depth, 0)];
  const veiled = veil.reduce((most, v, c) => Math.max(most, v / Math.max(1e-3, 1 - Math.exp(far[c] - here[c]))), 0);
  const over = veiled > bt709.decode(MOST_VEIL) ? 1 + 2 * Math.log(veiled / bt709.decode(MOST_VEIL)) : 0;
  return 0.3 * Math.log(distance / USUAL_DISTANCE) ** 2 + 6 * over;
}

/** Type and distance for known depths, or for a single depth estimated along with them. */
function fitWater(
  frames: readonly FrameGain[],
  { gain, veil }: Correction,
  depthAt?: (seconds: number) => number,
): Fit {
  const known = depthAt && frames.map((f) => Math.max(0.1, depthAt(f.seconds)));
  const depths = known ? [known] : Array.from({ length: DEEPEST / DEPTH_STEP }, (_, i) => [(i + 1) * DEPTH_STEP]);
  const gains = known ? frames.map((f) => f.gain) : [gain];
  let best: (Fit & { cost: number }) | undefined;
  for (const type of WATER_TYPES)
    for (const list of depths) {
      const middle = list[list.length >> 1];
      for (const distance of DISTANCES) {
        const fit = fitTo(type, list, distance, gains);
        const cost = fit.cost + distanceCost(type, middle, distance, veil) + 0.01 * middle;
        if (!best || cost < best.cost) best = { ...fit, type, depths: list, distance, cost };
      }
    }
  return best!;
}

/** A descent is tracked if it exceeds this share of the depth, and this multiple of the frames' scatter. */
const DESCENT = 0.3;
const CLEARER = 2;
const FEWEST = 4;
/**
 * Maximum vertical speed in metres per second (common practice: divers reach half of it, freedivers about this). Faster
 * changes are caused by something else entering the frame.
 */
const FASTEST = 1;

/** Minimum change of depth over the clip, in metres. */
const TOLD = 0.5;

/** Smoothed depths over time at which frames' gains fit a water; null if they show no descent. */
function descent(frames: readonly FrameGain[], { type, distance, fitRed, fitBlue }: Fit): number[] | null {
  if (frames.length < FEWEST) return null;
  const depths = frames.map(({ gain }) => {
    let best = { depth: 0.5, off: Infinity };
    for (let depth = DEPTH_STEP; depth <= DEEPEST; depth += DEPTH_STEP) {
      const loss = lossOf(type, depth, distance);
      const red = loss[1] - fitRed * loss[0] - (gain[0] - gain[1]);
      const blue = loss[1] - fitBlue * loss[2] - (gain[2] - gain[1]);
      const off = red * red + blue * blue;
      if (off < best.off) best = { depth, off };
    }
    return best.depth;
  });
  const smooth = depths.map((_, i) => {
    const around = depths.slice(Math.max(0, i - 1), i + 2);
    return around.reduce((s, d) => s + d, 0) / around.length;
  });
  const scatter = Math.sqrt(depths.reduce((s, d, i) => s + (d - smooth[i]) ** 2, 0) / depths.length);
  const [least, most] = [Math.min(...smooth), Math.max(...smooth)];
  const reach = most - least;
  const took = Math.abs(frames[smooth.indexOf(most)].seconds - frames[smooth.indexOf(least)].seconds);
  const mean = smooth.reduce((s, d) => s + d, 0) / smooth.length;
  return reach > DESCENT * mean && reach > CLEARER * scatter && reach <= FASTEST * took ? smooth : null;
}

/**
 * The water, of the published types, that best explains a correction's gains: type, depth and distance with the closest
 * losses; the remainder goes into the fits. Depth comes from the dive log if there is one; otherwise it follows the
 * frames' own colours if these show a descent. Also returns the remaining stops of exposure.
 */
export function waterParams(
  correction: Correction,
  frames: readonly FrameGain[],
  dive: ClipDive | null,
  clipSeconds: number,
): { params: Record<string, unknown>; exposure: number; reason: string } {
  const { gain, veil } = correction;
  const fit = fitWater(frames, correction, dive ? (t) => depthAt(dive.log, t + dive.offset) : undefined);
  const { type, distance } = fit;
  const over = dive ? null : descent(frames, fit);
  const depth = dive ? fit.depths[fit.depths.length >> 1] : over ? over[over.length >> 1] : fit.depths[0];
  // Over a clip the fits are those of all frames; at a single depth they reproduce the gains exactly.
  const [far, here] = [lossOf(type, depth, distance), lossOf(type, depth, 0)];
  const exact = (c: 0 | 2): number => clamp((far[1] - (gain[c] - gain[1])) / far[c], ...FIT_LIMITS);
  const [fitRed, fitBlue] = dive || over ? [fit.fitRed, fit.fitBlue] : [exact(0), exact(2)];
  const left = (loss: Readonly<Vec3>): Vec3 => [
    Math.exp(fitRed * loss[0]),
    Math.exp(loss[1]),
    Math.exp(fitBlue * loss[2]),
  ];
  const [leftFar, leftHere] = [left(far), left(here)];
  const veilOf = (c: number): number =>
    clamp(bt709.encode(veil[c] / Math.max(1e-3, 1 - leftFar[c] / leftHere[c])), 0, MOST_VEIL);
  const exposure = gain[1] / Math.LN2 - Math.log2(luma709(...leftHere) / leftFar[1]);
  const [red, blue] = [gain[0] - gain[1], gain[2] - gain[1]].map((lost) => ({
    stops: Math.abs(lost / Math.LN2).toFixed(1),
    where: lost > 0 ? 'below' : 'above',
  }));
  const cast =
    red.where === blue.where
      ? `red is ${red.stops} and blue ${blue.stops} stops ${red.where} green`
      : `red is ${red.stops} stops ${red.where} green and blue ${blue.stops} ${blue.where} it`;
  const keys: Keys | null = dive
    ? { keys: depthKeys(dive, Math.max(0.1, clipSeconds)) }
    : over && {
        keys: frames.map(({ seconds }, i) => ({ seconds, value: Math.round(over[i] * 10) / 10, ease: 'linear' })),
      };
  const [first, last] = over ? [over[0], over[over.length - 1]] : [fit.depths[0], fit.depths[fit.depths.length - 1]];
  const metres = Math.abs(last - first) < TOLD ? depth.toFixed(1) : `${first.toFixed(1)} to ${last.toFixed(1)}`;
  const deep = `${metres} m deep${over ? ' judging by its change of colour' : dive ? ' according to the dive log' : ''}`;
  return {
    params: {
      type,
      depth: keys ?? depth,
      distance,
      distanceFrom: 'value',
      fitRed,
      fitBlue,
      veilRed: veilOf(0),
      veilGreen: veilOf(1),
      veilBlue: veilOf(2),
    },
    exposure,
    reason: `Compared with typical scenes, ${cast}, as in water of this type, ${deep}, ${distance.toFixed(1)} m from the subject.`,
  };
}
