import { bt709 } from '@inkavo/core/colour/transfer';

/** Share of a channel's mean light at which noise hides steps; added before taking logarithms. */
const FLOOR = 0.15;
/** Distance in pixels of the compared values, so that pixel noise has little influence. */
const APART = 4;
/** Maximum change of the correction over that distance: this multiple of the picture's own change, plus a constant. */
export const SEAM_TIMES = 5;
export const SEAM_MORE = 0.12;
/** Share of positions that may exceed it: edges of a single pixel. */
const SHARE = 0.999;

/**
 * Detects seams: where a correction (output over input, in logarithms of light, per channel) changes faster than the
 * picture. 1 is the limit of {@link SEAM_TIMES} times the picture's own change plus {@link SEAM_MORE}. The 99.9th
 * percentile over the picture. Encoded R'G'B', width × height × 3.
 */
export function worstSeam(before: Float32Array, after: Float32Array, width: number, height: number): number {
  const logs = (encoded: Float32Array): Float32Array => {
    const light = encoded.map((v) => Math.max(0, bt709.decode(v)));
    const means = [0, 1, 2].map((c) => {
      let sum = 0;
      for (let i = c; i < light.length; i += 3) sum += light[i];
      return Math.max(1e-4, (3 * sum) / light.length);
    });
    return light.map((v, i) => Math.log(v + FLOOR * means[i % 3]));
  };
  const found: number[] = [];
  const [a, b] = [logs(before), logs(after)];
  for (let y = APART; y + APART < height; y += 3)
    for (let x = APART; x + APART < width; x += 2)
      for (const step of [APART, APART * width]) {
        const [i, j] = [3 * (y * width + x), 3 * (y * width + x + step)];
        // A channel rebuilt from another one changes with that one.
        const own = Math.max(...[0, 1, 2].map((c) => Math.abs(a[j + c] - a[i + c])));
        for (let c = 0; c < 3; c += 1) {
          const correction = Math.abs(b[j + c] - a[j + c] - (b[i + c] - a[i + c]));
          found.push(correction / (SEAM_TIMES * own + SEAM_MORE));
        }
      }
  found.sort((p, q) => p - q);
  return found[Math.floor(SHARE * (found.length - 1))];
}
