import { z } from 'zod';

/** A range of frames of a clip. */
const partSchema = z.object({ first: z.number().int().nonnegative(), count: z.number().int().positive() });
/** A part of an unfinished proxy: frames that can already be played. */
export type ProxyPart = z.infer<typeof partSchema>;

export const proxyPartsSchema = z.object({
  /** Playable parts, in order. */
  made: z.array(partSchema),
  /** The part being made. */
  making: partSchema.nullable(),
});
export type ProxyParts = z.infer<typeof proxyPartsSchema>;

/** Share of the pictures in the work of a proxy; sound, strip and representative frame come after. */
export const PICTURES_SHARE = 0.97;

/**
 * Finished ranges of a clip as shares of its length, 0–1, in order, adjacent ones merged. `progress`: of the job, from
 * which the progress of the current part is derived.
 */
export function madeStretches(
  { made, making }: ProxyParts,
  progress: number,
  frames: number,
): { from: number; to: number }[] {
  const whole = made.reduce((sum, { count }) => sum + count, 0);
  const begun = Math.min(making?.count ?? 0, Math.max(0, Math.round((progress / PICTURES_SHARE) * frames) - whole));
  const parts = making && begun > 0 ? [...made, { first: making.first, count: begun }] : made;
  const stretches: { from: number; to: number }[] = [];
  for (const { first, count } of [...parts].sort((a, b) => a.first - b.first)) {
    const last = stretches.at(-1);
    const to = (first + count) / frames;
    if (last && last.to >= first / frames - 1e-9) last.to = Math.max(last.to, to);
    else stretches.push({ from: first / frames, to });
  }
  return stretches;
}
