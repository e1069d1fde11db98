import type { Vec3 } from '../colour/matrix';
import { codeScale, inverseMatrix, LUMA, luma709 } from '../colour/ycbcr';
import type { Step } from '../model/grade';
import type { NoiseLevel } from '../noise/level';
import { compile } from '../program/compile';
import type { PlanarFormat } from '../program/cpu/planar';
import { evaluate } from '../program/evaluate';
import { planesOf, smallValues } from '../program/planes';
import { sourceNoise } from '../program/source';
import type { ClipFrame } from './firstPass';
import { noiseIn, noiseThrough, type NoiseCovariance } from './noise';
import { median } from './readFrames';

/** Number of cells of a frame for which noise is predicted, and the step for numerical derivatives. */
const NOISE_CELLS = 60;
const NUDGE = 0.004;

/** Derivatives of graded cells with respect to each channel of the recording, for cells spread over a frame. */
interface CellSlopes {
  /** The file's R'G'B'. */
  code: Vec3;
  /** Per channel of the recording: change of the encoded result over change of that channel. */
  slopes: [Vec3, Vec3, Vec3];
}

function cellSlopes(frame: ClipFrame, steps: readonly Step[]): CellSlopes[] {
  const { code, luma } = frame.small;
  const program = compile(steps, frame.seconds);
  const planes = planesOf(program, frame.small).map((m) => (m ? smallValues(m, frame.small) : null));
  return Array.from({ length: NOISE_CELLS }, (_, k) => {
    const i = Math.floor(((k + 0.5) * luma.length) / NOISE_CELLS);
    const own = [0, 1, 2].map((c) => code[3 * i + c]) as Vec3;
    const values = planes.map((v) => v?.[i] ?? 0);
    const base = evaluate(program, own, false, values);
    const slopes = [0, 1, 2].map((c) => {
      const moved = evaluate(program, own.map((v, q) => v + (q === c ? NUDGE : 0)) as Vec3, false, values);
      return moved.map((v, q) => (v - base[q]) / NUDGE) as Vec3;
    }) as CellSlopes['slopes'];
    return { code: own, slopes };
  });
}

/** Noise of red and blue after steps, relative to green's before: median over cells of a frame. */
export function noiseAfter(
  frame: ClipFrame,
  steps: readonly Step[],
  covariance: NoiseCovariance,
): { red: number; blue: number } {
  const before = noiseIn(covariance, 1);
  if (before === 0) return { red: 1, blue: 1 };
  const cells = cellSlopes(frame, steps);
  const through = (c: 0 | 2): number =>
    median(cells.map(({ slopes }) => noiseThrough(covariance, slopes.map((s) => s[c]) as Vec3) / before));
  return { red: through(0), blue: through(2) };
}

/** Typical standard deviations of a frame's noise after steps, in encoded values (0–1). */
export interface PredictedNoise {
  /** Of luma. */
  light: number;
  /** Of the colour without luma: the root of the sum of the channels' variances. */
  colour: number;
  red: number;
  green: number;
  blue: number;
}

/** Standard deviation in 8-bit code values, to a tenth. */
export const inCodeValues = (v: number): string => (255 * v).toFixed(1);

/** The noise level in words. */
export const noiseInWords = ({ light, colour }: PredictedNoise): string =>
  `${inCodeValues(light)} of 255 in the light and ${inCodeValues(colour)} in the colour`;

/**
 * What temporal noise reduction leaves at full amount: 7 dB are removed (moving scenes with known truth, noise of 4 and
 * 9 code values; `noise.test.ts`).
 */
const LEFT = 10 ** (-7 / 20);

/**
 * Share of the variance of chroma noise that remains after linear upsampling from half size: with samples on every
 * second pixel, the mean of 1 and ½; for centred ones, (¾)² + (¼)².
 */
const [ON, BETWEEN] = [0.75, 0.625];

function interpolated({ chroma, chromaSite }: PlanarFormat): number {
  const across = chromaSite === 'center' ? BETWEEN : ON;
  return chroma === '444' ? 1 : chroma === '422' ? across : across * BETWEEN;
}

/** Noise covariance of red, green and blue of a recording where its luma is `y8` (0–255). */
function covarianceAt(level: NoiseLevel, y8: number, format: PlanarFormat): NoiseCovariance {
  const { depth, range, matrix } = format;
  const { yScale, cScale } = codeScale(depth, range);
  const { rv, gu, gv, bu } = inverseMatrix(matrix);
  const at = Math.min(255, Math.max(0, Math.round(y8)));
  const luma = level.luma[at] / yScale ** 2;
  const chroma = (interpolated(format) * level.chroma[at]) / cScale ** 2;
  const ofCb = [0, gu, bu];
  const ofCr = [rv, gv, 0];
  return Array.from({ length: 9 }, (_, k) => {
    const [i, j] = [Math.floor(k / 3), k % 3];
    return luma + chroma * (ofCb[i] * ofCb[j] + ofCr[i] * ofCr[j]);
  });
}

/**
 * Predicts the noise of a frame after steps from the recording's measured noise (`core/noise`) and the steps'
 * derivatives: first order, per pixel; effects between neighbouring pixels are ignored. Medians over the frame.
 */
export function noiseSeen(
  frame: ClipFrame,
  steps: readonly Step[],
  level: NoiseLevel,
  format: PlanarFormat,
): PredictedNoise {
  const taken = sourceNoise(steps, frame.seconds) ?? { luma: 0, chroma: 0 };
  const left = (amount: number): number => 1 - (1 - LEFT) * Math.min(1, amount);
  const own: NoiseLevel = {
    luma: level.luma.map((v) => v * left(taken.luma) ** 2),
    chroma: level.chroma.map((v) => v * left(taken.chroma) ** 2),
  };
  const { yOffset, yScale } = codeScale(8, format.range);
  const [kr, kg, kb] = LUMA[format.matrix];
  const cells = cellSlopes(frame, steps).map(({ code: [r, g, b], slopes }) => {
    const covariance = covarianceAt(own, yOffset + yScale * (kr * r + kg * g + kb * b), format);
    const through = (of: (slope: Vec3) => number): number => noiseThrough(covariance, slopes.map(of) as Vec3);
    const light = (s: Vec3): number => luma709(...s);
    const apart = [0, 1, 2].map((c) => through((s) => s[c] - light(s)));
    return {
      light: through(light),
      colour: Math.hypot(...apart),
      red: through((s) => s[0]),
      green: through((s) => s[1]),
      blue: through((s) => s[2]),
    };
  });
  const typical = (key: keyof PredictedNoise): number => median(cells.map((c) => c[key]));
  return {
    light: typical('light'),
    colour: typical('colour'),
    red: typical('red'),
    green: typical('green'),
    blue: typical('blue'),
  };
}
