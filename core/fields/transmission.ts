import { minFilter } from './filters';
import type { LinearPicture } from './map';
import type { Vec3 } from '../colour/matrix';

/** Maximum share of the haze that is removed, so that distance stays perceptible (He, Sun, Tang 2009). */
export const OMEGA = 0.95;
/** Window of the priors: 15 pixels of a picture 600 wide, as a share of the width (He, Sun, Tang 2009). */
const PATCH = 15 / 600;

export const patchRadius = (width: number): number => Math.max(1, Math.round((PATCH * width - 1) / 2));

/** The dark channel: smallest of the three channels in each window, relative to the airlight (He, Sun, Tang 2009). */
export function darkChannel({ width, height, rgb }: LinearPicture, airlight: Readonly<Vec3>): Float32Array {
  const least = new Float32Array(width * height);
  for (let i = 0; i < least.length; i += 1)
    least[i] = Math.min(rgb[3 * i] / airlight[0], rgb[3 * i + 1] / airlight[1], rgb[3 * i + 2] / airlight[2]);
  return minFilter(least, width, height, patchRadius(width));
}

/** Optical depth at which maps saturate: the least transmission that {@link OMEGA} allows. */
export const MAP_END = -Math.log(1 - OMEGA);
