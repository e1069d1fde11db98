import type { Vec3 } from '../colour/matrix';
import type { ReadFrame } from './readFrames';

/** Colour of the frames' highlights: Minkowski mean with exponent 6 (shades of grey, Finlayson and Trezzi 2004). */
export function brightColour(frames: readonly ReadFrame[]): Vec3 {
  const sum: Vec3 = [0, 0, 0];
  let count = 0;
  for (const { rgb } of frames)
    for (let o = 0; o < rgb.length; o += 3, count += 1)
      for (let c = 0; c < 3; c += 1) sum[c] += Math.max(0, rgb[o + c]) ** 6;
  return sum.map((s) => (s / Math.max(1, count)) ** (1 / 6)) as Vec3;
}
