import { z } from 'zod';
import { fps, type MediaFacts } from './facts';

/** Speed and frame rate of a delivered clip. */
export const retimeSchema = z.object({
  /** Speed relative to the recording. */
  factor: z.number().min(0.05).max(8),
  /** Frames per second as a fraction; null: the clip's own. */
  rate: z.object({ num: z.number().int().positive(), den: z.number().int().positive() }).nullable().default(null),
  /** How in-between frames are made: the nearest one, or a blend of both neighbours. */
  between: z.enum(['nearest', 'blended']).default('nearest'),
  /** Whether the sound is time-stretched at its own pitch, or removed. */
  sound: z.enum(['follows', 'goes']).default('follows'),
});
export type Retime = z.infer<typeof retimeSchema>;
type Rate = MediaFacts['frameRate'];

/** The delivered frame rate of a clip. */
export const deliveredRate = (facts: Pick<MediaFacts, 'frameRate'>, { rate }: Retime): Rate => rate ?? facts.frameRate;

/** Rates that differ by less are equal: factors such as 25/30 are not exact. */
const SAME = 1e-6;

/** Recorded frames shown per second, as a fraction: exactly the delivered rate where the factor leads to it. */
export function shownRate(facts: Pick<MediaFacts, 'frameRate'>, retime: Retime): Rate {
  const delivered = deliveredRate(facts, retime);
  const shown = fps(facts) * retime.factor;
  if (Math.abs((shown * delivered.den) / delivered.num - 1) < SAME) return delivered;
  const { num, den } = facts.frameRate;
  return { num: num * Math.max(1, Math.round(retime.factor * 1000)), den: den * 1000 };
}

const equalRates = (a: Rate, b: Rate): boolean => a.num * b.den === b.num * a.den;

/** Whether every recorded frame is delivered exactly once. */
export const keepsFrames = (facts: Pick<MediaFacts, 'frameRate'>, retime: Retime): boolean =>
  equalRates(shownRate(facts, retime), deliveredRate(facts, retime));

/** Number of delivered frames for this many of a clip; off by about one where rates do not match. */
export function deliveredFrames(
  facts: Pick<MediaFacts, 'frameRate'>,
  frames: number,
  retime: Retime | undefined,
): number {
  if (!retime || keepsFrames(facts, retime)) return frames;
  return Math.max(
    1,
    Math.round(
      (frames * fps({ frameRate: deliveredRate(facts, retime) })) / fps({ frameRate: shownRate(facts, retime) }),
    ),
  );
}

/** Delivered duration in seconds of this many frames of a clip. */
export const retimedSeconds = (facts: Pick<MediaFacts, 'frameRate'>, frames: number, retime: Retime | null): number =>
  frames / fps(facts) / (retime?.factor ?? 1);

/** The speed at which every recorded frame is shown exactly once at another rate: a quarter for 120 to 30. */
export function conform(facts: Pick<MediaFacts, 'frameRate'>, rate: Rate): Retime | null {
  const factor = rate.num / rate.den / fps(facts);
  const made = retimeSchema.safeParse({ factor, rate });
  return made.success ? made.data : null;
}

/** The most frequent rate of an outing's clips; on a tie, the lower one. Undefined for none. */
export function usualRate(clips: readonly { facts: Pick<MediaFacts, 'frameRate'> }[]): Rate | undefined {
  const counts = new Map<string, { rate: Rate; count: number }>();
  for (const { facts } of clips) {
    const key = fps(facts).toFixed(3);
    const known = counts.get(key) ?? { rate: facts.frameRate, count: 0 };
    counts.set(key, { ...known, count: known.count + 1 });
  }
  const [best] = [...counts.values()].sort(
    (a, b) => b.count - a.count || a.rate.num / a.rate.den - b.rate.num / b.rate.den,
  );
  return best?.rate;
}
