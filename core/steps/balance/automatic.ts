import { LUMINANCE } from '../../colour/primaries';
import type { Vec3 } from '../../colour/matrix';
import { neutralise } from './pick';

/** Linear working colours of a frame as they enter the balance step, three numbers each, and clipping flags. */
export interface FrameSample {
  linear: Float64Array;
  /** 1 where a channel is at the limit of the file's code values. */
  clipped: Uint8Array;
}

/** A method of estimating the illuminant, with its assumption. */
export interface AutomaticMethod {
  name: string;
  title: string;
  assumes: string;
  /** The colour that should be neutral, from usable colours. */
  estimate(colours: Float64Array): Vec3;
}

/** Darker colours (linear luminance) are noise. */
const DARK = 0.004;

/** Reliable colours: not clipped, not dark, no channel at 0 or below. */
function usable({ linear, clipped }: FrameSample): Float64Array {
  const out = new Float64Array(linear.length);
  let n = 0;
  for (let i = 0, o = 0; o < linear.length; i += 1, o += 3) {
    const [r, g, b] = [linear[o], linear[o + 1], linear[o + 2]];
    if (clipped[i] || Math.min(r, g, b) <= 0 || LUMINANCE[0] * r + LUMINANCE[1] * g + LUMINANCE[2] * b < DARK) continue;
    out[n] = r;
    out[n + 1] = g;
    out[n + 2] = b;
    n += 3;
  }
  return out.subarray(0, n);
}

/** Minkowski mean of each channel: exponent 1 is the mean, a large one the brightest. */
function minkowski(colours: Float64Array, p: number): Vec3 {
  const sum: Vec3 = [0, 0, 0];
  for (let i = 0; i < colours.length; i += 1) sum[i % 3] += colours[i] ** p;
  return sum.map((s) => (s / (colours.length / 3)) ** (1 / p)) as Vec3;
}

function percentile(colours: Float64Array, share: number): Vec3 {
  return [0, 1, 2].map((c) => {
    const channel = Float64Array.from({ length: colours.length / 3 }, (_, i) => colours[3 * i + c]).sort();
    return channel[Math.min(channel.length - 1, Math.floor(share * channel.length))];
  }) as Vec3;
}

/** Colours whose channel shares differ from the illuminant's by less than this count as near neutral. */
const NEAR = 0.05;
const ROUNDS = 12;
/** Minimum share of near-neutral pixels for another iteration. */
const QUORUM = 0.004;

/**
 * Iterates: which colours are near neutral under the current estimate, and what illuminant do they imply? Starts from
 * shades of grey. Coloured objects are ignored, so it works where most of a scene is green.
 */
function nearNeutralVote(colours: Float64Array): Vec3 {
  let light = minkowski(colours, 6);
  for (let round = 0; round < ROUNDS; round += 1) {
    const sum: Vec3 = [0, 0, 0];
    let voters = 0;
    for (let o = 0; o < colours.length; o += 3) {
      const [r, g, b] = [colours[o] / light[0], colours[o + 1] / light[1], colours[o + 2] / light[2]];
      const total = r + g + b;
      const away = Math.max(Math.abs(r / total - 1 / 3), Math.abs(g / total - 1 / 3), Math.abs(b / total - 1 / 3));
      if (away > NEAR) continue;
      const weight = (1 - (away / NEAR) ** 2) ** 2;
      const each = colours[o] + colours[o + 1] + colours[o + 2];
      for (let c = 0; c < 3; c += 1) sum[c] += (weight * colours[o + c]) / each;
      voters += 1;
    }
    if (voters < (QUORUM * colours.length) / 3) break;
    light = sum;
  }
  return light;
}

export const AUTOMATIC_METHODS: readonly AutomaticMethod[] = [
  {
    name: 'vote',
    title: 'Near-neutral vote',
    assumes: 'something grey or white is in the picture',
    estimate: nearNeutralVote,
  },
  {
    name: 'shades',
    title: 'Shades of grey',
    assumes: 'bright things average to grey',
    estimate: (c) => minkowski(c, 6),
  },
  {
    name: 'patch',
    title: 'White patch',
    assumes: 'the brightest thing is white',
    estimate: (c) => percentile(c, 0.99),
  },
  {
    name: 'world',
    title: 'Grey world',
    assumes: 'the whole picture averages to grey',
    estimate: (c) => minkowski(c, 1),
  },
];

export interface AutomaticBalance {
  name: string;
  title: string;
  assumes: string;
  params: Record<string, unknown>;
  text: string;
}

/**
 * The balance parameters from each method; empty when too few colours are reliable. Sources: grey world, Buchsbaum
 * (1980); white patch, Land, as the 99th percentile; shades of grey, Finlayson and Trezzi (2004), p = 6.
 */
export function automaticBalances(sample: FrameSample): AutomaticBalance[] {
  const colours = usable(sample);
  if (colours.length < 3 * 64) return [];
  return AUTOMATIC_METHODS.map(({ name, title, assumes, estimate }) => ({
    name,
    title,
    assumes,
    ...neutralise(estimate(colours)),
  }));
}
