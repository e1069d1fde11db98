import { z } from 'zod';

/** Frames of a clip, from one on. */
const partSchema = z.object({ first: z.number().int().nonnegative(), count: z.number().int().positive() });
/** A part of a proxy that is not whole yet: frames of the clip that can be played already. */
export type ProxyPart = z.infer<typeof partSchema>;

export const proxyPartsSchema = z.object({
  /** What can be played, in order. */
  made: z.array(partSchema),
  /** The part that is being made. */
  making: partSchema.nullable(),
});
export type ProxyParts = z.infer<typeof proxyPartsSchema>;

/** Of the work of a proxy, what its pictures take; sound, strip and the frame that stands for the clip come after. */
export const PICTURES_SHARE = 0.97;

/**
 * Stretches of a clip that are made, as shares of its length 0–1, in order, neighbours joined. `progress`: how far the job is,
 * which tells how much there is of the part that is being made.
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
