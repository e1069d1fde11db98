import { z } from 'zod';
import { tileDeviation, type TiledField } from '../../fields/tile';
import type { FormulaValues } from '../../formula/formula';
import { FRAME_WIDTH, numberShape } from '../numbers';
import { ofFormula } from '../ofFormula';
import type { NumberSpec, StepKind } from '../types';
import { GRAIN } from './formula';

const numbers = [
  { key: 'amount', label: 'Grain', unit: 'percent', min: 0, max: 0.15, neutral: 0, step: 0.002 },
  {
    key: 'size',
    label: 'Size',
    unit: 'pixel',
    min: 1 / FRAME_WIDTH,
    max: 8 / FRAME_WIDTH,
    neutral: 2 / FRAME_WIDTH,
    step: 0.1 / FRAME_WIDTH,
  },
] as const satisfies readonly NumberSpec[];

const schema = z.object(numberShape(numbers));
type Params = z.infer<typeof schema>;

const fieldOf = ({ size }: Params): TiledField => ({ grain: size });

/** The amount is the standard deviation of the grain in midtones of a frame 1920 pixels wide. */
const valuesOf = (p: Params): FormulaValues<'amount', never> => ({
  numbers: { amount: p.amount / tileDeviation(fieldOf(p), FRAME_WIDTH) },
  curves: {},
});

/** Adds film grain with a different pattern in each frame, deterministic per frame. */
export const grain: StepKind<Params> = {
  kind: 'grain',
  title: 'Grain',
  help: 'Adds fine grain as of film, which moves from frame to frame.',
  ...ofFormula(GRAIN, valuesOf),
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) => p.amount === 0,
  field: fieldOf,
  summary: ({ amount }) => (amount === 0 ? 'neutral' : `${(amount * 100).toFixed(1)} %`),
};
