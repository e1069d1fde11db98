import { z } from 'zod';
import { encode709 } from '../../colour/transferTables';
import { luma709 } from '../../colour/ycbcr';
import type { LinearPicture } from '../../fields/map';
import { NUMBERS, smoothstep } from '../../formula/algebra';
import type { FormulaValues } from '../../formula/formula';
import { numberShape } from '../numbers';
import { ofFormula } from '../ofFormula';
import type { NumberSpec, StepKind } from '../types';
import { GLOW } from './formula';

const numbers = [
  { key: 'amount', label: 'Glow', unit: 'percent', min: 0, max: 1, neutral: 0, step: 0.02 },
  { key: 'from', label: 'Above', unit: 'percent', min: 0.2, max: 0.95, neutral: 0.65, step: 0.01 },
  { key: 'reach', label: 'Reach', unit: 'percent', min: 0.005, max: 0.12, neutral: 0.03, step: 0.002 },
  { key: 'warmth', label: 'Warmth', unit: 'plain', min: -1, max: 1, neutral: 0, step: 0.02 },
] as const satisfies readonly NumberSpec[];

const schema = z.object(numberShape(numbers));
type Params = z.infer<typeof schema>;

/** Width, in encoded values, of the transition to highlights, so that slight changes in brightness do not flicker. */
const SOFT = 0.25;

/** Squared ratio of red to blue at a warmth of 1: about that of evening sun relative to noon (from memory). */
const WARMEST = 2;

const valuesOf = ({ amount, warmth }: Params): FormulaValues<'red' | 'green' | 'blue', never> => {
  const [red, blue] = [WARMEST ** (warmth / 2), WARMEST ** (-warmth / 2)];
  const factor = amount / luma709(red, 1, blue);
  return { numbers: { red: red * factor, green: factor, blue: blue * factor }, curves: {} };
};

/** Luminance of the highlights, for each cell. */
function brightOf({ rgb }: LinearPicture, from: number): Float32Array {
  const out = new Float32Array(rgb.length / 3);
  for (let i = 0, o = 0; i < out.length; i += 1, o += 3) {
    const light = Math.min(1, Math.max(0, luma709(rgb[o], rgb[o + 1], rgb[o + 2])));
    out[i] = light * smoothstep(NUMBERS, from, from + SOFT, encode709(light));
  }
  return out;
}

/** Lets highlights glow over their surroundings, in linear light, as mist or a diffusion filter does. */
export const glow: StepKind<Params> = {
  kind: 'glow',
  title: 'Glow',
  help: 'Lets bright parts shine softly over what lies about them.',
  ...ofFormula(GLOW, valuesOf),
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) => p.amount === 0,
  field: (p) => ({ estimate: (picture) => brightOf(picture, p.from), spread: p.reach }),
  summary: ({ amount }) => (amount === 0 ? 'neutral' : `${Math.round(amount * 100)} %`),
};
