import { bt709 } from '../../colour/transfer';
import { depthAt, depthKeys, type ClipDive } from '../../model/diveLog';
import type { Step } from '../../model/grade';
import { isKeyframed, resolveParams, valueAt, type Keyframed } from '../../regions/keyframes';
import { FIT_LIMITS, MOST_VEIL, water, waterLeft, type WaterParams } from './index';

/** Number of times over a clip at which losses are compared. */
const TIMES = 9;

/** Natural logarithms of the transmitted light, relative to the surface and to the same depth close by. */
interface Losses {
  whole: number[];
  across: number[];
}

/** `modelled`: the losses of red and blue are those of the type of water. */
function lossesOf(p: WaterParams, modelled = false): Losses {
  const of = modelled ? { ...p, fitRed: 1, fitBlue: 1 } : p;
  const whole = waterLeft(of, p.depth, p.distance).map(Math.log);
  const here = waterLeft(of, p.depth, 0).map(Math.log);
  return { whole, across: whole.map((l, c) => l - here[c]) };
}

const clamp = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v));

/**
 * Parameters of a water step whose depth starts to follow a dive log, over a clip of this many seconds. Losses measured
 * in the clip, by a first pass or a pick, were measured at the step's previous depths: at the log's depths they are
 * refitted by least squares over the clip, so that the same amounts of red, blue and veil are corrected, and only the
 * change over the clip follows the log. Modelled losses follow the model; keyframed losses stay unchanged.
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

/** Keys within this many metres of a log belong to it: a first pass ends them at the last picture that it reads. */
const SAME_DEPTH = 0.05;

/** Whether the depth of a step is that of a clip's dive log. */
export const followsLog = ({ kind, params: { depth } }: Step, dive: ClipDive | null): boolean =>
  dive !== null &&
  kind === water.kind &&
  isKeyframed(depth) &&
  depth.keys.every(({ seconds, value }) => Math.abs(value - depthAt(dive.log, seconds + dive.offset)) < SAME_DEPTH);

/** A keyframed depth as one number: the mean of the first and the last. */
const middleOf = (depth: Keyframed): number =>
  valueAt(depth, (depth.keys[0].seconds + depth.keys[depth.keys.length - 1].seconds) / 2);

/**
 * Adapts steps of one clip to another clip of this many seconds: the same water, at the depths of that clip's own dive
 * log, or at a constant depth if it has none. `following`: ids of the steps whose depth follows a log.
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
