import { z } from 'zod';
import type { FormulaValues } from '../../formula/formula';
import { FRAME_WIDTH, numberShape } from '../numbers';
import { ofFormula } from '../ofFormula';
import type { NumberSpec, StepKind } from '../types';
import { SHARPEN } from './formula';

const numbers = [
  { key: 'amount', label: 'Sharpen', unit: 'percent', min: 0, max: 3, neutral: 0, step: 0.02 },
  {
    key: 'radius',
    label: 'Radius',
    unit: 'pixel',
    min: 0.3 / FRAME_WIDTH,
    max: 4 / FRAME_WIDTH,
    neutral: 1 / FRAME_WIDTH,
    step: 0.05 / FRAME_WIDTH,
  },
  { key: 'threshold', label: 'Leave noise', unit: 'percent', min: 0, max: 0.1, neutral: 0, step: 0.001 },
] as const satisfies readonly NumberSpec[];

const schema = z.object(numberShape(numbers));
type Params = z.infer<typeof schema>;

const valuesOf = ({ amount, threshold }: Params): FormulaValues<'amount' | 'threshold', never> => ({
  numbers: { amount, threshold },
  curves: {},
});

/** Sharpens luma by unsharp masking with a Gaussian (common practice). */
export const sharpen: StepKind<Params> = {
  kind: 'sharpen',
  title: 'Sharpen',
  help: 'Makes fine detail crisper. Look at it pixel by pixel: most of it is too fine for the whole picture.',
  ...ofFormula(SHARPEN, valuesOf),
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) => p.amount === 0,
  spread: (p) => p.radius,
  summary: ({ amount }) => (amount === 0 ? 'neutral' : `+${Math.round(amount * 100)} %`),
};
