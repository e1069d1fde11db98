import { z } from 'zod';
import { fps, type MediaFacts } from './facts';

/** How fast a clip is delivered, and at which frame rate. */
export const retimeSchema = z.object({
  /** Times the recorded speed. */
  factor: z.number().min(0.05).max(8),
  /** Frames a second as a fraction; null: as the clip's own. */
  rate: z.object({ num: z.number().int().positive(), den: z.number().int().positive() }).nullable().default(null),
  /** What stands where no frame was recorded: the nearest one, or a blend of both neighbours. */
  between: z.enum(['nearest', 'blended']).default('nearest'),
  /** Whether the sound follows, at its own pitch, or goes. */
  sound: z.enum(['follows', 'goes']).default('follows'),
});
export type Retime = z.infer<typeof retimeSchema>;
type Rate = MediaFacts['frameRate'];

/** The frame rate that a clip is delivered at. */
export const deliveredRate = (facts: Pick<MediaFacts, 'frameRate'>, { rate }: Retime): Rate => rate ?? facts.frameRate;

/** Rates that differ by less are one: a factor such as 25/30 has no end. */
const SAME = 1e-6;

/** Recorded frames shown in a second, as a fraction: the delivered rate itself where the factor leads to it. */
export function shownRate(facts: Pick<MediaFacts, 'frameRate'>, retime: Retime): Rate {
  const delivered = deliveredRate(facts, retime);
  const shown = fps(facts) * retime.factor;
  if (Math.abs((shown * delivered.den) / delivered.num - 1) < SAME) return delivered;
  const { num, den } = facts.frameRate;
  return { num: num * Math.max(1, Math.round(retime.factor * 1000)), den: den * 1000 };
}

const equalRates = (a: Rate, b: Rate): boolean => a.num * b.den === b.num * a.den;

/** Whether every recorded frame is delivered, each once. */
export const keepsFrames = (facts: Pick<MediaFacts, 'frameRate'>, retime: Retime): boolean =>
  equalRates(shownRate(facts, retime), deliveredRate(facts, retime));

/** Frames that so many of a clip become as they are delivered; about one more or less where rates do not meet. */
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

/** Seconds that so many frames of a clip last as they are delivered. */
export const retimedSeconds = (facts: Pick<MediaFacts, 'frameRate'>, frames: number, retime: Retime | null): number =>
  frames / fps(facts) / (retime?.factor ?? 1);

/** The speed at which every recorded frame of a clip is shown once at another rate: 120 to 30 is a quarter. */
export function conform(facts: Pick<MediaFacts, 'frameRate'>, rate: Rate): Retime | null {
  const factor = rate.num / rate.den / fps(facts);
  const made = retimeSchema.safeParse({ factor, rate });
  return made.success ? made.data : null;
}

/** The rate that most clips of an outing have; the lower one where two are as many. Undefined for none. */
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
