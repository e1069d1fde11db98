import { bt709 } from '../colour/transfer';
import { luma709 } from '../colour/ycbcr';
import type { Vec3 } from '../colour/matrix';
import { boxMean } from '../fields/filters';
import type { SmallPicture } from '../fields/smallPicture';
import { newStep, type Step } from '../model/grade';
import { PROFILES } from '../model/profile';
import { compile, evaluate, through as passesThrough } from '../program/compile';
import { mapsOf, smallValues } from '../program/maps';
import { AUTOMATIC_METHODS } from '../steps/balance/automatic';
import { neutralise } from '../steps/balance/pick';
import { HAZY, readHaze } from './hazeReading';
import { percentile, readFrame, type ReadFrame } from './readFrames';
import { brightColour, findOpenWater, fitWater } from './waterReading';

/** A small picture of a clip, and when. */
export interface ClipFrame {
  small: SmallPicture;
  /** Seconds from the clip's first frame. */
  seconds: number;
}

/** What is known of a clip besides its pictures. */
export interface Known {
  camera?: 'action' | 'drone' | 'dive' | 'phone' | 'other';
  depth: number;
  /** Transfer tag as written in the file. */
  transfer: string | null;
}

/** One step that would mend a clip, and why. */
export interface Proposal {
  step: Step;
  /** A sentence with numbers. */
  reason: string;
}

const percent = (v: number): string => `${Math.round(100 * v)} %`;
const encode = (rgb: Readonly<Vec3>): Vec3 => rgb.map((v) => Math.min(1, Math.max(0, bt709.encode(v)))) as Vec3;

/** Through steps, so many frames and every so many of their cells are enough. */
const FEW = 4;
const READ = 8;
const STRIDE = 3;

/** Frames spread evenly, so many at most. */
const spread = <T>(list: readonly T[], most: number): T[] =>
  list.filter((_, i) => Math.floor((i * most) / list.length) !== Math.floor(((i - 1) * most) / list.length));

/** Encoded luma of the picture and its chroma, over cells of the frames through some steps. */
function through(all: readonly ClipFrame[], steps: readonly Step[]): { luma: Float64Array; chroma: Float64Array } {
  const frames = spread(all, FEW);
  const count = frames.reduce((n, f) => n + Math.ceil(f.small.luma.length / STRIDE), 0);
  const [luma, chroma] = [new Float64Array(count), new Float64Array(count)];
  let at = 0;
  for (const { small, seconds } of frames) {
    const program = compile(steps, seconds);
    const values = mapsOf(program, small).map((m) => (m ? smallValues(m, small.luma) : null));
    const { code } = small;
    for (let i = 0; i < small.luma.length; i += STRIDE, at += 1) {
      const [r, g, b] = evaluate(
        program,
        [code[3 * i], code[3 * i + 1], code[3 * i + 2]],
        false,
        values.map((v) => v?.[i] ?? 0),
      );
      luma[at] = luma709(r, g, b);
      chroma[at] = 2 * Math.hypot((b - luma[at]) / 1.8556, (r - luma[at]) / 1.5748);
    }
  }
  return { luma, chroma };
}

// — conversion —

/** Between these a recording is bunched: flat or log. */
const BUNCHED_LOW = 0.22;
const BUNCHED_HIGH = 0.8;

/** Profiles by transfer tag, and by what a camera records flat with (common practice: cinema bits mean log). */
const BY_TAG: Record<string, string> = { 'arib-std-b67': 'Hybrid log-gamma, wide', smpte2084: 'PQ, wide' };
const BY_CAMERA: Partial<Record<NonNullable<Known['camera']>, { name: string; bits: number }>> = {
  drone: { name: 'Drone log, 10 bit', bits: 10 },
  action: { name: 'Action camera flat', bits: 8 },
};

function proposeConversion(frames: readonly ClipFrame[], { camera, depth, transfer }: Known): Proposal | null {
  const step = (name: string): Step =>
    newStep('convert', 'first-convert', { profile: PROFILES.find((p) => p.name === name) });
  const tagged = transfer ? BY_TAG[transfer] : undefined;
  if (tagged) return { step: step(tagged), reason: `The file's transfer tag says ${transfer}: ${tagged}.` };
  const guess = camera ? BY_CAMERA[camera] : undefined;
  if (!guess || depth < guess.bits) return null;
  const { luma } = through(frames, []);
  const [low, high] = [percentile(luma, 0.005), percentile(luma, 0.995)];
  if (low < BUNCHED_LOW || high > BUNCHED_HIGH) return null;
  return {
    step: step(guess.name),
    reason: `All of the trace lies between ${percent(low)} and ${percent(high)} at ${depth} bits, as a flat recording's does: ${guess.name}.`,
  };
}

