import { z } from 'zod';
import { numberShape } from '../numbers';
import type { NumberSpec, StepKind } from '../types';

const numbers = [
  { key: 'amount', label: 'Reduce noise', unit: 'percent', min: 0, max: 3, neutral: 0, step: 0.05 },
  { key: 'colour', label: 'Colour noise', unit: 'percent', min: 0, max: 2, neutral: 1, step: 0.05 },
] as const satisfies readonly NumberSpec[];

const schema = z.object(numberShape(numbers));
type Params = z.infer<typeof schema>;

/**
 * Temporal noise reduction. It runs on frames as they are decoded (`core/noise`), using those before and after; on
 * single colours it has no effect. `amount`: 1 assumes the measured noise; `colour`: the share of that for chroma.
 */
export const noise: StepKind<Params> = {
  kind: 'noise',
  title: 'Noise',
  help: 'Takes noise out by what the frames before and after show of the same places. Before all other steps, over the whole frame.',
  domain: 'code',
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) => p.amount === 0,
  prepare: () => () => undefined,
  ofSource: ({ amount, colour }) => ({ luma: amount, chroma: amount * colour }),
  summary: ({ amount }) => (amount === 0 ? 'neutral' : `${Math.round(amount * 100)} %`),
};
