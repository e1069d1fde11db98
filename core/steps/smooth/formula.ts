import { luma709, type Algebra, type Operand } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';

/** Share of a difference that counts as noise, from its square and that of the noise limit (Tukey's biweight: 1974). */
function noiseIn<T>(k: Algebra<T>, square: T, most: Operand<T>): T {
  const left = k.max(0, k.sub(1, k.div(square, k.add(k.mul(most, most), 1e-9))));
  return k.mul(left, left);
}

/**
 * Moves a pixel towards its neighbours' mean if the difference is within the noise, separately for luma and colour;
 * larger differences are image content and stay.
 */
export const SMOOTH: Formula<'luma' | 'colour', never> = {
  name: 'smooth',
  light: 'encoded',
  neighbours: 'colour',
  numbers: ['luma', 'colour'],
  curves: [],
  colour(k, { rgb: [r, g, b], blurred: [near0, near1, near2], n }) {
    const off = [k.sub(r, near0), k.sub(g, near1), k.sub(b, near2)] as const;
    const light = luma709(k, ...off);
    const hue = off.map((v) => k.sub(v, light));
    const squares = hue.map((v) => k.mul(v, v));
    const lightNoise = k.mul(noiseIn(k, k.mul(light, light), n.luma), light);
    const hueNoise = noiseIn(k, k.add(k.add(squares[0], squares[1]), squares[2]), n.colour);
    const [x, y, z] = hue.map((v) => k.add(lightNoise, k.mul(hueNoise, v)));
    return [k.sub(r, x), k.sub(g, y), k.sub(b, z)];
  },
};
