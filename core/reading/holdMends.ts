import { decode709 } from '../colour/transferTables';
import { newStep, type Step } from '../model/grade';
import { isKeyframed, valueAt } from '../regions/keyframes';
import { simplify } from '../model/simplify';
import { stepKind } from '../steps';
import { GAIN_LIMIT_STOPS } from '../steps/balance/gains';
import { DULL_BLACK, DULL_WHITE, LEVEL_DRIFT, percent, type HoldMoment } from './holdMeasures';
import { median } from './readFrames';

// Candidate changes of steps that may mend what a hold check finds; it tries each of them.

/** A named change of the steps. */
export interface Change {
  title: string;
  steps: Step[];
}

/** Whether the step with this id may be changed. */
export type Own = (id: string) => boolean;

/** Changes the last own step of a kind, or appends one if there is none. */
function withStep(steps: readonly Step[], kind: string, own: Own, change: (step: Step) => Step): Step[] {
  const at = steps.findLastIndex((s) => s.kind === kind && s.on && own(s.id));
  if (at < 0) return [...steps, change(newStep(kind, freeId(steps, kind)))];
  return steps.map((s, i) => (i === at ? change(s) : s));
}

function freeId(steps: readonly Step[], kind: string): string {
  let id = kind;
  for (let i = 2; steps.some((s) => s.id === id); i += 1) id = `${kind}-${i}`;
  return id;
}

/** Darker highlights have no reliable colour. */
const LEAST_LIGHT = 0.01;

/** Strongest soft ends. */
const SOFT = 0.12;
export const softerEnds = (steps: readonly Step[], own: Own): Step[] =>
  withStep(steps, 'range', own, (s) => ({ ...s, params: { ...s.params, soft: SOFT } }));
/**
 * Tolerance of keyframes: stops of exposure, and of a channel's gain. Smaller than the margin that a mend leaves to its
 * limit: at a level of 50 % about 0.04 stops of exposure.
 */
const EXPOSURE_OFF = 0.03;
const GAIN_OFF = 0.03;

interface Key {
  seconds: number;
  value: number;
  ease: 'smooth';
}
/** Simplifies keyframes that were computed moment by moment. */
const fewest = (keys: readonly Key[], limit: number, measure = (v: number): number => v): Key[] =>
  simplify(keys, (from, to, { seconds, value }) => {
    const there = valueAt({ keys: [from, to] }, seconds);
    return Math.abs(measure(there) - measure(value)) / limit;
  });

/** Bisection steps for a strength: to 1/64. */
const HALVINGS = 6;

/** Below this strength a step has almost no effect: all steps are weakened together instead. */
const HARDLY = 0.25;

/** Reduces the strength of some steps to a share, rounded down to whole percent. */
const weakened = (steps: readonly Step[], some: readonly Step[], share: number): Step[] =>
  steps.map((s) => (some.includes(s) ? { ...s, strength: Math.floor(100 * share * s.strength) / 100 } : s));

/**
 * Weakens steps until a limit is met: each own step alone, those that keep most of their strength first; all of them
 * together before those that would almost vanish. `excess` measures how far steps exceed the limit, 0 within it.
 */
export function weakerMends(steps: readonly Step[], own: Own, excess: (steps: readonly Step[]) => number): Change[] {
  const strong = steps.filter((s) => s.on && own(s.id) && s.kind !== 'convert' && s.strength > 0.1);
  const found = (some: readonly Step[]): { some: readonly Step[]; share: number } | null => {
    if (excess(weakened(steps, some, 0)) > 0) return null;
    let [within, beyond] = [0, 1];
    for (let i = 0; i < HALVINGS; i += 1) {
      const middle = (within + beyond) / 2;
      if (excess(weakened(steps, some, middle)) > 0) beyond = middle;
      else within = middle;
    }
    return { some, share: within };
  };
  const alone = strong
    .map((s) => found([s]))
    .filter((f) => f !== null)
    .toSorted((a, b) => b.share - a.share);
  const isEnough = ({ share }: { share: number }): boolean => share >= HARDLY;
  const together = alone.some(isEnough) || strong.length < 2 ? null : found(strong);
  return [...alone, ...(together ? [together] : [])]
    .toSorted((a, b) => Number(isEnough(b)) - Number(isEnough(a)))
    .map(({ some, share }) => {
      const weaker = weakened(steps, some, share);
      const [{ strength }] = weaker.filter((s) => s.id === some[0].id);
      const title = some.length > 1 ? `All steps at ${percent(share)}` : `${nameOf(some[0])} at ${percent(strength)}`;
      return { title, steps: weaker };
    });
}

const nameOf = ({ label, kind }: Step): string => label ?? stepKind(kind).title;

/** Softer ends are offered where they leave less than this share of the loss. */
export const WORTH = 0.8;

/** A drift is reduced to this share of its limit: a pan into the light may stay brighter than the rest. */
const WITHIN = 0.9;

