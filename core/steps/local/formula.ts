import { luma709 } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';

/**
 * What differs from its surroundings differs more, or less: the plane is the luma of the surroundings, with edges kept. In
 * the middle all of the amount acts, towards black and white (fourth power) none, so that nothing is driven beyond them.
 */
export const LOCAL: Formula<'amount', never> = {
  name: 'local',
  light: 'encoded',
  numbers: ['amount'],
  curves: [],
  colour(k, { rgb: [r, g, b], plane, n }) {
    const off = k.sub(k.mul(2, plane), 1);
    const square = k.mul(off, off);
    const gain = k.mul(n.amount, k.sub(1, k.mul(square, square)));
    const more = k.mul(gain, k.sub(luma709(k, r, g, b), plane));
    return [k.add(r, more), k.add(g, more), k.add(b, more)];
  },
};
