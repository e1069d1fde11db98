import { luma709 } from '../colour/ycbcr';
import { TRACE_HIGH, TRACE_LOW } from './trace';

/** Number of pixels at each level, from {@link TRACE_LOW} to {@link TRACE_HIGH}; values beyond count at the ends. */
export interface Levels {
  luma: Uint32Array;
  red: Uint32Array;
  green: Uint32Array;
  blue: Uint32Array;
}

/** Histograms of luma and the channels with this many bins, from encoded values (count × 3). */
export function levelHistograms(rgb: Float32Array, bins: number): Levels {
  const make = () => new Uint32Array(bins);
  const levels: Levels = { luma: make(), red: make(), green: make(), blue: make() };
  const scale = bins / (TRACE_HIGH - TRACE_LOW);
  const top = bins - 1;
  const count = (into: Uint32Array, value: number): void => {
    const bin = ((value - TRACE_LOW) * scale) | 0;
    into[bin < 0 ? 0 : bin > top ? top : bin] += 1;
  };
  const { luma, red, green, blue } = levels;
  for (let o = 0; o < rgb.length; o += 3) {
    const r = rgb[o];
    const g = rgb[o + 1];
    const b = rgb[o + 2];
    count(luma, luma709(r, g, b));
    count(red, r);
    count(green, g);
    count(blue, b);
  }
  return levels;
}

/** Zones 0 (black) to 10 (white), each a tenth of encoded luma, with 5 in the middle. */
export const ZONES = 11;
export const zoneOf = (luma: number): number => Math.min(ZONES - 1, Math.max(0, Math.round(luma * 10)));

/** Share of the frame (0–1) in each zone. */
export function zoneShares(rgb: Float32Array): number[] {
  const counts = Array.from({ length: ZONES }, () => 0);
  for (let o = 0; o < rgb.length; o += 3) counts[zoneOf(luma709(rgb[o], rgb[o + 1], rgb[o + 2]))] += 1;
  return counts.map((n) => n / Math.max(1, rgb.length / 3));
}