// — water —

/** Metres to the nearest things (common practice: a diver keeps within two). */
const NEAR = 1.2;
/** Red is raised by no more than this; the rest comes from green, or its noise would be seen. */
const RED_STOPS = 0.9;

function proposeWater(frames: readonly ReadFrame[]): Proposal | null {
  const open = findOpenWater(frames);
  if (!open) return null;
  const fit = fitWater(open.colour, brightColour(frames, open.colour));
  const [veilRed, veilGreen, veilBlue] = encode(open.colour);
  const [r, g, b] = open.colour;
  const lost = Math.log2(Math.max(1e-3, g) / Math.max(1e-3, r));
  const than = b > g ? `blue ${percent(b / g - 1)} above green` : `blue ${percent(1 - b / g)} below green`;
  return {
    step: newStep('water', 'first-water', {
      type: fit.type,
      depth: fit.depth,
      distance: NEAR,
      limitRed: RED_STOPS,
      veilRed,
      veilGreen,
      veilBlue,
    }),
    reason: `Open water fills ${percent(open.share)}: red ${lost.toFixed(1)} stops below green, ${than}, as in water of this type at ${fit.depth.toFixed(1)} m.`,
  };
}

// — haze —

/** Not all of it: a distance without any haze looks cut out (He, Sun, Tang 2009). */
const AMOUNT = 0.9;
/** Of what is light in the darkest cells, so much is taken for haze; the rest may be their own. */
const NEAR_SHARE = 0.42;

function proposeHaze(frames: readonly ReadFrame[]): Proposal | null {
  const haze = readHaze(frames);
  if (!haze || haze.faded < HAZY) return null;
  const [airRed, airGreen, airBlue] = encode(haze.airlight);
  return {
    step: newStep('haze', 'first-haze', { amount: AMOUNT, near: NEAR_SHARE * haze.nearest, airRed, airGreen, airBlue }),
    reason: `${percent(haze.faded)} of the picture fades towards the horizon, and near shadows stand at ${percent(haze.nearest)} of its light: haze.`,
  };
}

// — balance —

/** A cast is taken off when red and blue are further apart than this, in natural logarithms. */
const CAST = 0.2;
/** Cells with so much smoothness around them may be sky. */
const SKY_AROUND = 0.25;
const SKY_WINDOW = 0.04;
const LEAST_CELLS = 300;

/** Colours of cells that are things: not sky, not water, not dark; and the colour that their edges differ by. */
function things(frames: readonly ReadFrame[]): { colours: Float64Array; edges: Vec3 } {
  const out: number[] = [];
  const edges: Vec3 = [0, 0, 0];
  for (const { rgb, smooth, width, height } of frames) {
    const around = boxMean(smooth, width, height, Math.max(1, Math.round(SKY_WINDOW * width)));
    for (let i = width; i < smooth.length - width; i += 1) {
      const [r, g, b] = [rgb[3 * i], rgb[3 * i + 1], rgb[3 * i + 2]];
      if (smooth[i] || around[i] >= SKY_AROUND || Math.min(r, g, b) <= 0.004) continue;
      out.push(r, g, b);
      for (let c = 0; c < 3; c += 1)
        edges[c] += Math.hypot(
          rgb[3 * (i + 1) + c] - rgb[3 * (i - 1) + c],
          rgb[3 * (i + width) + c] - rgb[3 * (i - width) + c],
        );
    }
  }
  return { colours: Float64Array.from(out), edges };
}

function proposeBalance(frames: readonly ReadFrame[]): Proposal | null {
  const { colours, edges } = things(frames);
  if (colours.length < 3 * LEAST_CELLS) return null;
  const [vote, shades] = ['vote', 'shades'].map((name) =>
    AUTOMATIC_METHODS.find((m) => m.name === name)!.estimate(colours),
  );
  const cast = (rgb: Readonly<Vec3>): number => Math.log(rgb[2] / rgb[0]);
  // Three that take different things for granted must agree: near neutrals, bright things, and edges (van de Weijer et
  // al. 2007, grey edge).
  const a = cast(vote);
  const agree = [a, cast(shades), cast(edges)].every((c) => Math.abs(c) > CAST && c * a > 0);
  if (!agree) return null;
  const { params, text } = neutralise(vote);
  const [first, second] = a > 0 ? ['Red', 'blue'] : ['Blue', 'red'];
  return {
    step: newStep('balance', 'first-balance', params),
    reason: `${first} is ${percent(1 - Math.exp(-Math.abs(a)))} below ${second} where things are near neutral. ${text}`,
  };
}

// — range and saturation —

