import { WORKING_TO_XYZ, xyzToXy } from '../../colour/primaries';
import { transform, type Vec3 } from '../../colour/matrix';
import { KELVIN_MAX, KELVIN_MIN, xyToKelvin } from '../../colour/temperature';
import { gainsForNeutral, GAIN_LIMIT_STOPS } from './gains';

/** A sample of the picture for picking a neutral. */
export interface NeutralSample {
  /** Linear working colours of the pixels, as they enter the balance step, in raster order; three numbers each. */
  linear: Float64Array;
  /** Share of the pixels (0–1) with a channel at the limit of the file's code values. */
  clipped: number;
}

export type NeutralPick =
  | { ok: true; params: Record<string, unknown>; text: string }
  | { ok: false; reason: 'clipped' | 'dark' | 'mixed' | 'coloured'; text: string };

/** Below this luminance (linear) noise dominates. */
const DARK = 0.004;
/** Spread of a channel's share of the sum above which an area is not uniform. */
const MIXED = 0.035;
/** Outside these limits a white is implausible for daylight or lamps, and gains replace adaptation. */
const DAYLIGHT_DUV = 0.03;

/**
 * Balance parameters from a sampled area, or the reason why not. The area is averaged in linear light. Casts far from
 * daylight get per-channel gains instead of adaptation.
 */
export function pickNeutral({ linear, clipped }: NeutralSample): NeutralPick {
  const count = linear.length / 3;
  if (clipped > 0.02) {
    const share = (clipped * 100).toFixed(0);
    return {
      ok: false,
      reason: 'clipped',
      text: `${share} % of this spot is clipped in the file, so its colour is not known. Pick something darker.`,
    };
  }
  const mean: Vec3 = [0, 0, 0];
  for (let i = 0; i < linear.length; i += 1) mean[i % 3] += linear[i] / count;
  const xyz = transform(WORKING_TO_XYZ, mean);
  if (xyz[1] < DARK || Math.min(...mean) <= 0) {
    const percent = (Math.max(0, xyz[1]) * 100).toFixed(1);
    return {
      ok: false,
      reason: 'dark',
      text: `This spot is too dark to judge: it reflects ${percent} % of white. Pick something brighter.`,
    };
  }
  const sum = mean[0] + mean[1] + mean[2];
  // Pixel noise averages out over an area, so it is compared with the spread of small blocks' means.
  const spread = blockSpread(linear);
  if (spread > MIXED) {
    return {
      ok: false,
      reason: 'mixed',
      text: `This area holds more than one colour: they differ by ${(spread * 100).toFixed(0)} %. Drag a smaller area, or tap a plainer spot.`,
    };
  }
  const share = mean.map((c) => c / sum);
  if (Math.min(...share) < 0.012) {
    return {
      ok: false,
      reason: 'coloured',
      text: 'One channel is almost empty here, so this cannot have been neutral. Pick paper, a grey card, a slate or pale sand.',
    };
  }
  return { ok: true, ...neutralise(mean) };
}

/**
 * Balance parameters that make a linear colour (all channels above 0) neutral, and a description. Casts far from
 * daylight get per-channel gains instead of adaptation.
 */
export function neutralise(colour: Readonly<Vec3>): { params: Record<string, unknown>; text: string } {
  const white = xyzToXy(transform(WORKING_TO_XYZ, colour));
  const { kelvin, duv } = white ? xyToKelvin(white) : { kelvin: 0, duv: 1 };
  if (Math.abs(duv) <= DAYLIGHT_DUV && kelvin > KELVIN_MIN * 1.02 && kelvin < KELVIN_MAX * 0.98) {
    return { params: { method: 'white', kelvin, duv }, text: `Balanced on a light of ${Math.round(kelvin)} K.` };
  }
  const { gains, limited } = gainsForNeutral(colour);
  const params = { method: 'gains', red: gains[0], green: gains[1], blue: gains[2] };
  const held = limited ? ` Held to ${GAIN_LIMIT_STOPS} stops a channel, so some cast is left.` : '';
  return { params, text: `This light is far from daylight: balanced by channel gains.${held}` };
}

/** Largest standard deviation of a channel's share of the sum, over up to 16 runs of the sample. */
function blockSpread(linear: Float64Array): number {
  const count = linear.length / 3;
  const blocks = Math.min(16, Math.floor(count / 4));
  if (blocks < 2) return 0;
  const shares: Vec3[] = [];
  for (let b = 0; b < blocks; b += 1) {
    const from = Math.floor((b * count) / blocks);
    const to = Math.floor(((b + 1) * count) / blocks);
    const acc: Vec3 = [0, 0, 0];
    for (let i = from; i < to; i += 1) for (let c = 0; c < 3; c += 1) acc[c] += linear[i * 3 + c];
    const sum = Math.max(1e-9, acc[0] + acc[1] + acc[2]);
    shares.push([acc[0] / sum, acc[1] / sum, acc[2] / sum]);
  }
  let worst = 0;
  for (let c = 0; c < 3; c += 1) {
    const mean = shares.reduce((a, s) => a + s[c], 0) / blocks;
    worst = Math.max(worst, Math.sqrt(shares.reduce((a, s) => a + (s[c] - mean) ** 2, 0) / blocks));
  }
  return worst;
}
