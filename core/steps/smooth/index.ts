import { z } from 'zod';
import type { FormulaValues } from '../../formula/formula';
import { FRAME_WIDTH, numberShape } from '../numbers';
import { ofFormula } from '../ofFormula';
import type { NumberSpec, StepKind } from '../types';
import { SMOOTH } from './formula';

const numbers = [
  { key: 'luma', label: 'Light', unit: 'percent', min: 0, max: 0.2, neutral: 0, step: 0.002 },
  { key: 'colour', label: 'Colour', unit: 'percent', min: 0, max: 0.4, neutral: 0, step: 0.004 },
  {
    key: 'radius',
    label: 'Radius',
    unit: 'pixel',
    min: 0.5 / FRAME_WIDTH,
    max: 4 / FRAME_WIDTH,
    neutral: 1.5 / FRAME_WIDTH,
    step: 0.05 / FRAME_WIDTH,
  },
] as const satisfies readonly NumberSpec[];

const schema = z.object(numberShape(numbers));
type Params = z.infer<typeof schema>;

const valuesOf = ({ luma, colour }: Params): FormulaValues<'luma' | 'colour', never> => ({
  numbers: { luma, colour },
  curves: {},
});

/**
 * Noise limit in standard deviations, where these are known: 3 brought photographs of the developing part nearest to
 * the truth, with noise of 2, 4 and 8 code values and chroma of half the size (2: some six tenths of the gain in luma;
 * 5: worse than untouched where noise is weak). On photographs kept aside: luma 0.5, 0.9, 1.6 dB nearer, chroma 1.0,
 * 2.1, 3.1, none farther.
 */
const LIMIT_OF_NOISE = 3;

/** Limits for noise of known standard deviations, in encoded values, of luma and of colour. */
export function limitsFor({ light, colour }: { light: number; colour: number }): Pick<Params, 'luma' | 'colour'> {
  const [luma, hue] = numbers.map(({ max }) => max);
  return { luma: Math.min(luma, LIMIT_OF_NOISE * light), colour: Math.min(hue, LIMIT_OF_NOISE * colour) };
}

/** Spatial noise reduction of single frames; its numbers state how strong noise may be. */
export const smooth: StepKind<Params> = {
  kind: 'smooth',
  title: 'Fine noise',
  help: 'Takes fine noise out by what lies next to it, also where everything moves. Colour bears more of it than light.',
  ...ofFormula(SMOOTH, valuesOf),
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) => p.luma === 0 && p.colour === 0,
  spread: (p) => p.radius,
  summary: ({ luma, colour }) =>
    luma === 0 && colour === 0 ? 'neutral' : `${(luma * 100).toFixed(1)} · ${(colour * 100).toFixed(1)} %`,
};
