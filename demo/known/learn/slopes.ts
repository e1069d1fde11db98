import { ALPHA, BETA } from '@inkavo/core/colour/transfer';
import { decode709, encode709 } from '@inkavo/core/colour/transferTables';
import { KNEE } from '@inkavo/core/fields/removeVeil';
import type { Correction } from '@inkavo/core/reading/correction';

/** Indices of a correction's numbers in a gradient. */
export const BLACK = 0;
export const WIDEN = 1;
export const OPEN = 2;
export const VEIL = 3;
export const GAIN = 6;
export const SATURATION = 9;
export const NUMBERS = 10;

const POWER = KNEE / (KNEE - 1);
const LUMA = [0.2126, 0.7152, 0.0722];

const decodeSlope = (v: number): number =>
  v < 4.5 * BETA ? 1 / 4.5 : ((v + ALPHA - 1) / ALPHA) ** (1 / 0.45 - 1) / (0.45 * ALPHA);
const encodeSlope = (l: number): number => (l < BETA ? 4.5 : 0.45 * ALPHA * l ** -0.55);

/**
 * Applies a correction to a colour in code values, like its steps (`core/reading/stepsOf.ts`), with derivatives with
 * respect to the correction's numbers: `out` receives three encoded values, `slopes` 3 × {@link NUMBERS}. `veil`: the
 * share of the veil, 0–1, for a correction with a colour of the air.
 */
export function correctWithSlopes(
  code: ArrayLike<number>,
  at: number,
  { black, widen, open, veil, air, gain, saturation }: Correction,
  share: number,
  out: number[],
  slopes: Float64Array,
): void {
  const w = Math.exp(widen);
  const y = [0, 0, 0];
  const by: number[][] = [];
  for (let c = 0; c < 3; c += 1) {
    const x = (code[at + c] - black) * w;
    let [light, lightByX, lightByOpen] = [0, 0, 0];
    if (open === 0) {
      light = Math.max(0, decode709(x));
      lightByX = x > 0 ? decodeSlope(x) : 0;
    } else if (x > 0) {
      const o = Math.exp(open);
      const span = Math.log1p(o);
      const grown = Math.exp(x * span);
      light = (grown - 1) / o;
      lightByX = (grown * span) / o;
      lightByOpen = (x * grown) / (1 + o) - light;
    }
    const v = air ? air[c] * share : veil[c];
    let [left, leftByLight, leftByVeil] = [light - v, 1, -1];
    if (v <= 1e-7) [left, leftByVeil] = [light, light < 1e-4 ? 0 : -1];
    else if (light < KNEE * v) {
      const q = light / v;
      const f = (KNEE - 1) * (q / KNEE) ** POWER;
      const slope = q > 0 ? (f * POWER) / q : 0;
      [left, leftByLight, leftByVeil] = [v * f, slope, f - q * slope];
    }
    const k = Math.exp(gain[c]) / (air ? 1 - share : 1);
    y[c] = encode709(k * left);
    const e = encodeSlope(Math.max(1e-5, k * left));
    const byLight = e * k * leftByLight;
    by.push([-w * byLight * lightByX, x * byLight * lightByX, byLight * lightByOpen, e * k * leftByVeil, e * k * left]);
  }
  const s = Math.exp(saturation);
  const luma = LUMA[0] * y[0] + LUMA[1] * y[1] + LUMA[2] * y[2];
  slopes.fill(0);
  for (let c = 0; c < 3; c += 1) {
    out[c] = luma + s * (y[c] - luma);
    const row = c * NUMBERS;
    for (let q = 0; q < 3; q += 1) {
      const g = (c === q ? s : 0) + (1 - s) * LUMA[q];
      slopes[row + BLACK] += g * by[q][0];
      slopes[row + WIDEN] += g * by[q][1];
      slopes[row + OPEN] += g * by[q][2];
      slopes[row + VEIL + q] = g * by[q][3];
      slopes[row + GAIN + q] = g * by[q][4];
    }
    slopes[row + SATURATION] = s * (y[c] - luma);
  }
}

/**
 * Difference of a colour from the truth, roughly a hundredth of CIEDE2000, with its gradient (`by`). As there, chroma
 * differences count less at high chroma.
 */
export function difference(out: readonly number[], truth: ArrayLike<number>, at: number, by: number[]): number {
  const d = [0, 1, 2].map((c) => Math.min(1, Math.max(0, out[c])) - truth[at + c]);
  const luma = LUMA[0] * truth[at] + LUMA[1] * truth[at + 1] + LUMA[2] * truth[at + 2];
  const chroma = Math.hypot(1.1 * (truth[at] - truth[at + 1]), 0.7 * (truth[at + 2] - luma));
  const scale = 1 / (1 + 4.5 * chroma);
  const dl = LUMA[0] * d[0] + LUMA[1] * d[1] + LUMA[2] * d[2];
  const da = 1.5 * scale * (d[0] - d[1]);
  const db = 0.8 * scale * (d[2] - (d[0] + d[1]) / 2);
  const e = Math.sqrt(dl * dl + da * da + db * db + 1e-6);
  for (let c = 0; c < 3; c += 1) {
    const [a, b] = [
      [1.5, -0.8 / 2],
      [-1.5, -0.8 / 2],
      [0, 0.8],
    ][c];
    by[c] = (dl * LUMA[c] + scale * (da * a + db * b)) / e;
    // Clipping has no gradient: a small one leads back.
    if (out[c] < 0) by[c] = -0.3;
    if (out[c] > 1) by[c] = 0.3;
  }
  return e;
}

/** Weight of mean chroma relative to the difference of single colours. */
const CHROMA_WEIGHT = 0.03;

/**
 * Chroma term of a picture's loss: the mean difference alone favours grey for uncertain colours, but greyish pictures
 * are undesirable. Squared log ratio of mean chroma to the truth's. Takes colours of a picture and their truths, three
 * numbers each; adds the gradient to `by`.
 */
export function chromaLoss(out: Float64Array, truth: Float64Array, by: Float64Array): number {
  const count = out.length / 3;
  const chroma = (v: Float64Array, i: number): [a: number, b: number, size: number] => {
    const a = 1.5 * (v[i] - v[i + 1]);
    const b = 0.8 * (v[i + 2] - (v[i] + v[i + 1]) / 2);
    return [a, b, Math.sqrt(a * a + b * b + 1e-5)];
  };
  let [own, wanted] = [0, 0];
  for (let i = 0; i < out.length; i += 3) {
    own += chroma(out, i)[2] / count;
    wanted += chroma(truth, i)[2] / count;
  }
  const off = Math.log((own + 0.01) / (wanted + 0.01));
  const slope = (2 * CHROMA_WEIGHT * off) / (own + 0.01) / count;
  for (let i = 0; i < out.length; i += 3) {
    const [a, b, size] = chroma(out, i);
    by[i] += (slope * (1.5 * a - 0.4 * b)) / size;
    by[i + 1] += (slope * (-1.5 * a - 0.4 * b)) / size;
    by[i + 2] += (slope * 0.8 * b) / size;
  }
  return CHROMA_WEIGHT * off * off;
}
