import { balance } from './balance';
import { bands } from './bands';
import { channels } from './channels';
import { convert } from './convert';
import { corners } from './corners';
import { curves } from './curves';
import { glow } from './glow';
import { grain } from './grain';
import { haze } from './haze';
import { hues } from './hues';
import { local } from './local';
import { lut } from './lut';
import { noise } from './noise';
import { range } from './range';
import { region } from './region';
import { saturation } from './saturation';
import { water } from './water';
import { packFormula } from '../formula/formula';
import { sharpen } from './sharpen';
import { smooth } from './smooth';
import type { StepKind } from './types';

/** Every step kind, in working order. Adding one is a folder and a line here. */
export const STEP_KINDS = [
  noise,
  convert,
  corners,
  water,
  haze,
  balance,
  range,
  channels,
  bands,
  curves,
  saturation,
  hues,
  local,
  lut,
  smooth,
  sharpen,
  glow,
  grain,
] as readonly unknown[] as readonly StepKind<Record<string, unknown>>[];

/** Kinds that a new clip starts with, neutral: the usual order of corrections. */
export const LAID_OUT = ['convert', 'balance', 'range', 'saturation'] as const;

/** Entries of a step list that are not steps: regions in which other steps act. */
const PLACES = [region] as readonly unknown[] as typeof STEP_KINDS;

/** Every kind that a list may contain. */
export const ALL_KINDS = [...STEP_KINDS, ...PLACES];

/** The kind by name. Throws a RangeError for an unknown one. */
export function stepKind(kind: string): StepKind<Record<string, unknown>> {
  const found = ALL_KINDS.find((k) => k.kind === kind);
  if (!found) throw new RangeError(`There is no step kind "${kind}".`);
  return found;
}

/** The data of a spatial step's formula for other backends, for a set of parameters. */
export function formulaData(kind: string, params: Record<string, unknown>): Float32Array {
  const { formula, valuesOf } = stepKind(kind);
  return packFormula(formula!, valuesOf!(params));
}

export type { ChoiceSpec, Domain, NumberSpec, PointFn, StepKind, Unit } from './types';
