import { encodedToLab } from '../colour/lab';
import type { Vec3 } from '../colour/matrix';
import { luma709 } from '../colour/ycbcr';

/** A picture in encoded R'G'B', width × height × 3. */
export interface RgbPicture {
  rgb: Float32Array;
  width: number;
  height: number;
}

/** Edge in pixels of the squares whose mean colour counts: noise and fine texture average out. */
const SQUARE = 8;

/** Mean colours of the squares of pictures, encoded R'G'B', three numbers each. */
export function squaresOf(pictures: readonly RgbPicture[]): Float32Array {
  const out: number[] = [];
  for (const { rgb, width, height } of pictures)
    for (let top = 0; top + SQUARE <= height; top += SQUARE)
      for (let left = 0; left + SQUARE <= width; left += SQUARE) {
        const sum = [0, 0, 0];
        for (let y = top; y < top + SQUARE; y += 1)
          for (let o = 3 * (y * width + left), end = o + 3 * SQUARE; o < end; o += 3)
            for (let c = 0; c < 3; c += 1) sum[c] += rgb[o + c];
        out.push(...sum.map((v) => v / (SQUARE * SQUARE)));
      }
  return Float32Array.from(out);
}

function chosen(colours: Float32Array, count: number, place: (k: number) => number): Float32Array {
  const out = new Float32Array(3 * count);
  for (let k = 0; k < count; k += 1) {
    const i = Math.floor(place(k) * (colours.length / 3));
    out.set(colours.subarray(3 * i, 3 * i + 3), 3 * k);
  }
  return out;
}

/** Evenly spaced subset of a list of colours, in order. */
export const evenly = (colours: Float32Array, count: number): Float32Array =>
  chosen(colours, count, (k) => (k + 0.5) / count);

/** Subset of a list of colours spread by the golden ratio, so that periodic structure is not sampled repeatedly. */
export const scattered = (colours: Float32Array, count: number): Float32Array =>
  chosen(colours, count, (k) => ((k + 0.5) * ((Math.sqrt(5) - 1) / 2)) % 1);

/** Colours sorted by luma, darkest first. */
export function byLuma(colours: Float32Array): Float32Array {
  const count = colours.length / 3;
  const luma = Float32Array.from({ length: count }, (_, i) =>
    luma709(colours[3 * i], colours[3 * i + 1], colours[3 * i + 2]),
  );
  const order = Uint32Array.from({ length: count }, (_, i) => i).sort((a, b) => luma[a] - luma[b]);
  const out = new Float32Array(colours.length);
  order.forEach((i, k) => out.set(colours.subarray(3 * i, 3 * i + 3), 3 * k));
  return out;
}

/** L*, a*, b* of encoded colours as displayed (clipped to 0–1), after applying a function. */
export function labsOf(colours: Float32Array, through?: (rgb: Vec3) => void): Float32Array {
  const out = new Float32Array(colours.length);
  const rgb: Vec3 = [0, 0, 0];
  for (let o = 0; o < colours.length; o += 3) {
    for (let c = 0; c < 3; c += 1) rgb[c] = colours[o + c];
    through?.(rgb);
    for (let c = 0; c < 3; c += 1) rgb[c] = Math.min(1, Math.max(0, rgb[c]));
    out.set(encodedToLab(rgb), o);
  }
  return out;
}

/** For each colour of one list the nearest of another: its index and the Euclidean distance. */
export function nearest(from: Float32Array, to: Float32Array): { which: Int32Array; far: Float32Array } {
  const which = new Int32Array(from.length / 3);
  const far = new Float32Array(which.length);
  for (let i = 0; i < which.length; i += 1) {
    const [l, a, b] = from.subarray(3 * i, 3 * i + 3);
    let least = Infinity;
    for (let o = 0; o < to.length; o += 3) {
      const d = (l - to[o]) ** 2 + (a - to[o + 1]) ** 2 + (b - to[o + 2]) ** 2;
      if (d < least) {
        least = d;
        which[i] = o / 3;
      }
    }
    far[i] = Math.sqrt(least);
  }
  return { which, far };
}
