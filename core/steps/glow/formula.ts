import { clamp, type Algebra } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';

/** What is left to white takes light in the measure in which it is left, as a screen does in front of two projectors. */
const lit = <T>(k: Algebra<T>, v: T, light: T): T => k.add(v, k.mul(k.min(1, light), k.sub(1, clamp(k, v, 0, 1))));

/**
 * Light of bright parts is spread over what lies about them: the plane is its luminance, blurred; `red`, `green`, `blue` are its
 * colour. Nothing is driven beyond white.
 */
export const GLOW: Formula<'red' | 'green' | 'blue', never> = {
  name: 'glow',
  light: 'linear',
  numbers: ['red', 'green', 'blue'],
  curves: [],
  colour: (k, { rgb: [r, g, b], plane, n }) => [
    lit(k, r, k.mul(n.red, plane)),
    lit(k, g, k.mul(n.green, plane)),
    lit(k, b, k.mul(n.blue, plane)),
  ],
};
