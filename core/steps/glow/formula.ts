import { clamp, type Algebra } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';

/** Screen blending: light is added in proportion to the remaining headroom. */
const lit = <T>(k: Algebra<T>, v: T, light: T): T => k.add(v, k.mul(k.min(1, light), k.sub(1, clamp(k, v, 0, 1))));

/**
 * Spreads the light of highlights over their surroundings: the plane is their blurred luminance; `red`, `green`, `blue`
 * are its colour. Nothing exceeds white.
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
