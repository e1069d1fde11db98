import type { Step } from '../model/grade';
import { bake } from '../program/bake';
import { changesOverTime, compile } from '../program/compile';
import type { Lut } from './cube';
import { FormatError } from './error';

/** Sizes in which a grade is written. */
export const LUT_SIZES = [17, 33, 65] as const;

/**
 * A grade as a 3D table over code values 0–1 (0 = reference black, 1 = reference white of the file), giving encoded
 * BT.709 values, clipped to 0–1. What lies beyond in a file with super-whites is held to the ends: a `.cube` file has
 * no room for it. Throws a {@link FormatError} for a grade that changes over the clip.
 */
export function gradeToLut(steps: readonly Step[], size: number, title: string): Lut {
  if (changesOverTime(steps)) throw new FormatError('This grade changes over the clip, which a table cannot hold.');
  const [pass] = compile(steps, 0).passes;
  const table = bake({ kind: 'lut', domain: [0, 1], evaluate: pass?.evaluate ?? (() => undefined) }, size);
  const data = new Float32Array(size ** 3 * 3);
  for (let i = 0, o = 0; i < table.data.length; i += 4) {
    for (let c = 0; c < 3; c += 1, o += 1) data[o] = Math.min(1, Math.max(0, table.data[i + c]));
  }
  return { title, dimensions: 3, size, domainMin: [0, 0, 0], domainMax: [1, 1, 1], data };
}
