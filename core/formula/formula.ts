import type { Vec3 } from '../colour/matrix';
import type { PointFn } from '../steps/types';
import { NUMBERS, type Algebra } from './algebra';

/** Suffix of the kernel function that works on values in the formula's own light. */
export const BARE = 'Bare';

/** What a formula reads at a pixel. */
export interface Reads<T, N extends string = string, C extends string = string> {
  /** R, G, B in the formula's light. */
  rgb: readonly [T, T, T];
  /** The plane's value, 0–1. */
  plane: T;
  /** R', G', B' of the pixel's neighbours, of a formula that asks for them. */
  blurred: readonly [T, T, T];
  /** The step's numbers, the same for all pixels. */
  n: Readonly<Record<N, T>>;
  /** Values of the curves over the plane. */
  curve: Readonly<Record<C, T>>;
}

/**
 * The mathematics of a spatial step for one pixel, written once. Three forms are generated from it: plain numbers
 * ({@link prepareFormula}), shader source (`glsl.ts`) and AssemblyScript (`assemblyScript.ts`).
 */
export interface Formula<N extends string = string, C extends string = string> {
  /** The step's kind; also the function's name in the other forms. */
  name: string;
  /** Whether it works on linear light or on encoded values. */
  light: 'linear' | 'encoded';
  /** It reads the colours of neighbouring pixels, and no plane. */
  neighbours?: 'colour';
  numbers: readonly N[];
  curves: readonly C[];
  /** The output colour. */
  colour<T>(k: Algebra<T>, at: Reads<T, N, C>): readonly [T, T, T];
}

/**
 * Computes a formula's numbers for a step; curves are sampled evenly over the plane's 0–1, all with the same number of
 * samples, at least two.
 */
export interface FormulaValues<N extends string = string, C extends string = string> {
  numbers: Readonly<Record<N, number>>;
  curves: Readonly<Record<C, readonly number[]>>;
}

/** Layout of numbers and curves in the data that the other forms read: four numbers per texel. */
export interface Layout {
  /** Index of each number by name, and of the index of the last sample if there are curves. */
  numberAt(name: string): number;
  lastAt: number;
  /** First texel of the samples, and texels per sample. */
  firstSample: number;
  texelsPerSample: number;
}

export function layoutOf({ numbers, curves }: Pick<Formula, 'numbers' | 'curves'>): Layout {
  return {
    numberAt: (name) => numbers.indexOf(name),
    lastAt: numbers.length,
    firstSample: Math.ceil((numbers.length + (curves.length > 0 ? 1 : 0)) / 4),
    texelsPerSample: Math.ceil(curves.length / 4),
  };
}

/** The data that the other forms read, four numbers per texel: numbers, index of the last sample, then the samples. */
export function packFormula(formula: Formula, { numbers, curves }: FormulaValues): Float32Array {
  const { lastAt, firstSample, texelsPerSample } = layoutOf(formula);
  const count = samplesOf(formula, curves);
  const out = new Float32Array(4 * (firstSample + count * texelsPerSample));
  formula.numbers.forEach((name, i) => (out[i] = numbers[name]));
  if (count > 0) out[lastAt] = count - 1;
  formula.curves.forEach((name, c) =>
    curves[name].forEach((v, s) => (out[4 * (firstSample + s * texelsPerSample) + c] = v)),
  );
  return out;
}

const samplesOf = ({ curves: names }: Formula, curves: FormulaValues['curves']): number =>
  names.length === 0 ? 0 : curves[names[0]].length;

/** Evaluates a formula in double precision, for one set of numbers. */
export function prepareFormula(formula: Formula, { numbers, curves }: FormulaValues): PointFn {
  const names = formula.curves;
  const samples = names.map((name) => curves[name]);
  const last = samplesOf(formula, curves) - 1;
  const curve: Record<string, number> = Object.fromEntries(names.map((name) => [name, curves[name][0]]));
  const at = { rgb: [0, 0, 0] as Vec3, plane: 0, blurred: [0, 0, 0] as Vec3, n: numbers, curve };
  return (rgb, map = formula.neighbours ? rgb : 0) => {
    const plane = typeof map === 'number' ? map : 0;
    if (typeof map !== 'number') for (let c = 0; c < 3; c += 1) at.blurred[c] = map[c];
    const place = (plane < 0 ? 0 : plane > 1 ? 1 : plane) * last;
    const low = Math.min(last - 1, Math.floor(place));
    for (let c = 0; c < names.length; c += 1) {
      const from = samples[c][low];
      curve[names[c]] = from + (place - low) * (samples[c][low + 1] - from);
    }
    at.rgb[0] = rgb[0];
    at.rgb[1] = rgb[1];
    at.rgb[2] = rgb[2];
    at.plane = plane;
    const out = formula.colour(NUMBERS, at);
    rgb[0] = out[0];
    rgb[1] = out[1];
    rgb[2] = out[2];
  };
}
