import { z } from 'zod';
import { bt709 } from '../../colour/transfer';
import type { Vec3 } from '../../colour/matrix';
import { sampledCells } from '../../fields/samples';
import { veilMap } from '../../fields/veilMap';
import type { FormulaValues } from '../../formula/formula';
import { numberShape } from '../numbers';
import { ofFormula } from '../ofFormula';
import type { NumberSpec, StepKind } from '../types';
import { HAZE } from './formula';

const share = { unit: 'percent', min: 0, max: 1, step: 0.01 } as const;

const numbers = [
  { key: 'amount', label: 'Haze off', ...share, neutral: 0, group: 'Haze' },
  { key: 'near', label: 'Off the foreground', ...share, max: 0.9, neutral: 0, group: 'Haze' },
  { key: 'floor', label: 'Leave at least', ...share, min: 0.05, neutral: 0.2, group: 'Haze' },
  { key: 'airRed', label: 'Airlight red', ...share, neutral: 0.85, group: 'Airlight' },
  { key: 'airGreen', label: 'Airlight green', ...share, neutral: 0.87, group: 'Airlight' },
  { key: 'airBlue', label: 'Airlight blue', ...share, neutral: 0.9, group: 'Airlight' },
] as const satisfies readonly NumberSpec[];

const schema = z.object(numberShape(numbers));
export type HazeParams = z.infer<typeof schema>;

const airlightOf = (p: HazeParams): Vec3 =>
  [p.airRed, p.airGreen, p.airBlue].map((v) => Math.max(1e-3, bt709.decode(v))) as Vec3;

function valuesOf(p: HazeParams): FormulaValues<(typeof HAZE.numbers)[number], never> {
  const [airRed, airGreen, airBlue] = airlightOf(p);
  return { numbers: { airRed, airGreen, airBlue, amount: p.amount, floor: p.floor, near: p.near }, curves: {} };
}

/** Removes haze: I = J · t + A · (1 − t), solved for J (Koschmieder 1924). */
export const haze: StepKind<HazeParams> = {
  kind: 'haze',
  title: 'Haze',
  help: 'Takes haze off what lies far away and leaves what is near.',
  ...ofFormula(HAZE, valuesOf),
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) => p.amount === 0,
  field(p) {
    const air = airlightOf(p);
    return { estimate: (picture) => veilMap(picture, air), reads: sampledCells, radius: 0.06, epsilon: 0.01 };
  },
  summary: (p) => (p.amount === 0 ? 'neutral' : `${Math.round(p.amount * 100)} % off`),
};
