import { luma709 } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';
import { TILE_RANGE } from '../../fields/tile';

/**
 * Adds grain equally to all channels: the plane is the pattern. Full amount in the midtones, none towards black and
 * white (fourth power), so that they stay clean. A plane of 0 means no pattern yet.
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
