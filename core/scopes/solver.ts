import type { Vec3 } from '../colour/matrix';
import { luma709 } from '../colour/ycbcr';
import type { Step } from '../model/grade';
import { REGION } from '../regions/region';
import { compile } from '../program/compile';
import { evaluate } from '../program/evaluate';
import { stepKind } from '../steps';
import { LEVEL_CENTRES } from '../steps/shared/tone';

/** The sample on which a grabbed part of a trace is measured. */
export type Quantity = 'luma' | 'red' | 'green' | 'blue';

interface GrabSpec {
  quantity: Quantity;
  /**
   * Rank of the grabbed part as a share of the pixels; undefined for a level of the step, independent of the picture.
   */
  percentile?: number;
  /** Encoded value of a level as it enters the step. */
  tone?: number;
  /** The parameter that moves it. */
  kind: 'range' | 'channels';
  key: string;
}

const ENDS = { bottom: 0.005, middle: 0.5, top: 0.995 } as const;
type End = keyof typeof ENDS;
const CHANNELS = ['red', 'green', 'blue'] as const;
type Channel = (typeof CHANNELS)[number];

export type Grab = End | 'all' | `${Channel}${Capitalize<End>}` | `level${0 | 1 | 2 | 3 | 4}`;

const RANGE_KEYS: Record<End, string> = { bottom: 'black', middle: 'mid', top: 'white' };
const channelGrabs = CHANNELS.flatMap((channel) =>
  (Object.keys(ENDS) as End[]).map((end): [Grab, GrabSpec] => {
    const name = `${channel}${(end[0].toUpperCase() + end.slice(1)) as Capitalize<End>}` as const;
    return [name, { quantity: channel, percentile: ENDS[end], kind: 'channels', key: name }];
  }),
);

/** Everything on the waveforms that can be grabbed. */
export const GRABS = Object.fromEntries([
  ...(Object.keys(ENDS) as End[]).map((end): [Grab, GrabSpec] => [
    end,
    { quantity: 'luma', percentile: ENDS[end], kind: 'range', key: RANGE_KEYS[end] },
  ]),
  // Everything at once: exposure moves the middle and everything else with it.
  ['all', { quantity: 'luma', percentile: 0.5, kind: 'range', key: 'exposure' }] as [Grab, GrabSpec],
  ...channelGrabs,
  ...LEVEL_CENTRES.map((tone, i): [Grab, GrabSpec] => [
    `level${i as 0}`,
    { quantity: 'luma', tone, kind: 'range', key: `level${i}` },
  ]),
]) as Record<Grab, GrabSpec>;

/** Sampled colours (count × 3) whose median follows the grabbed part. */
export interface GrabSample {
  codes: Float64Array;
  quantity: Quantity;
  /** The colours enter the grabbed step; otherwise they are the file's R'G'B'. */
  atStep?: boolean;
  /** Values of each pass's map there. */
  planes?: PixelPlanes;
}

/** Map values per pixel for each pass of a program; null for a pass without. */
export type PixelPlanes = readonly (ArrayLike<number> | null)[];

/** The planes of some pixels. */
export const planesAt = (planes: PixelPlanes, pixels: readonly number[]): PixelPlanes =>
  planes.map((m) => m && Float32Array.from(pixels, (i) => m[i]));

/** The values of all planes at one pixel; undefined: as if inside all shapes. */
export const valuesAt = (planes: PixelPlanes | undefined, pixel: number): number[] | undefined =>
  planes?.map((m) => m?.[pixel] ?? 0);

/** The steps from a given one on, with all regions, which may appear anywhere. */
const fromStep = (steps: readonly Step[], index: number): Step[] =>
  steps.filter((s, i) => i >= index || s.kind === REGION);

const valueOf = (quantity: Quantity, r: number, g: number, b: number): number =>
  quantity === 'luma' ? luma709(r, g, b) : quantity === 'red' ? r : quantity === 'green' ? g : b;

const SAMPLE = 160;

/**
 * Samples the pixels around a grabbed percentile, or for a level its tone. `codes` and `graded` hold the same pixels,
 * count × 3: the file's R'G'B', and encoded output of the current grade; `maps` the values of its planes there.
 */
export function grabSample(
  codes: Float32Array,
  graded: Float32Array,
  grab: Grab,
  planes: PixelPlanes = [],
): GrabSample {
  const { quantity, percentile, tone } = GRABS[grab];
  if (percentile === undefined) return { codes: new Float64Array(3).fill(tone!), quantity, atStep: true };
  const count = codes.length / 3;
  const values = new Float32Array(count);
  for (let i = 0, o = 0; i < count; i += 1, o += 3)
    values[i] = valueOf(quantity, graded[o], graded[o + 1], graded[o + 2]);
  const rank = Math.round(percentile * (count - 1));
  const reach = Math.max(SAMPLE / 2, Math.round(count * 0.001));
  const from = Math.max(0, rank - reach);
  const to = Math.min(count - 1, rank + reach);
  // Symmetric about the rank, so that the median of the sample is the percentile.
  const half = Math.min(rank - from, to - rank);
  const order = ranked(values, rank - half, rank + half);
  const picked: number[] = [];
  const pixels: number[] = [];
  const n = Math.min(SAMPLE, 2 * half + 1);
  for (let i = 0; i < n; i += 1) {
    const index = order[Math.round((i * 2 * half) / Math.max(1, n - 1))];
    pixels.push(index);
    picked.push(codes[index * 3], codes[index * 3 + 1], codes[index * 3 + 2]);
  }
  return { codes: Float64Array.from(picked), quantity, planes: planesAt(planes, pixels) };
}

