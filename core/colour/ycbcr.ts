import type { Vec3 } from './matrix';

/** Luma coefficients by matrix name. */
export const LUMA = {
  /** ITU-R BT.709-6 */
  bt709: [0.2126, 0.7152, 0.0722],
  /** ITU-R BT.2020-2, non-constant luminance */
  bt2020: [0.2627, 0.678, 0.0593],
  /** ITU-R BT.601-7 */
  bt601: [0.299, 0.587, 0.114],
} as const satisfies Record<string, Vec3>;

export type MatrixName = keyof typeof LUMA;
export type RangeName = 'limited' | 'full';

/** Scale and offset of code values against Y' (0–1) and Cb, Cr (−0.5–0.5). */
export interface CodeScale {
  yOffset: number;
  yScale: number;
  cOffset: number;
  cScale: number;
  /** Highest code value. */
  max: number;
}

/** Scale of code values at `depth` bits: BT.709-6 item 5 for limited range, BT.2100 table 9 for full range. */
export function codeScale(depth: number, range: RangeName): CodeScale {
  const unit = 2 ** (depth - 8);
  const max = 2 ** depth - 1;
  return range === 'limited'
    ? { yOffset: 16 * unit, yScale: 219 * unit, cOffset: 128 * unit, cScale: 224 * unit, max }
    : { yOffset: 0, yScale: max, cOffset: 128 * unit, cScale: max, max };
}

/** The four numbers of the inverse matrix: R' = Y + rv·Cr; G' = Y + gu·Cb + gv·Cr; B' = Y + bu·Cb. */
export function inverseMatrix(name: MatrixName): { rv: number; gu: number; gv: number; bu: number } {
  const [kr, kg, kb] = LUMA[name];
  return {
    rv: 2 * (1 - kr),
    gu: (-2 * kb * (1 - kb)) / kg,
    gv: (-2 * kr * (1 - kr)) / kg,
    bu: 2 * (1 - kb),
  };
}

/** Y' (0–1), Cb, Cr (−0.5–0.5) to R'G'B'. */
export function ycbcrToRgb([y, cb, cr]: Readonly<Vec3>, name: MatrixName): Vec3 {
  const m = inverseMatrix(name);
  return [y + m.rv * cr, y + m.gu * cb + m.gv * cr, y + m.bu * cb];
}

/** R'G'B' to Y' (0–1), Cb, Cr (−0.5–0.5). */
export function rgbToYcbcr([r, g, b]: Readonly<Vec3>, name: MatrixName): Vec3 {
  const [kr, kg, kb] = LUMA[name];
  const y = kr * r + kg * g + kb * b;
  return [y, (b - y) / (2 * (1 - kb)), (r - y) / (2 * (1 - kr))];
}

/** Luma of encoded BT.709 values. */
export const luma709 = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;
