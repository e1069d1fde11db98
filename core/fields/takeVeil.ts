import type { Algebra } from '../formula/algebra';

/**
 * Light in front of a thing is taken off by subtraction down to so many times its own level; below, by a power of the
 * light that meets the line there with the same slope, 1.25 / (1.25 − 1) = 5. So nothing dark falls below black, no
 * noise is raised beyond the power, and the logarithm of the correction changes at most five times as fast as that of
 * the light: a veil that is taken for denser than it is leaves dark tones, not holes.
 */
export const KNEE = 1.25;

/** Light without a veil of so much light (both linear; the veil at or above 0), in any form of a formula. */
export function takeVeilIn<T>(k: Algebra<T>, light: T, veil: T): T {
  const knee = k.mul(KNEE, veil);
  // Clamped to 1, where the power is not used: a large one would be infinite.
  const q = k.min(1, k.div(light, k.max(1e-9, knee)));
  const q2 = k.mul(q, q);
  const toe = k.mul(k.mul(k.mul(KNEE - 1, veil), k.mul(q2, q2)), q);
  const above = k.select(light, knee, toe, k.sub(light, veil));
  return k.select(0, light, above, light);
}
