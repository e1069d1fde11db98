import type { Vec3 } from '../colour/matrix';
import { luma709, rgbToYcbcr } from '../colour/ycbcr';
import { bandWeights, type BandEdges } from '../steps/bands/weights';
import type { Mark } from './readings';

/** Cb and Cr (BT.709, ±0.5 at full colour) of encoded R'G'B'. */
export interface Chroma {
  cb: number;
  cr: number;
}

/** Cb and Cr at the scope's edge without zoom: includes the full green of BT.709 (0.596). */
export const PAD_REACH = 0.62;
/** The vectorscope's radius: 100 % of colour. */
export const FULL_CHROMA = 0.5;
/** Radius of the guide, as a share: within the targets of 75 % bars (common practice). */
export const GUIDE = 0.75;

/** Position of a colour on the square scope, 0–1 from the left and from the top. */
export const padPoint = ({ cb, cr }: Chroma, zoom: number): { x: number; y: number } => ({
  x: 0.5 + (cb / PAD_REACH / 2) * zoom,
  y: 0.5 - (cr / PAD_REACH / 2) * zoom,
});

/** The colour at a place on the scope. */
export const padChroma = ({ x, y }: { x: number; y: number }, zoom: number): Chroma => ({
  cb: ((x - 0.5) * 2 * PAD_REACH) / zoom,
  cr: ((0.5 - y) * 2 * PAD_REACH) / zoom,
});

/**
 * Number of pixels at each position of a square scope (size × size, from the top left); colours outside are omitted.
 */
export function traceVectorscope(rgb: Float32Array, size: number, zoom: number): Uint32Array {
  const counts = new Uint32Array(size * size);
  const scale = ((size / 2) * zoom) / PAD_REACH;
  const middle = size / 2;
  for (let o = 0; o < rgb.length; o += 3) {
    const luma = luma709(rgb[o], rgb[o + 1], rgb[o + 2]);
    const x = Math.floor(middle + ((rgb[o + 2] - luma) / 1.8556) * scale);
    const y = Math.floor(middle - ((rgb[o] - luma) / 1.5748) * scale);
    if (x >= 0 && x < size && y >= 0 && y < size) counts[y * size + x] += 1;
  }
  return counts;
}

const BARS: Record<string, Vec3> = {
  red: [1, 0, 0],
  yellow: [1, 1, 0],
  green: [0, 1, 0],
  cyan: [0, 1, 1],
  blue: [0, 0, 1],
  magenta: [1, 0, 1],
};

/** Positions of the standard bars (SMPTE RP 219, 75 %), by the name of the bar. */
export const barTargets = (level = 0.75): { name: string; cb: number; cr: number }[] =>
  Object.entries(BARS).map(([name, rgb]) => {
    const [, cb, cr] = rgbToYcbcr(rgb.map((v) => v * level) as Vec3, 'bt709');
    return { name, cb, cr };
  });

/** Mean colour of a part of the tonal range, with pixels weighted by membership. */
export interface MarkColour extends Chroma {
  /** Its share of the frame, 0–1. */
  share: number;
}
export type MarkColours = Record<Mark, MarkColour>;

/** Positions of the four marks: mean chroma of shadows, midtones, highlights (by encoded luma) and of everything. */
export function measureMarks(rgb: ArrayLike<number>, edges: BandEdges): MarkColours {
  const sums = new Float64Array(12);
  const count = rgb.length / 3;
  for (let o = 0; o < rgb.length; o += 3) {
    const y = luma709(rgb[o], rgb[o + 1], rgb[o + 2]);
    const cb = (rgb[o + 2] - y) / 1.8556;
    const cr = (rgb[o] - y) / 1.5748;
    const weights = bandWeights(y, edges);
    for (let k = 0; k < 4; k += 1) {
      const w = k < 3 ? weights[k] : 1;
      sums[3 * k] += w;
      sums[3 * k + 1] += w * cb;
      sums[3 * k + 2] += w * cr;
    }
  }
  const of = (k: number): MarkColour => {
    const w = sums[3 * k];
    return {
      cb: w > 0 ? sums[3 * k + 1] / w : 0,
      cr: w > 0 ? sums[3 * k + 2] / w : 0,
      share: count > 0 ? w / count : 0,
    };
  };
  return { shadows: of(0), midtones: of(1), highlights: of(2), overall: of(3) };
}

/** Bins of a hue histogram: two degrees each. */
export const HUE_BINS = 180;

/** Amount of colour at each hue (turns from +Cb towards +Cr): summed chroma, normalised to the largest bin. */
export function hueHistogram(rgb: Float32Array): Float32Array {
  const bins = new Float32Array(HUE_BINS);
  for (let o = 0; o < rgb.length; o += 3) {
    const y = luma709(rgb[o], rgb[o + 1], rgb[o + 2]);
    const cb = (rgb[o + 2] - y) / 1.8556;
    const cr = (rgb[o] - y) / 1.5748;
    const turn = Math.atan2(cr, cb) / (2 * Math.PI);
    bins[Math.floor((turn < 0 ? turn + 1 : turn) * HUE_BINS) % HUE_BINS] += Math.sqrt(cb * cb + cr * cr);
  }
  const most = bins.reduce((a, b) => Math.max(a, b), 0);
  return most > 0 ? bins.map((b) => b / most) : bins;
}
