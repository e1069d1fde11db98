import { bt709 } from '../../colour/transfer';
import { depthAt, depthKeys, type ClipDive } from '../../model/diveLog';
import type { Step } from '../../model/grade';
import { isKeyframed, resolveParams, valueAt, type Keyframed } from '../../regions/keyframes';
import { FIT_LIMITS, MOST_VEIL, water, waterLeft, type WaterParams } from './index';

/** Times over a clip at which losses are compared. */
const TIMES = 9;

/** Natural logarithms of what is left, of the light at the surface and of that at the same depth close by. */
interface Losses {
  whole: number[];
  across: number[];
}

/** `modelled`: the losses of red and blue as the type of water has them. */
function lossesOf(p: WaterParams, modelled = false): Losses {
  const of = modelled ? { ...p, fitRed: 1, fitBlue: 1 } : p;
  const whole = waterLeft(of, p.depth, p.distance).map(Math.log);
  const here = waterLeft(of, p.depth, 0).map(Math.log);
  return { whole, across: whole.map((l, c) => l - here[c]) };
}

const clamp = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v));

/**
 * Parameters of a water step once its depth follows a dive log over a clip of so many seconds. Losses that were measured in
 * the clip, by a first pass or a pick, were measured at the depths that the step had then: at the log's depths they are
 * fitted anew, by least squares over the clip, so that as much red and blue comes back as before and as much veil is taken
 * off, and only what changes over the clip follows the log. Where the losses are those of the type of water, it follows the
 * model; losses with keyframes stay as they are.
 */
export function followLog(
  params: Readonly<Record<string, unknown>>,
  dive: ClipDive,
  clipSeconds: number,
): Record<string, unknown> {
  const depth = { keys: depthKeys(dive, clipSeconds) };
  const next = { ...params, depth };
  const fits = ['fitRed', 'fitBlue'] as const;
  if (fits.some((key) => isKeyframed(params[key])) || fits.every((key) => (params[key] ?? 1) === 1)) return next;
  const pairs = Array.from({ length: TIMES }, (_, i) => {
    const seconds = (i / (TIMES - 1)) * clipSeconds;
    const before = water.schema.parse(resolveParams(params, seconds));
    return [before, { ...before, depth: valueAt(depth, seconds) }] as const;
  });
  const losses = pairs.map(([before, after]) => ({ before: lossesOf(before), model: lossesOf(after, true) }));
  const fitted = Object.fromEntries(
    fits.map((key, k) => {
      const c = 2 * k;
      let [above, below] = [0, 0];
      for (const { before, model } of losses) {
        const wanted = model.whole[1] - (before.whole[1] - before.whole[c]);
        above += wanted * model.whole[c];
        below += model.whole[c] ** 2;
      }
      return [key, below > 0 ? clamp(above / below, ...FIT_LIMITS) : (params[key] as number)];
    }),
  );
  const [before, after] = pairs[TIMES >> 1];
  const [was, is] = [lossesOf(before), lossesOf({ ...after, ...fitted })];
  const veils = (['veilRed', 'veilGreen', 'veilBlue'] as const).flatMap((key, c) => {
    const [hid, hides] = [was, is].map(({ across }) => 1 - Math.exp(across[c]));
    if (isKeyframed(params[key]) || !(hid > 0) || !(hides > 0)) return [];
    return [[key, clamp(bt709.encode((bt709.decode(before[key]) * hid) / hides), 0, MOST_VEIL)]];
  });
  return { ...next, ...fitted, ...Object.fromEntries(veils) };
}

/** Keys that lie this near a log, in metres, are the log's: a first pass ends them with the last picture that it reads. */
const SAME_DEPTH = 0.05;

/** Whether the depth of a step is that of a clip's dive log. */
export const followsLog = ({ kind, params: { depth } }: Step, dive: ClipDive | null): boolean =>
  dive !== null &&
  kind === water.kind &&
  isKeyframed(depth) &&
  depth.keys.every(({ seconds, value }) => Math.abs(value - depthAt(dive.log, seconds + dive.offset)) < SAME_DEPTH);

/** A depth with keys as one number: that halfway between the first and the last. */
const middleOf = (depth: Keyframed): number =>
  valueAt(depth, (depth.keys[0].seconds + depth.keys[depth.keys.length - 1].seconds) / 2);

/**
 * Steps of one clip for another clip of so many seconds: the same water, at the depths of that clip's own dive log, or at one
 * depth where it has none, since it went up and down at other times. `following`: ids of those whose depth is a log's.
 */
export const atDepthsOf = (
  steps: readonly Step[],
  following: readonly string[],
  dive: ClipDive | null,
  clipSeconds: number,
): Step[] =>
  steps.map((s) => {
    const { depth } = s.params;
    if (!following.includes(s.id) || !isKeyframed(depth)) return s;
    return { ...s, params: { ...s.params, depth: dive ? { keys: depthKeys(dive, clipSeconds) } : middleOf(depth) } };
  });
