import { LUMINANCE } from '../../colour/primaries';
import type { Vec3 } from '../../colour/matrix';

/** Limit of each channel's gain, in stops: beyond it only noise is amplified. */
export const GAIN_LIMIT_STOPS = 3;

const limit = (gain: number): number => Math.min(2 ** GAIN_LIMIT_STOPS, Math.max(2 ** -GAIN_LIMIT_STOPS, gain));

/** Gains scaled so that the neutral they were made for keeps its luminance. */
export function keepLuminance(gains: Readonly<Vec3>): Vec3 {
  const luminance = LUMINANCE[0] / gains[0] + LUMINANCE[1] / gains[1] + LUMINANCE[2] / gains[2];
  return [gains[0] * luminance, gains[1] * luminance, gains[2] * luminance];
}

/**
 * Per-channel gains in linear light that make `sample` (linear, all above 0) neutral, clamped to ±{@link
 * GAIN_LIMIT_STOPS}. `limited`: they were clamped and a cast remains.
 */
export function gainsForNeutral(sample: Readonly<Vec3>): { gains: Vec3; limited: boolean } {
  const y = LUMINANCE[0] * sample[0] + LUMINANCE[1] * sample[1] + LUMINANCE[2] * sample[2];
  const wanted = sample.map((c) => y / Math.max(c, 1e-9));
  const gains = wanted.map(limit) as Vec3;
  return { gains, limited: gains.some((g, i) => g !== wanted[i]) };
}
