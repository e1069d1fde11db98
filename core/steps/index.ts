import { balance } from './balance';
import { convert } from './convert';
import { range } from './range';
import { saturation } from './saturation';
import type { StepKind } from './types';

/** Every step kind, in working order. Adding one is a folder and a line here. */
export const STEP_KINDS = [convert, balance, range, saturation] as readonly unknown[] as readonly StepKind<
  Record<string, unknown>
>[];

/** The kind by name. Throws a RangeError for an unknown one. */
export function stepKind(kind: string): StepKind<Record<string, unknown>> {
  const found = STEP_KINDS.find((k) => k.kind === kind);
  if (!found) throw new RangeError(`There is no step kind "${kind}".`);
  return found;
}

export type { Domain, NumberSpec, PointFn, StepKind, Unit } from './types';
