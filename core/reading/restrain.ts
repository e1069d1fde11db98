import { newStep, type Step } from '../model/grade';
import type { Fault } from './correction';
import type { ClipFrame, Proposal } from './firstPass';
import { noiseIn, type NoiseCovariance } from './noise';
import { noiseAfter } from './noiseAfter';
import { outcomeOf, type Outcome } from './outcome';
import { median, percentile, spread } from './readFrames';
import {
  asSteps,
  ADDED_SATURATION,
  LEAST_ADDED_SATURATION,
  percent,
  rangeReason,
  saturationReason,
  SOFT,
} from './stepsOf';

/** Maximum noise of red and blue after the correction, relative to green's before; blue's is less visible. */
const RED_NOISE = 1.8;
const BLUE_NOISE = 3;
const [LEAST_RAISED, MOST_RAISED] = [0.2, 5];
const LIMIT_STEP = 0.25;
/** Default standard deviation of noise: an 8-bit camera in daylight, equal in all channels. */
const USUAL_NOISE = 0.006;
const USUAL: NoiseCovariance = [0, 1, 2, 3, 4, 5, 6, 7, 8].map((k) => (k % 4 === 0 ? USUAL_NOISE ** 2 : 0));

/** A channel at or below black in this share of the cells counts as lost and is rebuilt entirely. */
const LOST_CHANNEL = 0.25;
/** Range of the transmission floor of a haze step: the densest haze that is still removed. */
const [LEAST_FLOOR, MOST_FLOOR] = [0.08, 0.4];
const FLOOR_STEP = 0.04;
/**
 * Maximum noise of red after haze removal, relative to green's before; and noise that is invisible: one 8-bit code
 * value.
 */
const HAZE_NOISE = 2;
const UNSEEN = 1 / 219;

/**
 * Maximum additional share of cells that a first pass may clip at white or black. Of 50 known cases of water
 * (validation part) 2 lose over 0.5 % of the pixels at black; with a limit of 2 % there it was 7.
 */
const LOST = 0.0025;

/** Share of a frame's cells in which a channel is at or below black. */
function lostShare({ small: { code } }: ClipFrame, channel: 0 | 2): number {
  let lost = 0;
  for (let i = channel; i < code.length; i += 3) if (code[i] <= 0) lost += 1;
  return (3 * lost) / code.length;
}

/** Measured noise of a clip's channels, otherwise the default. */
function noiseOfClip(frames: readonly ClipFrame[]): NoiseCovariance {
  const measured = frames.flatMap((f) => (f.noise && f.noise[4] > 0 ? [f.noise] : []));
  return measured.length > 0 ? USUAL.map((_, k) => median(measured.map((n) => n[k]))) : USUAL;
}

/** Raises the transmission floor until red's noise after all steps is within its limit. */
function quietHaze(frames: readonly ClipFrame[], given: readonly Step[], proposals: Proposal[]): Proposal[] {
  const [frame] = spread(frames, 2).slice(-1);
  const noise = noiseOfClip(frames);
  let list = proposals;
  for (let floor = LEAST_FLOOR; floor <= MOST_FLOOR; floor += FLOOR_STEP) {
    list = withParams(list, 'haze', { floor });
    const { red } = noiseAfter(frame, [...given, ...asSteps(list)], noise);
    if (red <= HAZE_NOISE || red * noiseIn(noise, 1) <= UNSEEN) break;
  }
  return list;
}

/** Decrement (natural logarithm) for reducing added saturation, which is given up first. */
const GREYED_STEP = 0.1;

/**
 * Steps with the largest added saturation that neither amplifies noise nor clips beyond the limits; otherwise with the
 * smallest.
 */
function quietColour(
  frames: readonly ClipFrame[],
  given: readonly Step[],
  worked: (greyed: number) => Proposal[],
  [from, to]: readonly [number, number],
  before: Outcome,
  isBorne: (red: number, blue: number) => boolean,
): Proposal[] {
  if (from <= to) return worked(to);
  const [frame] = spread(frames, 2).slice(-1);
  const noise = noiseOfClip(frames);
  for (let greyed = from; greyed > to; greyed -= GREYED_STEP) {
    const list = worked(greyed);
    const steps = [...given, ...asSteps(list)];
    const { red, blue } = noiseAfter(frame, steps, noise);
    if (!isBorne(red, blue)) continue;
    const { over, under } = outcomeOf(frames, steps);
    if (over <= before.over + LOST && under <= before.under + LOST) return list;
  }
  return worked(to);
}

/** Limits in stops for raising red and blue in a water step, regardless of noise: a lost channel is rebuilt. */
function mostRaised(frame: ClipFrame): { limitRed: number; limitBlue: number } {
  const of = (channel: 0 | 2): number => (lostShare(frame, channel) > LOST_CHANNEL ? LEAST_RAISED : MOST_RAISED);
  return { limitRed: of(0), limitBlue: of(2) };
}

