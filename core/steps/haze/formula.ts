import { smoothstep } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';
import { removeVeilIn } from '../../fields/removeVeil';
import { MAP_END } from '../../fields/transmission';

/**
 * Range, in shares of the airlight, over which the correction fades out: haze only ever moves colours towards that of
 * the air, so brighter ones are close by, or sky and clouds. Wide enough to avoid visible edges.
 */
const SKY_BEGINS = 1;
const SKY_WHOLE = 1.5;

/** I = J · t + A · (1 − t), solved for J (Koschmieder 1924). The airlight is linear and above 0. */
export const HAZE: Formula<'airRed' | 'airGreen' | 'airBlue' | 'amount' | 'floor' | 'near', never> = {
  name: 'haze',
  light: 'linear',
  numbers: ['airRed', 'airGreen', 'airBlue', 'amount', 'floor', 'near'],
  curves: [],
  colour(k, { rgb: [r, g, b], plane, n }) {
    const over = k.max(k.div(r, n.airRed), k.max(k.div(g, n.airGreen), k.div(b, n.airBlue)));
    const kept = smoothstep(k, SKY_BEGINS, SKY_WHOLE, over);
    const through = k.mul(k.exp(k.mul(-MAP_END, plane)), k.sub(1, n.near));
    const taken = k.mul(k.mul(n.amount, k.sub(1, kept)), k.sub(1, through));
    const left = k.max(n.floor, k.sub(1, taken));
    const gone = k.sub(1, left);
    const gain = k.div(1, left);
    return [
      k.mul(removeVeilIn(k, r, k.mul(n.airRed, gone)), gain),
      k.mul(removeVeilIn(k, g, k.mul(n.airGreen, gone)), gain),
      k.mul(removeVeilIn(k, b, k.mul(n.airBlue, gone)), gain),
    ];
  },
};
