import { luma709 } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';
import { TILE_RANGE } from '../../fields/tile';

/**
 * Grain is added to all channels alike: the plane is the pattern. In the middle all of the amount acts, towards black and white
 * (fourth power) none, so that they stay clean. A plane of 0 is none yet.
 */
export const GRAIN: Formula<'amount', never> = {
  name: 'grain',
  light: 'encoded',
  numbers: ['amount'],
  curves: [],
  colour(k, { rgb: [r, g, b], plane, n }) {
    const off = k.min(1, k.max(-1, k.sub(k.mul(2, luma709(k, r, g, b)), 1)));
    const square = k.mul(off, off);
    const pattern = k.mul(TILE_RANGE, k.sub(plane, 0.5));
    const added = k.mul(k.mul(n.amount, k.sub(1, k.mul(square, square))), k.select(0, plane, pattern, 0));
    return [k.add(r, added), k.add(g, added), k.add(b, added)];
  },
};