/** Proposals with changed parameters of the step of a kind. */
const withParams = (proposals: readonly Proposal[], kind: string, params: Record<string, unknown>): Proposal[] =>
  proposals.map((p) =>
    p.step.kind === kind ? { ...p, step: { ...p.step, params: { ...p.step.params, ...params } } } : p,
  );

/**
 * Lowers the limits for raising red and blue in a water step until their noise after all steps is within its limit; the
 * rest is rebuilt from green.
 */
function quietWater(frames: readonly ClipFrame[], given: readonly Step[], proposals: Proposal[]): Proposal[] {
  const [frame] = spread(frames, 2).slice(-1);
  const noise = noiseOfClip(frames);
  const from = mostRaised(frame);
  let list = proposals;
  for (const [key, channel, most] of [
    ['limitRed', 'red', RED_NOISE],
    ['limitBlue', 'blue', BLUE_NOISE],
  ] as const) {
    for (let limit = from[key]; limit >= LEAST_RAISED; limit -= LIMIT_STEP) {
      list = withParams(list, 'water', { [key]: limit });
      if (noiseAfter(frame, [...given, ...asSteps(list)], noise)[channel] <= most) break;
    }
  }
  return list;
}

/** Maximum chroma as a share of the vectorscope's radius (garish beyond, as in the hold check). */
const GARISH = 0.8;
/** Reducing saturation must cut clipped blacks at least to this share to be worthwhile. */
const HELPED = 0.9;
const STEP_DOWN = 0.15;
const MOST_DOWN = 8;

/** Proposals with one changed number of the step of a kind, which is added if missing. */
function changed(
  proposals: readonly Proposal[],
  kind: 'range' | 'saturation',
  key: string,
  by: (v: number) => number,
  why?: string,
): Proposal[] {
  const made = { step: newStep(kind, `first-${kind}`), reason: '' };
  const isThere = proposals.some((p) => p.step.kind === kind);
  // In working order: saturation is last.
  const last = proposals.findIndex((p) => p.step.kind === 'saturation');
  const list = isThere ? proposals : proposals.toSpliced(last < 0 ? proposals.length : last, 0, made);
  return list.map((p) => {
    if (p.step.kind !== kind) return p;
    const params = { ...p.step.params, [key]: by(p.step.params[key] as number) };
    const reason = kind === 'range' ? rangeReason(params, why) : saturationReason(params);
    return { step: { ...p.step, params: kind === 'range' ? { ...params, soft: SOFT } : params }, reason };
  });
}

/** Target encoded luma of the darkest parts (0.5th percentile over cells): just above black, by judgement. */
const DARKEST = 0.03;
/**
 * Share of the way to that target: a least-squares estimate leaves some of a veil. Of 36 known cases each, developing
 * part, haze improved from 10.29 to 10.17 (CIEDE2000 to the truth), flat recordings of haze from 13.21 to 12.77, and
 * chroma from 0.75 to 0.78 and 0.68 to 0.72 of the truth's; with 0.4 it is 10.18 and 12.71, with larger errors where it
 * is wrong. Under water it made things worse.
 */
const DEEPENED: Record<Fault, number> = { water: 0, haze: 0.25, flat: 0, white: 0 };
const LEAST_DEEPENED = 0.01;
/**
 * Maximum shift, since a scene may have no dark parts. Of 80 known cases of the validation part the worst improved from
 * 4.7 worse than untouched to 2.4.
 */
const MOST_DEEPENED = 0.06;

/** Lowers the darkest parts where steps leave them lifted. `given`: earlier steps. */
export function deepened(
  fault: Fault,
  frames: readonly ClipFrame[],
  given: readonly Step[],
  proposals: Proposal[],
): Proposal[] {
  if (DEEPENED[fault] === 0) return proposals;
  const { black } = outcomeOf(frames, [...given, ...asSteps(proposals)]);
  const lower = Math.min(MOST_DEEPENED, DEEPENED[fault] * (black - DARKEST));
  // White is preserved.
  return lower < LEAST_DEEPENED ? proposals : changed(proposals, 'range', 'black', () => -lower / (1 - black));
}

