import type { Algebra } from '../formula/algebra';

/**
 * A veil is subtracted while the result stays above the veil's light divided by this factor less one; below, the curve
 * continues as a power of the light with matching slope: 1.25 / (1.25 − 1) = 5. So dark tones never become negative,
 * noise is not amplified beyond that power, and the logarithm of the correction changes at most five times as fast as
 * that of the light: an overestimated veil leaves dark tones, not holes.
 */
export const KNEE = 1.25;

/** Removes a veil of this much light (both linear; the veil at or above 0), in any form of a formula. */
export function removeVeilIn<T>(k: Algebra<T>, light: T, veil: T): T {
  const knee = k.mul(KNEE, veil);
  // Clamped to 1 where the power is not used: its result could overflow.
  const q = k.min(1, k.div(light, k.max(1e-9, knee)));
  const q2 = k.mul(q, q);
  const toe = k.mul(k.mul(k.mul(KNEE - 1, veil), k.mul(q2, q2)), q);
  const above = k.select(light, knee, toe, k.sub(light, veil));
  return k.select(0, light, above, light);
}