/** Keyframes exposure so that the level of every moment stays within its limit, or applies a share of that (0–1). */
export function levelMend(steps: readonly Step[], moments: readonly HoldMoment[], own: Own, share: number): Change {
  const middle = median(moments.map((m) => m.level));
  const range = steps.findLast((s) => s.kind === 'range' && s.on && own(s.id));
  const given = range?.params.exposure;
  const all = moments.map((m): Key => {
    const now = isKeyframed(given) ? valueAt(given, m.seconds) : typeof given === 'number' ? given : 0;
    const reach = WITHIN * LEVEL_DRIFT;
    const wanted = Math.min(middle + reach, Math.max(middle - reach, m.level));
    // Encoded values are roughly proportional to the square root of light.
    const stops = share * 2 * Math.log2(Math.max(0.02, wanted) / Math.max(0.02, m.level));
    return { seconds: m.seconds, value: Math.min(5, Math.max(-5, now + stops)), ease: 'smooth' };
  });
  const keys = fewest(all, EXPOSURE_OFF);
  return {
    title: 'Exposure by keyframes',
    steps: withStep(steps, 'range', own, (s) => ({ ...s, params: { ...s.params, exposure: { keys } } })),
  };
}

/** A cast just within its limit is still visible beside the rest; at half of it, hardly. */
const CAST_WITHIN = 0.5;

/**
 * Appends a balance with keyframed gains: the highlight cast of every moment is brought within its limit (`bearable`,
 * of (red − blue) / green), or by a share of that (0–1). Luminance is preserved.
 */
export function castMend(
  steps: readonly Step[],
  moments: readonly HoldMoment[],
  bearable: number,
  share: number,
): Change {
  const middle = median(moments.map((m) => m.cast));
  const reach = CAST_WITHIN * bearable;
  const all: Record<'red' | 'blue', Key[]> = { red: [], blue: [] };
  for (const { seconds, cast, bright } of moments) {
    const wanted = Math.min(middle + reach, Math.max(middle - reach, cast));
    const [red, green, blue] = bright;
    // Half of it by red, half by blue, in encoded values; the step's gains are in linear light.
    const moved = (share * (wanted - cast) * green) / 2;
    const gain = (from: number, to: number): number => {
      const [a, b] = [from, to].map((v) => Math.max(LEAST_LIGHT, decode709(v)));
      return Math.min(2 ** GAIN_LIMIT_STOPS, Math.max(2 ** -GAIN_LIMIT_STOPS, b / a));
    };
    all.red.push({ seconds, value: gain(red, red + moved), ease: 'smooth' });
    all.blue.push({ seconds, value: gain(blue, blue - moved), ease: 'smooth' });
  }
  const [red, blue] = [all.red, all.blue].map((keys) => ({ keys: fewest(keys, GAIN_OFF, Math.log2) }));
  const params = { method: 'gains', red, blue };
  return {
    title: 'Balance by keyframes',
    steps: [...steps, { ...newStep('balance', freeId(steps, 'balance'), params), label: 'Balance over the clip' }],
  };
}

/** Target levels of the darkest and brightest parts of a clip (common practice: just above 0 %, just below 100 %). */
const [DARK_AT, BRIGHT_AT] = [0.03, 0.95];
/** Margin within the limits for the ends of the dullest moment. */
const BORNE_BY = 0.05;
/** Soft ends, so that values slightly beyond are not clipped. */
const ENDS_SOFT = 0.03;
/** Ends closer than this, as a share of the range, count as equal. */
const LEAST_SPAN = 0.05;
/** Limits of a range step's black and white point. */
const [LEAST_POINT, MOST_BLACK, MOST_WHITE] = [-0.6, 0.6, 1.5];
/** Tolerance of keyframes for the ends. */
const ENDS_OFF = 0.01;

/**
 * Appends a range step that brings the clip's ends to their target levels, constant over the clip; keyframed further
 * where a single moment would still be dull. Or applies a share of that (0–1).
 */
export function dullMend(steps: readonly Step[], moments: readonly HoldMoment[], share: number): Change {
  const [lowest, highest] = [Math.min(...moments.map((m) => m.black)), Math.max(...moments.map((m) => m.white))];
  const [dark, bright] = [Math.min(lowest, DARK_AT), Math.max(highest, BRIGHT_AT)];
  const alike = (v: number): number => dark + ((v - lowest) * (bright - dark)) / Math.max(LEAST_SPAN, highest - lowest);
  const keys: Record<'black' | 'white', Key[]> = { black: [], white: [] };
  for (const { seconds, black, white } of moments) {
    const low = Math.min(alike(black), DULL_BLACK - BORNE_BY);
    const high = Math.max(alike(white), DULL_WHITE + BORNE_BY);
    // The dark end has priority where the step's limits do not allow both.
    const slope = Math.min(
      (high - low) / Math.max(LEAST_SPAN, white - black),
      (low - LEAST_POINT) / Math.max(LEAST_SPAN, black),
      (1 + MOST_WHITE - low) / (1 - Math.min(0.9, black)),
    );
    const zero = low - black * slope;
    const key = (value: number, most: number): Key => ({
      seconds,
      value: share * Math.min(most, Math.max(LEAST_POINT, value)),
      ease: 'smooth',
    });
    keys.black.push(key(zero, MOST_BLACK));
    keys.white.push(key(zero + slope - 1, MOST_WHITE));
  }
  const [black, white] = [keys.black, keys.white].map((all) =>
    all.every(({ value }) => Math.abs(value - all[0].value) <= ENDS_OFF)
      ? all[0].value
      : { keys: fewest(all, ENDS_OFF) },
  );
  const params = { black, white, soft: ENDS_SOFT };
  return {
    title: 'Range over the clip',
    steps: [...steps, { ...newStep('range', freeId(steps, 'range'), params), label: 'Range over the clip' }],
  };
}
