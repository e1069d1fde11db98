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

/** Takes fine noise out of single frames; its numbers say how strong noise may be. */
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