/** Between these a picture's dark end, bright end and mean luma need nothing. */
const LOW_OK = 0.2;
const HIGH_OK = 0.66;
const MEAN = 0.42;
const MEAN_OK = [0.3, 0.56] as const;
/** Where the ends go when the range is flat: above black, below white (common practice). */
const LOW = 0.08;
const HIGH = 0.86;

function proposeRange(frames: readonly ClipFrame[], steps: readonly Step[], mended: boolean): Proposal | null {
  const { luma } = through(frames, steps);
  const [low, high] = [percentile(luma, 0.005), percentile(luma, 0.995)];
  const mean = luma.reduce((s, v) => s + Math.min(1, Math.max(0, v)), 0) / luma.length;
  // Where water or haze was taken off, what is left between the ends is the scene's own.
  const flat = !mended && low > LOW_OK && high < HIGH_OK;
  const off = mean < MEAN_OK[0] || mean > MEAN_OK[1];
  if (!flat && !off && !mended) return null;
  let [black, white, exposure] = [0, 0, 0];

  if (flat) {
    const slope = (HIGH - LOW) / (high - low);
    black = Math.max(-0.55, LOW - slope * low);
    white = Math.min(1.4, LOW + slope * (1 - low) - 1);
  }
  // Exposure comes before the points: find the one that brings the mean to where it belongs.
  const span = 1 + white - black;
  let [least, most] = [-3, 3];
  for (let k = 0; k < 30; k += 1) {
    exposure = (least + most) / 2;
    const gain = 2 ** exposure;
    let sum = 0;
    for (let i = 0; i < luma.length; i += 7)
      sum += Math.min(1, Math.max(0, black + span * bt709.encode(bt709.decode(luma[i]) * gain)));
    if (sum / Math.ceil(luma.length / 7) > MEAN) most = exposure;
    else least = exposure;
  }
  if (Math.abs(exposure) < 0.1) exposure = 0;
  if (!flat && exposure === 0) return null;
  return {
    step: newStep('range', 'first-range', { black, white, exposure, soft: 0.02 }),
    reason: flat
      ? `All of the trace lies between ${percent(low)} and ${percent(high)}: widened to ${percent(LOW)} and ${percent(HIGH)}.`
      : `Mean luma is ${percent(mean)}; ${exposure > 0 ? 'up' : 'down'} ${Math.abs(exposure).toFixed(1)} stops brings it to ${percent(MEAN)}.`,
  };
}

/** Chroma (95th percentile, share of the vectorscope's radius) below which a landscape is dull, and what is aimed for. */
const DULL = 0.1;
const LIVELY = 0.15;
/** Below this there is no colour to bring back, only noise. */
const GREY = 0.035;

function proposeSaturation(frames: readonly ClipFrame[], steps: readonly Step[]): Proposal | null {
  const { chroma } = through(frames, steps);
  const high = percentile(chroma, 0.95);
  if (high > DULL || high < GREY) return null;
  const amount = Math.min(1.5, LIVELY / high);
  return {
    step: newStep('saturation', 'first-saturation', { amount }),
    reason: `Colours reach ${percent(high)} of the vectorscope's radius; a lively landscape reaches more: ×${amount.toFixed(2)}.`,
  };
}

/**
 * Ordinary steps, in working order, that would mend a clip, each with its reason; none for a clip that is good. `given`
 * are steps that come before and stay: a conversion. A conversion is proposed only where there is none yet.
 * Deterministic. `frames`: a few dozen, spread over the clip.
 */
export function firstPass(
  frames: readonly ClipFrame[],
  given: readonly Step[] = [],
  known: Known = { depth: 8, transfer: null },
): Proposal[] {
  const proposals: Proposal[] = [];
  const steps = (): Step[] => [...given, ...proposals.map((p) => p.step)];
  const add = (p: Proposal | null): void => void (p && proposals.push(p));
  // A conversion that was chosen stays; one that converts nothing was not.
  const chosen = given.some((s) => s.kind === 'convert' && compile([s], 0).passes.length > 0);
  if (!chosen) add(proposeConversion(frames, known));
  const converted = proposals.length > 0;
  const converting = steps();
  const read = spread(frames, READ).map(({ small, seconds }) => {
    const program = compile(converting, seconds);
    if (program.passes.length === 0) return readFrame(small);
    const run = passesThrough(program.passes);
    return readFrame(small, (rgb) => run(rgb));
  });
  const water = proposeWater(read);
  const haze = water ? null : proposeHaze(read);
  add(water ?? haze);
  if (!water && !haze) add(proposeBalance(read));
  add(proposeRange(frames, steps(), Boolean(water ?? haze)));
  // What water and haze give back is colour enough; more would be noise.
  if (!water && !haze && (converted || proposals.some((p) => p.step.kind === 'range')))
    add(proposeSaturation(frames, steps()));
  return proposals;
}
