import type { z } from 'zod';
import type { Vec3 } from '../colour/matrix';
import type { FieldSpec } from '../fields/map';
import type { Formula, FormulaValues } from '../formula/formula';
import type { NoiseAmounts } from '../noise/reduce';

/**
 * Changes a colour in place: the innermost unit of every step. A spatial step also takes its map's value at the pixel,
 * 0–1; one that reads neighbours, their luma or colour.
 */
export type PointFn = (rgb: Vec3, map?: number | Readonly<Vec3>) => void;

/**
 * The domain in which a step works. `code`: the file's R'G'B' as recorded. `linear`: working light. `encoded`: BT.709
 * values of working light, which scopes measure.
 */
export type Domain = 'code' | 'linear' | 'encoded';

/**
 * How a number is displayed. Percentages are stored as fractions, pixels (of a frame 1920 wide) as shares of the
 * frame's width.
 */
export type Unit = 'pixel' | 'stop' | 'percent' | 'kelvin' | 'duv' | 'metre' | 'second' | 'factor' | 'whole' | 'plain';

/** An adjustable number: its unit, limits and neutral value. */
export interface NumberSpec {
  key: string;
  label: string;
  unit: Unit;
  /** Hard limits, in stored units. */
  min: number;
  max: number;
  /** The value without effect. */
  neutral: number;
  /** One nudge, in stored units. */
  step: number;
  /** Numbers of one group are shown together. */
  group?: string;
  /** Shown only if this holds. */
  when?: (params: Record<string, unknown>) => boolean;
}

/** An adjustable choice. */
export interface ChoiceSpec {
  key: string;
  label: string;
  options: readonly { value: string; title: string }[];
}

/** A step kind: its parameters, its domain, and its mathematics. `P` holds plain numbers, keyframes resolved. */
export interface StepKind<P extends object = object> {
  kind: string;
  title: string;
  /** A one-sentence description for users. */
  help: string;
  domain: Domain;
  /** Schema of the parameters; missing ones default to neutral. */
  schema: z.ZodType<P>;
  /** Numbers, in display order. */
  numbers: readonly NumberSpec[];
  /** Choices, shown below the numbers. */
  choices?: readonly ChoiceSpec[];
  /**
   * Upgrades of stored parameters, one function per earlier version. A released one is never edited; a change in the
   * meaning of parameters appends one.
   */
  upgrades?: readonly ((params: Record<string, unknown>) => Record<string, unknown>)[];
  /** Parameters at which the step is an exact identity (or, for convert, standard video). */
  neutral: P;
  isNeutral(params: P): boolean;
  /** The function for a set of parameters. A `code` step outputs working linear light. */
  prepare(params: P): PointFn;
  /** For a spatial step: how its map is made from a frame. Undefined: none needed with these parameters. */
  field?(params: P): FieldSpec | undefined;
  /**
   * For a step that reads neighbours: the standard deviation, as a share of the frame's width, of the Gaussian that
   * blurs the picture as it enters the step. Its formula receives the blurred luma as its plane, or the blurred colour
   * if it asks for that, and is an identity where both are equal to the pixel's.
   */
  spread?(params: P): number;
  /**
   * For a step done on frames as they are decoded, before all others and over the whole frame: what it requests. It
   * cannot be limited to a region, and is an identity for colours.
   */
  ofSource?(params: P): NoiseAmounts;
  /** A spatial step's formula, from which all backends are generated, and its inputs for a set of parameters. */
  formula?: Formula;
  valuesOf?(params: P): FormulaValues;
  /** A few words for the step's chip. */
  summary(params: P): string;
}

/** Whether all listed numbers are neutral. */
export const allNeutral = (numbers: readonly NumberSpec[], params: Record<string, unknown>): boolean =>
  numbers.every((n) => params[n.key] === n.neutral);
