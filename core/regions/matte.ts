import { z } from 'zod';
import type { Vec3 } from '../colour/matrix';
import { luma709 } from '../colour/ycbcr';

const share = z.number().min(0).max(1);

/** From `low` to `high` all, over `soft` on either side less and less. */
const spanSchema = z
  .object({ low: share.default(0), high: share.default(1), soft: z.number().min(0).max(0.5).default(0.05) })
  .refine((s) => s.high >= s.low, 'high must not lie below low.');

/** Where a step acts, by colour and by lightness: both must hold. Shapes are not among these: this knows no place. */
export const matteSchema = z.object({
  /** Hues, in turns from +Cb towards +Cr: the middle, half of the width, and over how much more it fades. */
  hue: z
    .object({ middle: share, reach: z.number().min(0).max(0.5), soft: z.number().min(0).max(0.5).default(0.03) })
    .optional(),
  /** Chroma as a share of the vectorscope's radius (0.5). */
  saturation: spanSchema.optional(),
  /** Encoded luma. */
  lightness: spanSchema.optional(),
  inverted: z.boolean().default(false),
});
export type Matte = z.infer<typeof matteSchema>;

/** 1 inside, 0 beyond `soft`, a smooth passage between; `outside` is how far beyond the edge. */
function fade(outside: number, soft: number): number {
  if (outside <= 0) return 1;
  if (outside >= soft) return 0;
  const t = 1 - outside / soft;
  return t * t * (3 - 2 * t);
}

const TURN = 2 * Math.PI;
/** Below this chroma a hue says nothing; the matte of a hue fades out towards grey. */
const GREY = 0.02;

/** How much of a step an encoded colour gets, 0–1. */
export function matteFunction(matte: Matte): (rgb: Readonly<Vec3>) => number {
  const { hue, saturation, lightness, inverted } = matte;
  const span = (s: NonNullable<Matte['lightness']>, v: number): number => fade(Math.max(s.low - v, v - s.high), s.soft);
  return (rgb) => {
    const y = luma709(rgb[0], rgb[1], rgb[2]);
    let m = lightness ? span(lightness, y) : 1;
    if (hue || saturation) {
      const [cb, cr] = [(rgb[2] - y) / 1.8556, (rgb[0] - y) / 1.5748];
      const chroma = Math.hypot(cb, cr) / 0.5;
      if (saturation) m *= span(saturation, chroma);
      if (hue) {
        const apart = Math.abs(((Math.atan2(cr, cb) / TURN - hue.middle + 2.5) % 1) - 0.5);
        m *= fade(apart - hue.reach, hue.soft) * Math.min(1, chroma / GREY);
      }
    }
    return inverted ? 1 - m : m;
  };
}
