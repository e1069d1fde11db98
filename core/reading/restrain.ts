import { newStep, type Step } from '../model/grade';
import type { Fault } from './correction';
import type { ClipFrame, Proposal } from './firstPass';
import { noiseIn, type NoiseCovariance } from './noise';
import { noiseAfter } from './noiseAfter';
import { outcomeOf, type Outcome } from './outcome';
import { median, spread } from './readFrames';
import { asSteps, exposureReason, saturationReason, SOFT } from './stepsOf';

/** Noise of red after the water is taken off, over green's before, that is borne; blue's is seen less. */
const RED_NOISE = 1.8;
const BLUE_NOISE = 3;
const [LEAST_RAISED, MOST_RAISED] = [0.2, 5];
const LIMIT_STEP = 0.25;
/** Deviation of the noise where it was not measured: an 8-bit camera's in daylight, alike in all channels. */
const USUAL_NOISE = 0.006;
const USUAL: NoiseCovariance = [0, 1, 2, 3, 4, 5, 6, 7, 8].map((k) => (k % 4 === 0 ? USUAL_NOISE ** 2 : 0));

/** A channel that lies at black or below in this share of the cells is lost: all of it is rebuilt. */
const LOST_CHANNEL = 0.25;
/** Densest haze that is still taken off, by its transmission; the least and the most that it is held to. */
const [LEAST_FLOOR, MOST_FLOOR] = [0.08, 0.4];
const FLOOR_STEP = 0.04;
/** Noise of red after haze is taken off, over green's before, that is borne; and noise that nobody sees: a code value of 8 bits. */
const HAZE_NOISE = 2;
const UNSEEN = 1 / 219;

/** Share of a frame's cells in which a channel lies at black or below. */
function lostShare({ small: { code } }: ClipFrame, channel: 0 | 2): number {
  let lost = 0;
  for (let i = channel; i < code.length; i += 3) if (code[i] <= 0) lost += 1;
  return (3 * lost) / code.length;
}

/** Noise of a clip's channels as it was measured, else the usual. */
function noiseOfClip(frames: readonly ClipFrame[]): NoiseCovariance {
  const measured = frames.flatMap((f) => (f.noise && f.noise[4] > 0 ? [f.noise] : []));
  return measured.length > 0 ? USUAL.map((_, k) => median(measured.map((n) => n[k]))) : USUAL;
}

/** Leaves so much of dense haze that red's noise, through all steps, is borne. */
function quietHaze(frames: readonly ClipFrame[], given: readonly Step[], proposals: Proposal[]): Proposal[] {
  const [frame] = spread(frames, 2).slice(-1);
  const noise = noiseOfClip(frames);
  let list = proposals;
  for (let floor = LEAST_FLOOR; floor <= MOST_FLOOR; floor += FLOOR_STEP) {
    list = list.map((p) =>
      p.step.kind === 'haze' ? { ...p, step: { ...p.step, params: { ...p.step.params, floor } } } : p,
    );
    const { red } = noiseAfter(frame, [...given, ...asSteps(list)], noise);
    if (red <= HAZE_NOISE || red * noiseIn(noise, 1) <= UNSEEN) break;
  }
  return list;
}

/**
 * Holds back what a water step raises red and blue by until their noise, through all steps, is borne; what is held back is
 * rebuilt from green.
 */
function quietWater(frames: readonly ClipFrame[], given: readonly Step[], proposals: Proposal[]): Proposal[] {
  const [frame] = spread(frames, 2).slice(-1);
  const noise = noiseOfClip(frames);
  let list = proposals;
  for (const [key, channel, at, most] of [
    ['limitRed', 'red', 0, RED_NOISE],
    ['limitBlue', 'blue', 2, BLUE_NOISE],
  ] as const) {
    const from = lostShare(frame, at) > LOST_CHANNEL ? LEAST_RAISED : MOST_RAISED;
    for (let limit = from; limit >= LEAST_RAISED; limit -= LIMIT_STEP) {
      list = list.map((p) =>
        p.step.kind === 'water' ? { ...p, step: { ...p.step, params: { ...p.step.params, [key]: limit } } } : p,
      );
      if (noiseAfter(frame, [...given, ...asSteps(list)], noise)[channel] <= most) break;
    }
  }
  return list;
}

/** A first pass may lose so much more than the file had lost. */
const LOST = 0.0025;
/** Colours beyond this share of the vectorscope's radius are garish (as the hold check has it), and are held to it. */
const GARISH = 0.8;
/** Beyond black, where saturated darks go, more is borne; less saturation must bring it down by this much to be worth it. */
const UNDER = 0.02;
const HELPED = 0.9;
const STEP_DOWN = 0.15;
const MOST_DOWN = 8;

/** Measures proposals on the frames, and weakens what would clip or turn garish. */
export function judged(
  frames: readonly ClipFrame[],
  given: readonly Step[],
  proposals: Proposal[],
  before: Outcome,
): { proposals: Proposal[]; outcome: Outcome } {
  let list = proposals;
  let outcome = outcomeOf(frames, [...given, ...asSteps(list)]);
  /** Changes one number of the step of a kind, which is made where there is none, and measures again. */
  const change = (kind: 'range' | 'saturation', key: string, by: (v: number) => number): void => {
    if (!list.some((p) => p.step.kind === kind)) list = [...list, { step: newStep(kind, `first-${kind}`), reason: '' }];
    list = list.map((p) => {
      if (p.step.kind !== kind) return p;
      const params = { ...p.step.params, [key]: by(p.step.params[key] as number) };
      const held = exposureReason(params).replace(/, to where.*/, ', so that nothing bright is lost.');
      const reason = kind === 'range' ? held : saturationReason(params);
      return { step: { ...p.step, params: kind === 'range' ? { ...params, soft: SOFT } : params }, reason };
    });
    outcome = outcomeOf(frames, [...given, ...asSteps(list)]);
  };
  const weaker = (amount: number): number => Math.max(0.3, amount * 0.92);
  for (let k = 0; k < MOST_DOWN && outcome.chroma > Math.max(GARISH, before.chroma); k += 1)
    change('saturation', 'amount', weaker);
  for (let k = 0; k < MOST_DOWN && outcome.under > before.under + UNDER; k += 1) {
    const was = [list, outcome] as const;
    change('saturation', 'amount', weaker);
    // Not by its colour, then: what is dark stays dark.
    if (outcome.under > was[1].under * HELPED) {
      [list, outcome] = was;
      break;
    }
  }
  for (let k = 0; k < MOST_DOWN && outcome.over > before.over + LOST; k += 1)
    change('range', 'exposure', (v) => v - STEP_DOWN);
  return { proposals: list, outcome };
}

/** Holds a correction back to where the noise that it raises is borne. `given`: steps that come before. */
export function quietened(
  fault: Fault,
  frames: readonly ClipFrame[],
  given: readonly Step[],
  proposals: Proposal[],
): Proposal[] {
  if (fault === 'water') return quietWater(frames, given, proposals);
  return fault === 'haze' ? quietHaze(frames, given, proposals) : proposals;
}
