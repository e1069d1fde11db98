import { prepareFormula, type Formula, type FormulaValues } from '../formula/formula';
import type { StepKind } from './types';

/**
 * The parts of a step kind that follow from its formula: its domain, its mathematics, and its other backends.
 * `valuesOf`: inputs of the formula for a set of parameters.
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
