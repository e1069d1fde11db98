import { luma709 } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';

/**
 * Increases or reduces the difference from the surroundings: the plane is their luma, smoothed with edges preserved.
 * Full amount in the midtones, none towards black and white (fourth power), so that nothing is clipped.
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
