import { prepareFormula, type Formula, type FormulaValues } from '../formula/formula';
import type { StepKind } from './types';

/**
 * What of a step kind follows from its formula: where it works, its mathematics, and what other backends make it from. `valuesOf`:
 * what the formula reads at one set of parameters.
 */
export const ofFormula = <P extends object, N extends string, C extends string>(
  formula: Formula<N, C>,
  valuesOf: (params: P) => FormulaValues<N, C>,
): Pick<StepKind<P>, 'domain' | 'prepare' | 'formula' | 'valuesOf'> => ({
  domain: formula.light,
  prepare: (params) => prepareFormula(formula, valuesOf(params)),
  formula,
  valuesOf,
});
