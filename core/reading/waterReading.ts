import type { Vec3 } from '../colour/matrix';
import { boxMean } from '../fields/filters';
import { lightLeft, openWater, WATER_TYPES, type WaterType } from '../steps/water/waters';
import { median, percentile, type ReadFrame } from './readFrames';

/** Colour of open water in a clip, linear, and the share of the frames that it fills. */
export interface OpenWater {
  colour: Vec3;
  share: number;
}

/** Less than this share of the frames says nothing. */
const LEAST_OPEN = 0.02;
/** Half of a window, as a share of the width, and the share of it that is smooth where open water is. */
const AROUND = 0.03;
const WIDE = 0.9;
/** Water takes red before anything else; what is redder than this beside green is no water (linear R/G). */
const REDDEST = 0.75;
/** In skylight and wrong whites blue gains what red loses; in water at most this much of it (in logarithms). */
const BLUE_FOR_RED = 0.5;

const ratio = (rgb: ArrayLike<number>, at: number, c: 0 | 2): number =>
  Math.max(1e-3, rgb[at + c]) / Math.max(1e-3, rgb[at + 1]);

/** Whether a colour can be water's: red taken, and not handed to blue as daylight of another temperature does. */
export function isWatery([r, g, b]: Readonly<Vec3>): boolean {
  const red = Math.log(Math.max(1e-3, r) / Math.max(1e-3, g));
  const blue = Math.log(Math.max(1e-3, b) / Math.max(1e-3, g));
  return red < Math.log(REDDEST) && blue < -red * BLUE_FOR_RED;
}

/** Smooth cells with at least so much smoothness around them. */
function smoothCells(frames: readonly ReadFrame[], least: number): Vec3[] {
  const cells: Vec3[] = [];
  for (const { rgb, smooth, width, height } of frames) {
    const around = least > 0 ? boxMean(smooth, width, height, Math.max(1, Math.round(AROUND * width))) : undefined;
    for (let i = 0; i < smooth.length; i += 1)
      if (smooth[i] && rgb[3 * i + 1] > 0.01 && (around?.[i] ?? 1) >= least)
        cells.push([rgb[3 * i], rgb[3 * i + 1], rgb[3 * i + 2]]);
  }
  return cells;
}

/** Open water over some frames: the smooth cells with the least red. Null where there is none. */
export function findOpenWater(frames: readonly ReadFrame[]): OpenWater | null {
  const all = frames.reduce((n, f) => n + f.smooth.length, 0);
  // Wide stretches without detail first: a leaf is smooth too, but small.
  const wide = smoothCells(frames, WIDE);
  const cells = wide.length >= LEAST_OPEN * all ? wide : smoothCells(frames, 0);
  if (cells.length < LEAST_OPEN * all) return null;
  const reds = cells.map((c) => ratio(c, 0, 0));
  const least = percentile(reds, 0.3);
  const open = cells.filter((_, i) => reds[i] <= least);
  const colour = [0, 1, 2].map((c) => median(open.map((o) => o[c]))) as Vec3;
  return isWatery(colour) ? { colour, share: open.length / all } : null;
}

/** The water that explains a clip best. */
export interface WaterFit {
  type: WaterType;
  depth: number;
  /** What is left between model and clip, in logarithms of colour. */
  misfit: number;
}

/** Deviations that are taken for granted: of open water's colour from its model, of the brightest things from white. */
const OPEN_DEVIATION = 0.16;
const BRIGHT_DEVIATION = 0.1;
/** How far from the camera near things are, in metres (common practice: a diver keeps within two). */
const NEAR = 1.5;
const DEEPEST = 40;

const logs = ([r, g, b]: Readonly<Vec3>): [number, number] => [
  Math.log(Math.max(1e-3, r) / Math.max(1e-3, g)),
  Math.log(Math.max(1e-3, b) / Math.max(1e-3, g)),
];

/** Colours with less red than this, against open water's, are open water too. */
const STILL_OPEN = 1.15;

/**
 * Bright colours of the frames: Minkowski mean with exponent 6 (shades of grey, Finlayson and Trezzi 2004). Open water,
 * where it is known, has no say.
 */
export function brightColour(frames: readonly ReadFrame[], open?: Readonly<Vec3>): Vec3 {
  const sum: Vec3 = [0, 0, 0];
  let count = 0;
  const least = open ? STILL_OPEN * ratio(open, 0, 0) : 0;
  for (const { rgb } of frames)
    for (let o = 0; o < rgb.length; o += 3) {
      if (ratio(rgb, o, 0) < least) continue;
      for (let c = 0; c < 3; c += 1) sum[c] += Math.max(0, rgb[o + c]) ** 6;
      count += 1;
    }
  return sum.map((s) => (s / Math.max(1, count)) ** (1 / 6)) as Vec3;
}

/**
 * Type and depth of water from the colour of open water and the brightest things: the pair whose model colours lie
 * nearest. Colours of the scene itself hardly count, so a green meadow is not taken for green water.
 */
export function fitWater(open: Readonly<Vec3>, bright: Readonly<Vec3>): WaterFit {
  const [seenOpen, seenBright] = [logs(open), logs(bright)];
  let best: WaterFit = { type: 'C1', depth: 0, misfit: Infinity };
  for (const type of WATER_TYPES)
    for (let depth = 0.5; depth <= DEEPEST; depth += 0.5) {
      const o = logs(openWater(type, depth));
      const b = logs(lightLeft(type, depth, NEAR));
      let misfit = 0;
      for (const k of [0, 1]) {
        // What lies far off a model counts little more than what lies off: one of the two may be no model's.
        misfit += Math.log1p(((o[k] - seenOpen[k]) / OPEN_DEVIATION) ** 2);
        misfit += Math.log1p(((b[k] - seenBright[k]) / BRIGHT_DEVIATION) ** 2);
      }
      if (misfit < best.misfit) best = { type, depth, misfit };
    }
  return best;
}
