import { z } from 'zod';
import { luma709 } from '../../colour/ycbcr';
import { numberShape } from '../numbers';
import { allNeutral, type NumberSpec, type StepKind } from '../types';

const numbers = [
  { key: 'amount', label: 'Saturation', unit: 'factor', min: 0, max: 4, neutral: 1, step: 0.02 },
  { key: 'weak', label: 'Weak colours', unit: 'percent', min: -1, max: 1, neutral: 0, step: 0.02 },
  { key: 'skin', label: 'Hold skin hues', unit: 'percent', min: 0, max: 1, neutral: 1, step: 0.05 },
] as const satisfies readonly NumberSpec[];

const schema = z.object(numberShape(numbers));
type Params = z.infer<typeof schema>;

/** Direction of the skin line on the vectorscope: the −I… axis at 123° from +Cb (common practice). */
export const SKIN_ANGLE = (123 * Math.PI) / 180;
/** Half width of the hues counted as skin. */
const SKIN_REACH = (30 * Math.PI) / 180;
/** Chroma (share of the vectorscope's radius, 0.5) from which a colour no longer counts as weak. */
const WEAK_LIMIT = 0.6;

/** Membership of a hue in skin tones, 0–1: a raised cosine about the skin line. */
export function skinWeight(cb: number, cr: number): number {
  let d = Math.abs(Math.atan2(cr, cb) - SKIN_ANGLE);
  if (d > Math.PI) d = 2 * Math.PI - d;
  return d >= SKIN_REACH ? 0 : 0.5 * (1 + Math.cos((Math.PI * d) / SKIN_REACH));
}

/** Scales chroma at constant luma: of all colours, of weak colours more than strong ones, with skin hues protected. */
export const saturation: StepKind<Params> = {
  kind: 'saturation',
  title: 'Saturation',
  help: 'Brings colour back, or takes it out. Weak colours can be lifted before strong ones.',
  domain: 'encoded',
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) =>
    allNeutral(
      numbers.filter((n) => n.key !== 'skin'),
      p,
    ),
  prepare(p) {
    return (rgb) => {
      const y = luma709(rgb[0], rgb[1], rgb[2]);
      let gain = p.amount;
      if (p.weak !== 0) {
        const cb = (rgb[2] - y) / 1.8556;
        const cr = (rgb[0] - y) / 1.5748;
        const chroma = Math.min(1, Math.hypot(cb, cr) / 0.5 / WEAK_LIMIT);
        const weight = (1 - chroma * chroma) ** 2;
        gain *= 1 + p.weak * weight * (1 - p.skin * skinWeight(cb, cr));
      }
      for (let i = 0; i < 3; i += 1) rgb[i] = y + gain * (rgb[i] - y);
    };
  },
  summary: (p) =>
    saturation.isNeutral(p) ? 'neutral' : p.amount === 0 ? 'black and white' : `×${p.amount.toFixed(2)}`,
};
