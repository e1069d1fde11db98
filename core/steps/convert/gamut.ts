import type { Vec3 } from '../../colour/matrix';

/** Colours closer than this to the achromatic axis are unchanged. */
export const GAMUT_THRESHOLD = 0.9;
/** Distance that is mapped to the gamut's edge. */
const LIMIT = 1.35;

/**
 * Gamut compression: each channel's distance d = (max − c) / max from the achromatic axis is compressed by a smooth
 * shoulder (continuous slope at the threshold, LIMIT ↦ 1, bounded above). Colours with all distances below {@link
 * GAMUT_THRESHOLD} are unchanged. `amount` 0–1 mixes.
 */
export function compressGamut(rgb: Vec3, amount: number): void {
  const peak = Math.max(rgb[0], rgb[1], rgb[2]);
  if (peak <= 0) return;
  const room = 1 - GAMUT_THRESHOLD;
  const reach = LIMIT - GAMUT_THRESHOLD;
  // y = t + x / (1 + x / s) reaches 1 at LIMIT when room = reach / (1 + reach / s).
  const s = (room * reach) / (reach - room);
  for (let i = 0; i < 3; i += 1) {
    const away = (peak - rgb[i]) / peak;
    if (away <= GAMUT_THRESHOLD) continue;
    const x = away - GAMUT_THRESHOLD;
    const bent = GAMUT_THRESHOLD + x / (1 + x / s);
    rgb[i] += amount * (peak - bent * peak - rgb[i]);
  }
}
