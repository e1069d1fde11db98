import type { z } from 'zod';
import type { Vec3 } from '../colour/matrix';
import type { FieldSpec } from '../fields/map';
import type { Formula, FormulaValues } from '../formula/formula';
import type { NoiseAmounts } from '../noise/reduce';

/**
 * Changes a colour in place: the innermost unit of every step. A spatial step also takes its map's value there, 0–1; one that
 * looks at a pixel's neighbours their luma, or their colour.
 */
export type PointFn = (rgb: Vec3, map?: number | Readonly<Vec3>) => void;

/**
 * Where a step works. `code`: the file's R'G'B' as recorded. `linear`: working light. `encoded`: BT.709 values of
 * working light, which is what scopes measure.
 */
export type Domain = 'code' | 'linear' | 'encoded';

/** How a number is shown. Percent are stored as fractions, pixels (of a frame 1920 wide) as shares of the frame's width. */
export type Unit = 'pixel' | 'stop' | 'percent' | 'kelvin' | 'duv' | 'metre' | 'second' | 'factor' | 'whole' | 'plain';

/** One number a person can change: its unit, limits and neutral value. */
export interface NumberSpec {
  key: string;
  label: string;
  unit: Unit;
  /** Hard limits, in stored units. */
  min: number;
  max: number;
  /** The value at which it does nothing. */
  neutral: number;
  /** One nudge, in stored units. */
  step: number;
  /** Numbers of one group are shown together. */
  group?: string;
  /** Shown only when this holds. */
  when?: (params: Record<string, unknown>) => boolean;
}

/** One of a few that a person can choose. */
export interface ChoiceSpec {
  key: string;
  label: string;
  options: readonly { value: string; title: string }[];
}

/** A step kind: its parameters, where it works, and its mathematics. `P` holds plain numbers, keyframes resolved. */
export interface StepKind<P extends object = object> {
  kind: string;
  title: string;
  /** One sentence for the person who looks for it. */
  help: string;
  domain: Domain;
  /** Schema of the parameters; a missing one takes its neutral value. */
  schema: z.ZodType<P>;
  /** Numbers, in the order in which they are shown. */
  numbers: readonly NumberSpec[];
  /** What is chosen from a few, shown below the numbers. */
  choices?: readonly ChoiceSpec[];
  /**
   * How parameters that an older version stored become today's, one function for each version that went before.
   * A landed one is never edited; a change of what parameters mean adds one below.
   */
  upgrades?: readonly ((params: Record<string, unknown>) => Record<string, unknown>)[];
  /** Parameters at which the step is an exact identity (or, for convert, standard video). */
  neutral: P;
  isNeutral(params: P): boolean;
  /** The mathematics for one set of parameters. A `code` step leaves working linear light behind. */
  prepare(params: P): PointFn;
  /** A spatial step: how the map that its mathematics takes is made from a frame. Undefined: it needs none just now. */
  field?(params: P): FieldSpec | undefined;
  /**
   * A step that looks at a pixel's neighbours: the standard deviation, as a share of the frame's width, of the Gaussian by
   * which the picture is blurred as it enters the step. Its formula has the blurred luma for its plane, or the blurred colour
   * where it asks for that, and is an identity where the neighbours are alike.
   */
  spread?(params: P): number;
  /**
   * A step whose work is done on frames as they are decoded, before all others and over the whole frame: what it asks for. It
   * has no place, and for colours it is an identity.
   */
  ofSource?(params: P): NoiseAmounts;
  /** A spatial step's mathematics, from which all backends have theirs, and what it reads at one set of parameters. */
  formula?: Formula;
  valuesOf?(params: P): FormulaValues;
  /** A few words for the step's chip. */
  summary(params: P): string;
}

/** Whether all listed numbers have their neutral value. */
export const allNeutral = (numbers: readonly NumberSpec[], params: Record<string, unknown>): boolean =>
  numbers.every((n) => params[n.key] === n.neutral);
