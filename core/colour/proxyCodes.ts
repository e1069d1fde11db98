import { invert, multiply, transform, type Mat3, type Vec3 } from './matrix';
import { codeScale, inverseMatrix, LUMA, rgbToYcbcr, type MatrixName, type RangeName } from './ycbcr';

/**
 * How a proxy encodes the code values of its file, and how a browser decodes them.
 *
 * The file's full range of 8-bit code values (0–255) is scaled into 16–235 in the proxy (chroma: 16–240), tagged as
 * full-range BT.709. A browser that ignores the tag and assumes limited range therefore expands the values but clips
 * none. Two of the three engines tried do so (measured with a chart of 256 patches: Gecko 153 and WebKitGTK 2.50, off
 * by up to 19 of 255; Blink by less than 1). The page detects which by measuring the chart below.
 */

/** Incremented when proxies encode their values differently; older proxies are then regenerated. */
export const PROXY_VERSION = 2;

const CARRIED = codeScale(8, 'limited');
const FULL = codeScale(8, 'full');

/** Code values (Y, Cb, Cr; 0–255) as a proxy carries them. */
export const carry = ([y, cb, cr]: Readonly<Vec3>): Vec3 => [
  CARRIED.yOffset + (y * CARRIED.yScale) / FULL.yScale,
  ...([cb, cr].map((c) => CARRIED.cOffset + ((c - FULL.cOffset) * CARRIED.cScale) / FULL.cScale) as [number, number]),
];

/**
 * Maps what a browser shows (R, G, B; 0–255) to the file's code values (Y, Cb, Cr; 0–255): `matrix` · rgb + `offset`.
 */
export interface ShownCodes {
  matrix: Mat3;
  offset: Vec3;
}

/** For a browser that honours the tag. */
export const AS_LABELLED: ShownCodes = (() => {
  const [kr, kg, kb] = LUMA.bt709;
  const [y, c] = [FULL.yScale / CARRIED.yScale, FULL.cScale / CARRIED.cScale];
  const [b, r] = [c / (2 * (1 - kb)), c / (2 * (1 - kr))];
  return {
    matrix: [kr * y, kg * y, kb * y, -kr * b, -kg * b, (1 - kb) * b, (1 - kr) * r, -kg * r, -kb * r],
    offset: [-CARRIED.yOffset * y, FULL.cOffset, FULL.cOffset],
  };
})();

/** Patches of the chart, across and down. */
export const CHART_COLUMNS = 8;
export const CHART_ROWS = 4;

/**
 * The code values (Y, Cb, Cr; 0–255, integers) of the chart's patches, row by row: all mixtures of three levels of red,
 * green and blue, and greys in between. All lie within the limited range, so that no browser clips them.
 */
export const CHART: readonly Vec3[] = (() => {
  const amounts = [0.15, 0.5, 0.8];
  const mixed = amounts.flatMap((r) => amounts.flatMap((g) => amounts.map((b): Vec3 => [r, g, b])));
  const greys = [0.1, 0.25, 0.35, 0.65, 0.9].map((v): Vec3 => [v, v, v]);
  return [...mixed, ...greys].map((rgb) => {
    const [y, cb, cr] = rgbToYcbcr(rgb, 'bt709');
    return [y * FULL.yScale, cb * FULL.cScale + FULL.cOffset, cr * FULL.cScale + FULL.cOffset].map(Math.round) as Vec3;
  });
})();

const meanOf = (some: readonly Readonly<Vec3>[]): Vec3 =>
  [0, 1, 2].map((c) => some.reduce((sum, v) => sum + v[c], 0) / some.length) as Vec3;
const minus = (a: Readonly<Vec3>, b: Readonly<Vec3>): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
/** Σ a·bᵀ. */
const products = (a: readonly Vec3[], b: readonly Vec3[]): Mat3 => {
  const of = (i: number, j: number): number => a.reduce((sum, v, n) => sum + v[i] * b[n][j], 0);
  return [of(0, 0), of(0, 1), of(0, 2), of(1, 0), of(1, 1), of(1, 2), of(2, 0), of(2, 1), of(2, 2)];
};

/** The file's code values of a colour that a browser shows (R, G, B; 0–255). */
export function codesOf({ matrix, offset }: ShownCodes, rgb: Readonly<Vec3>): Vec3 {
  const [y, cb, cr] = transform(matrix, rgb);
  return [y + offset[0], cb + offset[1], cr + offset[2]];
}

/** Maximum error of the chart's codes, in 8-bit steps. */
export const chartOff = (shown: readonly Readonly<Vec3>[], codes: ShownCodes): number =>
  Math.max(...shown.map((rgb, i) => Math.max(...minus(codesOf(codes, rgb), CHART[i]).map(Math.abs))));

/**
 * Tolerance, in 8-bit steps, within which a browser's decoding counts as the assumed one. Blink stays below 1 (rounding
 * of R'G'B', from which luma and chroma are recomputed); browsers that assume another range are off by 10 and more.
 */
const CLOSE = 2;

/**
 * Identifies how a browser decodes proxies from the colours (R, G, B; 0–255) it shows for {@link CHART}: the tagged
 * decoding where that fits, else a least-squares fit. Null where no affine map fits, so no reading of the tag explains
 * it.
 */
export function fitShownCodes(shown: readonly Readonly<Vec3>[]): ShownCodes | null {
  if (chartOff(shown, AS_LABELLED) <= CLOSE) return AS_LABELLED;
  const [from, to] = [meanOf(shown), meanOf(CHART)];
  const [a, b] = [shown.map((v) => minus(v, from)), CHART.map((v) => minus(v, to))];
  let matrix: Mat3;
  try {
    matrix = multiply(products(b, a), invert(products(a, a)));
  } catch {
    return null;
  }
  const codes = { matrix, offset: minus(to, transform(matrix, from)) };
  return chartOff(shown, codes) <= 2 * CLOSE ? codes : null;
}

/**
 * Maps what a browser shows (R, G, B; 0–255) to R'G'B' of a file with this range and matrix: per output channel, three
 * factors and an offset.
 */
export function shownToFile(codes: ShownCodes, { range, matrix }: { range: RangeName; matrix: MatrixName }): number[] {
  const { yOffset, yScale, cOffset, cScale } = codeScale(8, range);
  const m = inverseMatrix(matrix);
  const file = (rgb: Vec3): Vec3 => {
    const [y, cb, cr] = codesOf(codes, rgb);
    const [l, u, v] = [(y - yOffset) / yScale, (cb - cOffset) / cScale, (cr - cOffset) / cScale];
    return [l + m.rv * v, l + m.gu * u + m.gv * v, l + m.bu * u];
  };
  const black = file([0, 0, 0]);
  const [r, g, b] = [file([1, 0, 0]), file([0, 1, 0]), file([0, 0, 1])];
  return [0, 1, 2].flatMap((c) => [r[c] - black[c], g[c] - black[c], b[c] - black[c], black[c]]);
}
