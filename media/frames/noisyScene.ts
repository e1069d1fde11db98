import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { randomFrom } from '@inkavo/core/random';

/** A moving scene with noise of known strength, for tests. */

export const emptyPicture = (format: PlanarFormat): PlanarPicture =>
  planesOver(new ArrayBuffer(pictureBytes(format)), format);

/** Moving content: waves of many lengths, and a disc in front with a different motion. */
function scene(x: number, y: number, k: number): number {
  const [dx, dy] = [x - 130 - 5.4 * k, y - 90 + 2.7 * k];
  const before = dx * dx + dy * dy < 50 * 50;
  const [u, v] = before ? [1.9 * dx, 1.7 * dy] : [x + 3.3 * k, y - 1.6 * k];
  return 118 + 45 * Math.sin(u / 6) * Math.cos(v / 8) + 22 * Math.sin(u / 31 + v / 17) + (before ? 25 : 0);
}

/**
 * Frames of the scene with noise of a given standard deviation in 8-bit code values, more of it in the dark, and
 * without.
 */
export function noisyScene(
  format: PlanarFormat,
  deviation: number,
  count = 5,
): { clean: PlanarPicture[]; noisy: PlanarPicture[] } {
  const random = randomFrom(7);
  const normal = (): number => Math.sqrt(-2 * Math.log(random() + 1e-12)) * Math.cos(2 * Math.PI * random());
  const scale = 2 ** (format.depth - 8);
  const out = { clean: [] as PlanarPicture[], noisy: [] as PlanarPicture[] };
  for (let k = 0; k < count; k += 1) {
    const [clean, noisy] = [emptyPicture(format), emptyPicture(format)];
    for (const plane of ['y', 'cb', 'cr'] as const) {
      const [sx, sy] = plane === 'y' ? [1, 1] : [format.chroma === '444' ? 1 : 2, format.chroma === '420' ? 2 : 1];
      const wide = Math.ceil(format.width / sx);
      clean[plane].forEach((_, i) => {
        const [x, y] = [(i % wide) * sx, Math.floor(i / wide) * sy];
        const value = plane === 'y' ? scene(x, y, k) : 128 + 0.3 * (scene(x, y, k) - 118);
        const more = deviation * (1.4 - value / 255) * normal();
        clean[plane][i] = Math.round(scale * value);
        noisy[plane][i] = Math.min(256 * scale - 1, Math.max(0, Math.round(scale * (value + more))));
      });
    }
    out.clean.push(clean);
    out.noisy.push(noisy);
  }
  return out;
}

/** Pictures, concatenated as in a stack. */
export function joinedPictures(pictures: readonly PlanarPicture[]): ArrayBuffer {
  const bytes = pictureBytes(pictures[0].format);
  const out = new Uint8Array(bytes * pictures.length);
  pictures.forEach((p, k) => out.set(new Uint8Array(p.y.buffer, p.y.byteOffset, bytes), k * bytes));
  return out.buffer;
}
