import type { Vec3 } from '../colour/matrix';
import type { PointFn } from '../steps/types';
import { NUMBERS, type Algebra } from './algebra';

/** What the name of a formula's function of the kernel ends with that goes over values in the formula's own light. */
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
  /** Curves over the plane, each at the plane's value. */
  curve: Readonly<Record<C, T>>;
}

/**
 * The mathematics of a spatial step for one pixel, written once. Three forms are made from it: plain numbers
 * ({@link prepareFormula}), the shading language (`glsl.ts`) and AssemblyScript (`assemblyScript.ts`).
 */
export interface Formula<N extends string = string, C extends string = string> {
  /** The step's kind; also the function's name in the other forms. */
  name: string;
  /** Whether it takes and gives linear light, or its encoded values. */
  light: 'linear' | 'encoded';
  /** It reads the colour of a pixel's neighbours, and no plane. */
  neighbours?: 'colour';
  numbers: readonly N[];
  curves: readonly C[];
  /** The colour that it becomes. */
  colour<T>(k: Algebra<T>, at: Reads<T, N, C>): readonly [T, T, T];
}

/** The numbers of a step for its formula; curves are sampled evenly over the plane's 0–1, all alike, two samples at least. */
export interface FormulaValues<N extends string = string, C extends string = string> {
  numbers: Readonly<Record<N, number>>;
  curves: Readonly<Record<C, readonly number[]>>;
}

/** Where numbers and curves lie in the data that the other forms read: four numbers a texel. */
export interface Layout {
  /** Place of each number by its name, and of the place of the last sample where there are curves. */
  numberAt(name: string): number;
  lastAt: number;
  /** The texel at which samples begin, and texels a sample. */
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

/** What the other forms read, four numbers a texel: numbers, the place of the last sample, then samples one by one. */
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

/** A formula in double precision, for one set of numbers. */
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
