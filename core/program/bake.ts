import type { Vec3 } from '../colour/matrix';
import type { TableOp } from './compile';
import type { Table } from './table';

export { lookUp, type Table } from './table';

/** Nodes per edge: while dragging; and at rest and for exports. */
export const DRAG_SIZE = 17;
export const REST_SIZE = 65;

/**
 * Limit of a node's value: such values are far beyond white, and larger ones would distort interpolation in
 * neighbouring cells.
 */
export const TABLE_LIMIT = 32767 / 8192;

export const hold = (v: number): number => (v > TABLE_LIMIT ? TABLE_LIMIT : v < -TABLE_LIMIT ? -TABLE_LIMIT : v);

/** Bakes an op into a table with `size` nodes per edge (2–129). Tables from files keep their own grid. */
export function bake(op: TableOp, size: number): Table {
  if (op.own) return op.own;
  if (!(Number.isInteger(size) && size >= 2 && size <= 129))
    throw new RangeError('A table has 2 to 129 nodes an edge.');
  const [lo, hi] = op.domain;
  const step = (hi - lo) / (size - 1);
  const data = new Float32Array(size ** 3 * 4);
  const rgb: Vec3 = [0, 0, 0];
  let at = 0;
  for (let b = 0; b < size; b += 1) {
    for (let g = 0; g < size; g += 1) {
      for (let r = 0; r < size; r += 1) {
        rgb[0] = lo + r * step;
        rgb[1] = lo + g * step;
        rgb[2] = lo + b * step;
        let alpha = op.chooses ? op.chooses(rgb) : 1;
        op.evaluate(rgb);
        if (op.carries) alpha = op.carries(rgb);
        data[at] = hold(rgb[0]);
        data[at + 1] = hold(rgb[1]);
        data[at + 2] = hold(rgb[2]);
        data[at + 3] = alpha;
        at += 4;
      }
    }
  }
  return { size, domain: op.domain, data };
}
