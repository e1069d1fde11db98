import type { Vec3 } from '../colour/matrix';
import { pictureToRgb } from '../program/cpu/gradePicture';
import type { PlanarPicture } from '../program/cpu/planar';

/** Side of the blocks in which noise is looked for, in pixels, and the share of them that are flattest. */
const BLOCK = 12;
const FLATTEST = 0.1;
/** Chroma has half the pixels: differences are taken so far apart. */
const APART = 2;

/**
 * Noise of red, green and blue in a picture: deviation of encoded values from pixel to pixel, in its flattest blocks.
 * Of a picture as recorded, or of encoded values with a guide that says where it is flat.
 */
export function noiseOf(
  picture: PlanarPicture | undefined,
  given?: { encoded: Float32Array; guide: Float32Array; width: number; height: number },
): Vec3 {
  const encoded = given?.encoded ?? pictureToRgb(undefined, picture!);
  const guide = given?.guide ?? encoded;
  const { width, height } = given ?? picture!.format;
  const blocks: { flat: number; noise: Vec3 }[] = [];
  for (let top = 0; top + BLOCK <= height; top += BLOCK)
    for (let left = 0; left + BLOCK + 2 * APART <= width; left += BLOCK) {
      let flat = 0;
      let level = 0;
      const noise: Vec3 = [0, 0, 0];
      for (let y = top; y < top + BLOCK; y += 1)
        for (let x = left; x < left + BLOCK; x += 1) {
          const i = 3 * (y * width + x);
          level += guide[i + 1] / BLOCK ** 2;
          flat += Math.abs(guide[i + 1] - 2 * guide[i + 3 * APART + 1] + guide[i + 6 * APART + 1]);
          for (let c = 0; c < 3; c += 1) {
            const d = encoded[i + c] - 2 * encoded[i + 3 * APART + c] + encoded[i + 6 * APART + c];
            noise[c] += (d * d) / 6 / BLOCK ** 2;
          }
        }
      if (level > 0.06 && level < 0.94) blocks.push({ flat, noise });
    }
  if (blocks.length === 0) return [0, 0, 0];
  blocks.sort((a, b) => a.flat - b.flat);
  const some = blocks.slice(0, Math.max(1, Math.round(FLATTEST * blocks.length)));
  return [0, 1, 2].map((c) => Math.sqrt(some.reduce((s, b) => s + b.noise[c], 0) / some.length)) as Vec3;
}
