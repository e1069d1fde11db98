import { luma709 } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';

/** Unsharp masking of luma: the plane is the blurred luma; differences up to the threshold are ignored. */
export const SHARPEN: Formula<'amount' | 'threshold', never> = {
  name: 'sharpen',
  light: 'encoded',
  numbers: ['amount', 'threshold'],
  curves: [],
  colour(k, { rgb: [r, g, b], plane, n }) {
    const off = k.sub(luma709(k, r, g, b), plane);
    // The excess over the threshold on either side, continuous at the threshold.
    const beyond = k.add(k.max(0, k.sub(off, n.threshold)), k.min(0, k.add(off, n.threshold)));
    const more = k.mul(n.amount, beyond);
    return [k.add(r, more), k.add(g, more), k.add(b, more)];
  },
};