const BINS = 4096;

function ends(values: Float32Array): [low: number, high: number] {
  let [low, high] = [Infinity, -Infinity];
  for (const v of values) {
    if (v < low) low = v;
    if (v > high) high = v;
  }
  return [low, high];
}

/** Indices of the values with ranks `from` to `to`, in ascending order: only the bins that contain them are sorted. */
function ranked(values: Float32Array, from: number, to: number): Uint32Array {
  const [low, high] = ends(values);
  const scale = (BINS - 1) / Math.max(1e-9, high - low);
  const bins = new Uint32Array(BINS);
  for (let i = 0; i < values.length; i += 1) bins[((values[i] - low) * scale) | 0] += 1;
  let [first, before] = [0, 0];
  while (before + bins[first] <= from) before += bins[first++];
  let [last, up] = [first, before + bins[first]];
  while (up <= to) up += bins[++last];
  const found: number[] = [];
  for (let i = 0; i < values.length; i += 1) {
    const bin = ((values[i] - low) * scale) | 0;
    if (bin >= first && bin <= last) found.push(i);
  }
  const sorted = Uint32Array.from(found).sort((a, b) => values[a] - values[b]);
  return sorted.subarray(from - before, to - before + 1);
}

/** Median of the sample after the steps. */
function sampleValue({ codes, quantity, planes }: GrabSample, steps: readonly Step[], seconds: number): number {
  const program = compile(steps, seconds);
  const values: number[] = [];
  for (let o = 0; o < codes.length; o += 3) {
    const [r, g, b] = evaluate(program, [codes[o], codes[o + 1], codes[o + 2]] as Vec3, false, valuesAt(planes, o / 3));
    values.push(valueOf(quantity, r, g, b));
  }
  values.sort((a, b) => a - b);
  const middle = (values.length - 1) / 2;
  return (values[Math.floor(middle)] + values[Math.ceil(middle)]) / 2;
}

/** Encoded output of greys that enter a step, after it and all later steps. */
export function toneHeights(
  steps: readonly Step[],
  stepId: string,
  tones: readonly number[],
  seconds: number,
): number[] {
  const from = steps.findIndex((s) => s.id === stepId);
  if (from < 0) return [];
  const codes = (tone: number) => ({ codes: new Float64Array(3).fill(tone), quantity: 'luma' as const });
  return tones.map((tone) => sampleValue(codes(tone), fromStep(steps, from), seconds));
}

export interface Solution {
  value: number;
  /** Encoded position of the grabbed part with this value. */
  landed: number;
  /** False if a limit of the parameter kept it from its target. */
  reached: boolean;
}

/**
 * Solves for the value of parameter `key` of step `stepId` that puts the sample's median at `target` after all later
 * steps: a bracketed search (bisection with false position) on the exact evaluator.
 */
export function solve(
  sample: GrabSample,
  steps: readonly Step[],
  stepId: string,
  key: string,
  target: number,
  seconds: number,
): Solution {
  const step = steps.find((s) => s.id === stepId);
  const spec = step && stepKind(step.kind).numbers.find((n) => n.key === key);
  if (!step || !spec) throw new RangeError(`Step "${stepId}" has no number "${key}".`);
  const passed = sample.atStep ? fromStep(steps, steps.indexOf(step)) : steps;
  const at = (value: number): number =>
    sampleValue(
      sample,
      passed.map((s) => (s === step ? { ...s, params: { ...s.params, [key]: value } } : s)),
      seconds,
    ) - target;
  let [lo, hi] = [spec.min, spec.max];
  let [fLo, fHi] = [at(lo), at(hi)];
  if (fLo * fHi > 0) {
    const end = Math.abs(fLo) < Math.abs(fHi) ? { value: lo, off: fLo } : { value: hi, off: fHi };
    return { value: end.value, landed: end.off + target, reached: Math.abs(end.off) < 1e-4 };
  }
  let best = { value: lo, off: fLo };
  for (let i = 0; i < 40 && Math.abs(best.off) > 2e-5; i += 1) {
    // Every third iteration bisects, so that flat stretches do not stall the search.
    const x = i % 3 === 2 || fHi === fLo ? (lo + hi) / 2 : lo - (fLo * (hi - lo)) / (fHi - fLo);
    const f = at(x);
    if (Math.abs(f) < Math.abs(best.off)) best = { value: x, off: f };
    if (f * fLo <= 0) [hi, fHi] = [x, f];
    else [lo, fLo] = [x, f];
  }
  return { value: best.value, landed: best.off + target, reached: true };
}
