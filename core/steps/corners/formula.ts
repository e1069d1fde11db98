import type { Formula } from '../../formula/formula';
import { falloffIn } from './falloff';

export const CORNERS: Formula<'amount' | 'begins', never> = {
  name: 'corners',
  light: 'linear',
  numbers: ['amount', 'begins'],
  curves: [],
  colour(k, { rgb, plane, n }) {
    const share = k.mul(n.amount, falloffIn(k, plane, n.begins));
    const gain = k.select(0, n.amount, k.div(1, k.sub(1, share)), k.add(1, share));
    const [r, g, b] = rgb;
    return [k.mul(r, gain), k.mul(g, gain), k.mul(b, gain)];
  },
};
