import type { Vec3 } from '../colour/matrix';
import type { LutPass } from './compile';
import type { Table } from './table';

export { lookUp, lookUpAt, type Table } from './table';

/** Nodes an edge: while a finger is down, and at rest and for exports. */
export const DRAG_SIZE = 17;
export const REST_SIZE = 65;

/**
 * What a node holds at most: far beyond white nothing more is to be told, and a node that flies off would bend the
 * whole cell before it.
 */
export const TABLE_LIMIT = 32767 / 8192;

export const hold = (v: number): number => (v > TABLE_LIMIT ? TABLE_LIMIT : v < -TABLE_LIMIT ? -TABLE_LIMIT : v);

/** Nodes an edge and map values of the table of a pass with a map, where a plain pass has `size` nodes an edge. */
export function fieldTableSize(size: number): { size: number; levels: number } {
  if (size <= DRAG_SIZE) return { size, levels: 5 };
  return { size: Math.min(size, 33), levels: size <= 33 ? 9 : 17 };
}

/**
 * Bakes a pass into a table with `size` nodes an edge (2–129); a pass with a map into one of {@link fieldTableSize}.
 */
export function bake(pass: LutPass, size: number): Table {
  if (!(Number.isInteger(size) && size >= 2 && size <= 129))
    throw new RangeError('A table has 2 to 129 nodes an edge.');
  const shape = pass.field ? fieldTableSize(size) : { size, levels: 1 };
  const [lo, hi] = pass.domain;
  const n = shape.size;
  const step = (hi - lo) / (n - 1);
  const data = new Float32Array(n ** 3 * shape.levels * 4);
  const rgb: Vec3 = [0, 0, 0];
  let at = 0;
  for (let level = 0; level < shape.levels; level += 1) {
    const map = shape.levels > 1 ? level / (shape.levels - 1) : 0;
    for (let i = 0; i < n ** 3; i += 1, at += 4) {
      rgb[0] = lo + (i % n) * step;
      rgb[1] = lo + (Math.floor(i / n) % n) * step;
      rgb[2] = lo + Math.floor(i / (n * n)) * step;
      pass.evaluate(rgb, map);
      data[at] = hold(rgb[0]);
      data[at + 1] = hold(rgb[1]);
      data[at + 2] = hold(rgb[2]);
      data[at + 3] = 1;
    }
  }
  return { ...shape, domain: pass.domain, data };
}
