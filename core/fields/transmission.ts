import { minFilter, maxFilter } from './filters';
import type { LinearPicture } from './map';
import type { Vec3 } from '../colour/matrix';

/** Share of the haze that is taken off at most, so that distance stays distance (He, Sun, Tang 2009). */
export const OMEGA = 0.95;
/** Window of the priors: 15 pixels of a picture 600 wide, as a share of the width (He, Sun, Tang 2009). */
const PATCH = 15 / 600;

export const patchRadius = (width: number): number => Math.max(1, Math.round((PATCH * width - 1) / 2));

/**
 * Transmission 0–1 by the boundary constraint (Meng et al., 2013): light of the scene lies between `dark` and
 * `bright`, so what is far from the airlight's colour must be near. Patchwise, by the closing of the bound. With
 * `dark` at zero and a large `bright` it is the dark channel prior (He, Sun, Tang 2009), less its window's halo.
 */
export function boundedTransmission(
  { width, height, rgb }: LinearPicture,
  airlight: Readonly<Vec3>,
  dark: Readonly<Vec3>,
  bright: Readonly<Vec3>,
  channels: readonly number[] = [0, 1, 2],
): Float32Array {
  const bound = new Float32Array(width * height);
  for (let i = 0; i < bound.length; i += 1) {
    let t = 0;
    for (const c of channels) {
      const away = airlight[c] - rgb[3 * i + c];
      const most = away >= 0 ? airlight[c] - dark[c] : bright[c] - airlight[c];
      if (most > 1e-6) t = Math.max(t, Math.abs(away) / most);
    }
    bound[i] = Math.min(1, t);
  }
  const radius = patchRadius(width);
  return minFilter(maxFilter(bound, width, height, radius), width, height, radius);
}

/** The dark channel: smallest of the three channels in each window, relative to the airlight (He, Sun, Tang 2009). */
export function darkChannel({ width, height, rgb }: LinearPicture, airlight: Readonly<Vec3>): Float32Array {
  const least = new Float32Array(width * height);
  for (let i = 0; i < least.length; i += 1)
    least[i] = Math.min(rgb[3 * i] / airlight[0], rgb[3 * i + 1] / airlight[1], rgb[3 * i + 2] / airlight[2]);
  return minFilter(least, width, height, patchRadius(width));
}

/** Optical depth at which maps end: what {@link OMEGA} lets through at least. */
export const MAP_END = -Math.log(1 - OMEGA);

/**
 * From a bound on transmission to a map, 0–1 of {@link MAP_END}. The bound is low where a scene holds nothing dark or
 * bright, so it tells how much farther things are than the nearest ones: the `nearest` share of the cells is at 0.
 */
export function depthMap(transmission: Float32Array, nearest: number): Float32Array {
  const depths = transmission.map((t) => -Math.log(1 - OMEGA * (1 - t)) / MAP_END);
  const sorted = depths.slice().sort();
  const near = sorted[Math.floor(nearest * (sorted.length - 1))];
  return depths.map((d) => Math.max(0, d - near));
}
