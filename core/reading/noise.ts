import type { Vec3 } from '../colour/matrix';
import { pictureToRgb } from '../program/cpu/gradePicture';
import type { PlanarPicture } from '../program/cpu/planar';

/** Edge in pixels of the blocks used for measuring noise, and the share of the flattest ones. */
const BLOCK = 12;
const FLATTEST = 0.1;
/** Range of encoded green in which noise can be measured: beyond, values are clipped. */
const DARK = 0.06;
const BRIGHT = 0.94;
/** Chroma is subsampled by two: differences are taken at this distance. */
const APART = 2;

/** Noise covariance of red, green and blue, encoded values squared, 3 × 3 row-major. */
export type NoiseCovariance = readonly number[];

/**
 * Measures the noise of a picture in its flattest blocks from differences of pixels: of a picture as recorded, or of
 * encoded values with a guide that determines the flat blocks. All 0 if nothing is flat.
 */
export function noiseOf(
  picture: PlanarPicture | undefined,
  given?: { encoded: Float32Array; guide: Float32Array; width: number; height: number },
): NoiseCovariance {
  const encoded = given?.encoded ?? pictureToRgb(undefined, picture!);
  const guide = given?.guide ?? encoded;
  const { width, height } = given ?? picture!.format;
  const blocks: { flat: number; noise: number[] }[] = [];
  const d = [0, 0, 0];
  for (let top = 0; top + BLOCK <= height; top += BLOCK)
    for (let left = 0; left + BLOCK + 2 * APART <= width; left += BLOCK) {
      let [flat, level] = [0, 0];
      const noise = new Array<number>(9).fill(0);
      for (let y = top; y < top + BLOCK; y += 1)
        for (let x = left; x < left + BLOCK; x += 1) {
          const i = 3 * (y * width + x);
          level += guide[i + 1] / BLOCK ** 2;
          flat += Math.abs(guide[i + 1] - 2 * guide[i + 3 * APART + 1] + guide[i + 6 * APART + 1]);
          for (let c = 0; c < 3; c += 1)
            d[c] = encoded[i + c] - 2 * encoded[i + 3 * APART + c] + encoded[i + 6 * APART + c];
          for (let k = 0; k < 9; k += 1) noise[k] += (d[Math.floor(k / 3)] * d[k % 3]) / 6 / BLOCK ** 2;
        }
      if (level > DARK && level < BRIGHT) blocks.push({ flat, noise });
    }
  if (blocks.length === 0) return new Array<number>(9).fill(0);
  blocks.sort((a, b) => a.flat - b.flat);
  const some = blocks.slice(0, Math.max(1, Math.round(FLATTEST * blocks.length)));
  return Array.from({ length: 9 }, (_, k) => some.reduce((s, b) => s + b.noise[k], 0) / some.length);
}

/** Standard deviation of a channel's noise. */
export const noiseIn = (covariance: NoiseCovariance, channel: 0 | 1 | 2): number =>
  Math.sqrt(Math.max(0, covariance[4 * channel]));

/** Standard deviation of a weighted sum of the channels' noise. */
export function noiseThrough(covariance: NoiseCovariance, weights: Readonly<Vec3>): number {
  let sum = 0;
  for (let k = 0; k < 9; k += 1) sum += weights[Math.floor(k / 3)] * covariance[k] * weights[k % 3];
  return Math.sqrt(Math.max(0, sum));
}
