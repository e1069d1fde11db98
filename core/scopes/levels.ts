import { luma709 } from '../colour/ycbcr';
import { TRACE_HIGH, TRACE_LOW } from './trace';

/** How many pixels lie on each level, from {@link TRACE_LOW} to {@link TRACE_HIGH}; what lies beyond counts at the ends. */
export interface Levels {
  luma: Uint32Array;
  red: Uint32Array;
  green: Uint32Array;
  blue: Uint32Array;
}

/** Histograms of luma and the channels with so many bins, of encoded values (count × 3). */
export function levelHistograms(rgb: Float32Array, bins: number): Levels {
  const make = () => new Uint32Array(bins);
  const levels: Levels = { luma: make(), red: make(), green: make(), blue: make() };
  const scale = bins / (TRACE_HIGH - TRACE_LOW);
  const at = (v: number): number => Math.min(bins - 1, Math.max(0, Math.floor((v - TRACE_LOW) * scale)));
  for (let o = 0; o < rgb.length; o += 3) {
    const [r, g, b] = [rgb[o], rgb[o + 1], rgb[o + 2]];
    levels.luma[at(luma709(r, g, b))] += 1;
    levels.red[at(r)] += 1;
    levels.green[at(g)] += 1;
    levels.blue[at(b)] += 1;
  }
  return levels;
}

/** Zones run from 0 (black) to 10 (white), each a tenth of encoded luma, with 5 in the middle. */
export const ZONES = 11;
export const zoneOf = (luma: number): number => Math.min(ZONES - 1, Math.max(0, Math.round(luma * 10)));

/** Share of the frame (0–1) in each zone. */
export function zoneShares(rgb: Float32Array): number[] {
  const counts = Array.from({ length: ZONES }, () => 0);
  for (let o = 0; o < rgb.length; o += 3) counts[zoneOf(luma709(rgb[o], rgb[o + 1], rgb[o + 2]))] += 1;
  return counts.map((n) => n / Math.max(1, rgb.length / 3));
}
