import { z } from 'zod';
import type { FormulaValues } from '../../formula/formula';
import { numberShape } from '../numbers';
import { ofFormula } from '../ofFormula';
import type { NumberSpec, StepKind } from '../types';
import { placeOf } from './falloff';
import { CORNERS } from './formula';

const numbers = [
  // Beyond this the corners hold more noise than picture.
  { key: 'amount', label: 'Corners', unit: 'percent', min: -0.9, max: 0.8, neutral: 0, step: 0.01, group: 'Light' },
  { key: 'begins', label: 'Begins late', unit: 'plain', min: -1, max: 2, neutral: 1, step: 0.02, group: 'Light' },
  { key: 'oval', label: 'Oval', unit: 'percent', min: 0, max: 1, neutral: 0, step: 0.02, group: 'Light' },
  {
    key: 'centreX',
    label: 'Centre across',
    unit: 'percent',
    min: -0.3,
    max: 0.3,
    neutral: 0,
    step: 0.005,
    group: 'Centre',
  },
  {
    key: 'centreY',
    label: 'Centre down',
    unit: 'percent',
    min: -0.3,
    max: 0.3,
    neutral: 0,
    step: 0.005,
    group: 'Centre',
  },
] as const satisfies readonly NumberSpec[];

const schema = z.object(numberShape(numbers));
export type CornersParams = z.infer<typeof schema>;

const valuesOf = ({ amount, begins }: CornersParams): FormulaValues<'amount' | 'begins', never> => ({
  numbers: { amount, begins },
  curves: {},
});

/**
 * Corrects vignetting in linear light: gain 1 / (1 − amount · f), where f rises from the centre to 1 in the furthest
 * corner (even polynomials of the radius, the usual model of lens falloff: Goldman 2010). Negative amounts darken the
 * corners as a look: gain 1 + amount · f.
 */
export const corners: StepKind<CornersParams> = {
  kind: 'corners',
  title: 'Corners',
  help: 'Lightens corners that the lens darkened, or darkens them for a look.',
  ...ofFormula(CORNERS, valuesOf),
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) => p.amount === 0,
  field: (p) => ({
    place: (u, v, aspect) => placeOf(p, u, v, aspect),
    key: `corners ${p.centreX} ${p.centreY} ${p.oval}`,
  }),
  summary({ amount }) {
    if (amount === 0) return 'neutral';
    return `${Math.round(Math.abs(amount) * 100)} % ${amount > 0 ? 'lighter' : 'darker'}`;
  },
};
