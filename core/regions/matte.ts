import { z } from 'zod';
import type { Vec3 } from '../colour/matrix';
import { luma709 } from '../colour/ycbcr';

const share = z.number().min(0).max(1);

/** 1 from `low` to `high`, with a smooth falloff over `soft` on either side. */
const spanSchema = z
  .object({ low: share.default(0), high: share.default(1), soft: z.number().min(0).max(0.5).default(0.05) })
  .refine((s) => s.high >= s.low, 'high must not lie below low.');

const pickSchema = z.object({
  /** An encoded colour, as it enters the step. */
  colour: z.tuple([z.number(), z.number(), z.number()]),
  /** It is subtracted from the selection. */
  away: z.boolean().default(false),
});
export type Pick = z.infer<typeof pickSchema>;

/** Selection of colours similar to picked ones. */
export const likeSchema = z.object({
  picks: z.array(pickSchema).min(1).max(16),
  /**
   * Radius around a pick within which colours are selected, and the width of the falloff, in chroma (Cb and Cr are
   * ±0.5).
   */
  reach: z.number().min(0.002).max(0.6).default(0.05),
  soft: z.number().min(0).max(0.6).default(0.04),
  /** Weight of a difference in lightness relative to one in chroma. */
  light: z.number().min(0).max(1).default(0.25),
});

/** Limits where a step acts by colour and lightness: all criteria must hold. Independent of position, unlike shapes. */
export const matteSchema = z.object({
  /** Colours like picked ones. */
  like: likeSchema.optional(),
  /** Hues, in turns from +Cb towards +Cr: centre, half width, and width of the falloff. */
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

/** 1 inside, 0 beyond `soft`, with a smoothstep in between; `outside` is the distance beyond the edge. */
function fade(outside: number, soft: number): number {
  if (outside <= 0) return 1;
  if (outside >= soft) return 0;
  const t = 1 - outside / soft;
  return t * t * (3 - 2 * t);
}

/** Distance of a colour from a picked one, in chroma. */
export function apartOf(light: number, [pr, pg, pb]: Readonly<Vec3>): (rgb: Readonly<Vec3>) => number {
  const py = luma709(pr, pg, pb);
  return ([r, g, b]) => {
    const y = luma709(r, g, b) - py;
    const cb = (b - pb - y) / 1.8556;
    const cr = (r - pr - y) / 1.5748;
    return Math.sqrt(cb * cb + cr * cr + (light * y) ** 2);
  };
}

function likeFunction({ picks, reach, soft, light }: NonNullable<Matte['like']>): (rgb: Readonly<Vec3>) => number {
  const all = picks.map(({ colour, away }) => ({ away, apart: apartOf(light, colour) }));
  const [adding, taking] = [all.filter((p) => !p.away), all.filter((p) => p.away)];
  const near = (rgb: Readonly<Vec3>, some: typeof all): number =>
    some.reduce((most, { apart }) => Math.max(most, fade(apart(rgb) - reach, soft)), 0);
  return (rgb) => (adding.length ? near(rgb, adding) : 1) * (1 - near(rgb, taking));
}

const TURN = 2 * Math.PI;
/** Below this chroma hue is unreliable; a hue's matte fades out towards grey. */
const GREY = 0.02;

/** Share of a step for an encoded colour, 0–1. */
export function matteFunction(matte: Matte): (rgb: Readonly<Vec3>) => number {
  const { hue, saturation, lightness, inverted } = matte;
  const like = matte.like && likeFunction(matte.like);
  const span = (s: NonNullable<Matte['lightness']>, v: number): number => fade(Math.max(s.low - v, v - s.high), s.soft);
  return (rgb) => {
    const y = luma709(rgb[0], rgb[1], rgb[2]);
    let m = lightness ? span(lightness, y) : 1;
    if (like) m *= like(rgb);
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
