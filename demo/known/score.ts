import type { Vec3 } from '@inkavo/core/colour/matrix';
import { ciede2000 } from '@inkavo/core/colour/difference';
import { encodedToLab } from '@inkavo/core/colour/lab';

/** Comparison of a picture with the truth. */
export interface Score {
  /** Mean CIEDE2000. */
  difference: number;
  /** Ratio of mean C*ab to the truth's, and the truth's. */
  chroma: number;
  trueChroma: number;
}

const clamp = (v: number): number => Math.min(1, Math.max(0, v));

/** Scores encoded R'G'B' (clipped as in a file) against encoded truth; every `stride`th pixel. */
export function score(encoded: Float32Array, truth: Float32Array, stride: number): Score {
  let [difference, chroma, trueChroma, count] = [0, 0, 0, 0];
  for (let i = 0; 3 * i < truth.length; i += stride) {
    const lab = (p: Float32Array): Vec3 => encodedToLab([0, 1, 2].map((c) => clamp(p[3 * i + c])) as Vec3);
    const [got, want] = [lab(encoded), lab(truth)];
    difference += ciede2000(got, want);
    chroma += Math.hypot(got[1], got[2]);
    trueChroma += Math.hypot(want[1], want[2]);
    count += 1;
  }
  return {
    difference: difference / count,
    chroma: chroma / Math.max(1e-6, trueChroma),
    trueChroma: trueChroma / count,
  };
}