/** Measures proposals on the frames, and weakens what would clip or turn garish. */
export function judged(
  frames: readonly ClipFrame[],
  given: readonly Step[],
  proposals: Proposal[],
  before: Outcome,
): { proposals: Proposal[]; outcome: Outcome } {
  let list = proposals;
  let outcome = outcomeOf(frames, [...given, ...asSteps(list)]);
  /** Changes one number of the step of a kind, added if missing, and measures again. */
  const change = (kind: 'range' | 'saturation', key: string, by: (v: number) => number): void => {
    list = changed(list, kind, key, by, 'so that no highlights are lost');
    outcome = outcomeOf(frames, [...given, ...asSteps(list)]);
  };
  const weaker = (amount: number): number => Math.max(0.3, amount * 0.92);
  for (let k = 0; k < MOST_DOWN && outcome.chroma > Math.max(GARISH, before.chroma); k += 1)
    change('saturation', 'amount', weaker);
  for (let k = 0; k < MOST_DOWN && outcome.under > before.under + LOST; k += 1) {
    const was = [list, outcome] as const;
    change('saturation', 'amount', weaker);
    // The cause was not saturation: the scene is dark.
    if (outcome.under > was[1].under * HELPED) {
      [list, outcome] = was;
      break;
    }
  }
  for (let k = 0; k < MOST_DOWN && outcome.over > before.over + LOST; k += 1)
    change('range', 'exposure', (v) => v - STEP_DOWN);
  return { proposals: list, outcome };
}

/** Range in which a roll-off starts, encoded; range of soft ends; and the quantile that counts as brightest. */
const [EARLIEST, LATEST] = [0.7, 0.95];
const [LEAST_SOFT, MOST_SOFT] = [SOFT, 0.1];
const BRIGHTEST = 0.999;
/** Kinds that change the colour of highlights after a conversion. */
const RECOLOURS = ['balance', 'haze', 'water'];

/**
 * Gives highlights that a conversion brings beyond white a shoulder, where they would be clipped: a roll-off in the
 * conversion or, where later steps change their colour, soft ends behind these, since channels that roll off before a
 * balance would leave a cast. `given`: earlier steps.
 *
 * A shoulder from s has the slope 1 / (1 + (v − s) / (1 − s))² at v: with s = 2 − v, the brightest value v keeps a
 * ninth of its contrast.
 */
export function withShoulder(frames: readonly ClipFrame[], given: readonly Step[], proposals: Proposal[]): Proposal[] {
  if (!proposals.some((p) => p.step.kind === 'convert')) return proposals;
  const { over, encoded } = outcomeOf(frames, [...given, ...asSteps(proposals)]);
  if (over <= outcomeOf(frames, given).over + LOST) return proposals;
  const largest = new Float64Array(encoded.length / 3);
  for (let i = 0; i < largest.length; i += 1)
    largest[i] = Math.max(encoded[3 * i], encoded[3 * i + 1], encoded[3 * i + 2]);
  const start = 2 - percentile(largest, BRIGHTEST);
  if (proposals.some((p) => RECOLOURS.includes(p.step.kind))) {
    const soft = Math.round(100 * Math.min(MOST_SOFT, Math.max(LEAST_SOFT, 1 - start))) / 100;
    const isThere = proposals.some((p) => p.step.kind === 'range');
    const list = isThere ? proposals : changed(proposals, 'range', 'exposure', (v) => v);
    const reason = ` Soft ends of ${percent(soft)}, so that no highlights are lost.`;
    return withParams(list, 'range', { soft }).map((p) =>
      p.step.kind === 'range' ? { ...p, reason: (p.reason + reason).trim() } : p,
    );
  }
  const rollOff = Math.round(100 * Math.min(LATEST, Math.max(EARLIEST, start))) / 100;
  const reason = ` Highlights beyond white roll off from ${percent(rollOff)}.`;
  return withParams(proposals, 'convert', { rollOff }).map((p) =>
    p.step.kind === 'convert' ? { ...p, reason: p.reason + reason } : p,
  );
}

/**
 * Limits a correction so that amplified noise stays acceptable. `given`: earlier steps, and `before` their outcome;
 * `worked`: returns the steps with this much saturation added (natural logarithm). `hidden`: the fault was found in a
 * converted flat recording, whose colour is less certain; only the minimum is added.
 */
export function quietened(
  fault: Fault,
  frames: readonly ClipFrame[],
  given: readonly Step[],
  before: Outcome,
  worked: (greyed: number) => Proposal[],
  hidden: boolean,
): Proposal[] {
  const between = [
    hidden ? LEAST_ADDED_SATURATION[fault] : ADDED_SATURATION[fault],
    LEAST_ADDED_SATURATION[fault],
  ] as const;
  if (fault === 'water') {
    const most = mostRaised(spread(frames, 2).slice(-1)[0]);
    const raised = (greyed: number): Proposal[] => withParams(worked(greyed), 'water', most);
    const isBorne = (red: number, blue: number): boolean => red <= RED_NOISE && blue <= BLUE_NOISE;
    return quietWater(frames, given, quietColour(frames, given, raised, between, before, isBorne));
  }
  if (fault !== 'haze') return worked(between[0]);
  const least = noiseIn(noiseOfClip(frames), 1);
  const isBorne = (red: number): boolean => red <= HAZE_NOISE || red * least <= UNSEEN;
  return quietHaze(frames, given, quietColour(frames, given, worked, between, before, isBorne));
}
