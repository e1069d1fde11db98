import type { Vec3 } from '@inkavo/core/colour/matrix';
import { ciede2000 } from '@inkavo/core/colour/difference';
import { encodedToLab } from '@inkavo/core/colour/lab';
import { bt709 } from '@inkavo/core/colour/transfer';

/** How a picture compares with the truth where the truth is known. */
export interface Score {
  /** Mean CIEDE2000. */
  difference: number;
  /** Mean C*ab over the truth's, and the truth's. */
  chroma: number;
  trueChroma: number;
}

const clamp = (v: number): number => Math.min(1, Math.max(0, v));

/** Scores encoded R'G'B' (clipped as in a file) against linear truth; every `stride`th pixel of the mask. */
export function score(encoded: Float32Array, truth: Float32Array, mask: Uint8Array, stride = 5): Score {
  let [difference, chroma, trueChroma, count] = [0, 0, 0, 0];
  for (let i = 0; i < mask.length; i += stride) {
    if (!mask[i]) continue;
    const got = encodedToLab([0, 1, 2].map((c) => clamp(encoded[3 * i + c])) as Vec3);
    const want = encodedToLab([0, 1, 2].map((c) => clamp(bt709.encode(truth[3 * i + c]))) as Vec3);
    difference += ciede2000(got, want);
    chroma += Math.hypot(got[1], got[2]);
    trueChroma += Math.hypot(want[1], want[2]);
    count += 1;
  }
  return { difference: difference / count, chroma: chroma / trueChroma, trueChroma: trueChroma / count };
}
