import type { Vec3 } from '../colour/matrix';
import { codeScale, inverseMatrix } from '../colour/ycbcr';
import { chromaHeight, chromaWidth, type PlanarPicture, type Samples } from '../program/cpu/planar';

/** Maximum number of cells along the longer edge. */
export const SMALL_EDGE = 256;

/** A frame downsampled by averaging over square cells: the input of maps and of readings of a whole clip. */
export interface SmallPicture {
  width: number;
  height: number;
  /** The frame's size in cells, fractional because cells at the right and lower edge may be truncated. */
  cells: readonly [across: number, down: number];
  /** The file's R'G'B' (0 = reference black, 1 = reference white), width × height × 3. */
  code: Float32Array;
  /** Luma Y' by the file's own matrix, width × height. */
  luma: Float32Array;
}

/**
 * Sums a row of cells: rows `from` (inclusive) to `to` (exclusive) of a plane `w` samples wide, in cells of this many
 * samples. The last cell may be truncated. The result is valid until the next call.
 */
export type SumCells = (
  plane: Samples,
  w: number,
  from: number,
  to: number,
  across: number,
  columns: number,
) => ArrayLike<number>;

const sumCells: SumCells = (plane, w, from, to, across, columns) => {
  const sums = new Float64Array(columns);
  for (let y = from; y < to; y += 1) {
    let at = y * w;
    for (let column = 0; column < columns; column += 1) {
      const end = y * w + Math.min(w, (column + 1) * across);
      let sum = 0;
      for (; at < end; at += 1) sum += plane[at];
      sums[column] += sum;
    }
  }
  return sums;
};

/** Means over cells of this many samples across and down; truncated at the right and lower edge. */
function averagePlane(
  plane: Samples,
  [w, h]: readonly [number, number],
  [across, down]: readonly [number, number],
  [columns, rows]: readonly [number, number],
  sum: SumCells,
): Float32Array {
  const out = new Float32Array(columns * rows);
  for (let row = 0, i = 0; row < rows; row += 1) {
    const [top, bottom] = [Math.min(h, row * down), Math.min(h, (row + 1) * down)];
    const sums = sum(plane, w, top, bottom, across, columns);
    for (let column = 0; column < columns; column += 1, i += 1) {
      const wide = Math.min(w, (column + 1) * across) - Math.min(w, column * across);
      out[i] = sums[column] / Math.max(1, (bottom - top) * wide);
    }
  }
  return out;
}

/** Edge of a cell in pixels for a frame of this size. Even, so that cells align with subsampled chroma. */
export function cellOf(width: number, height: number): number {
  const cell = Math.ceil(Math.max(width, height) / SMALL_EDGE);
  return cell > 1 ? cell + (cell % 2) : 1;
}

/**
 * Averages a planar picture over cells. Code values are averaged; the matrix to R'G'B' is linear, so the order does not
 * matter. `sum`: a faster implementation of the row sums.
 */
export function downsample(picture: PlanarPicture, sum: SumCells = sumCells): SmallPicture {
  const { format } = picture;
  const { width: w, height: h } = format;
  const cell = cellOf(w, h);
  const [width, height] = [Math.ceil(w / cell), Math.ceil(h / cell)];
  const cells = [width, height] as const;
  const y = averagePlane(picture.y, [w, h], [cell, cell], cells, sum);
  const [cw, ch] = [chromaWidth(format), chromaHeight(format)];
  // A plane with half the samples has cells of half the size; where a cell is a single pixel, samples are repeated.
  const across = cw < w ? 2 : 1;
  const down = ch < h ? 2 : 1;
  const [u, v] = [picture.cb, picture.cr].map((plane) =>
    cell === 1 ? plane : averagePlane(plane, [cw, ch], [cell / across, cell / down], cells, sum),
  );
  const s = codeScale(format.depth, format.range);
  const m = inverseMatrix(format.matrix);
  const code = new Float32Array(width * height * 3);
  const luma = new Float32Array(width * height);
  for (let i = 0; i < width * height; i += 1) {
    const j = cell > 1 ? i : Math.floor(i / width / down) * cw + Math.floor((i % width) / across);
    const l = (y[i] - s.yOffset) / s.yScale;
    const cb = (u[j] - s.cOffset) / s.cScale;
    const cr = (v[j] - s.cOffset) / s.cScale;
    luma[i] = l;
    code[3 * i] = l + m.rv * cr;
    code[3 * i + 1] = l + m.gu * cb + m.gv * cr;
    code[3 * i + 2] = l + m.bu * cb;
  }
  return { width, height, cells: [w / cell, h / cell], code, luma };
}

/**
 * The small picture of a frame of this size, given the R'G'B' of its cells: `code` of {@link downsample}. `weights`: of the
 * file's luma. Throws a RangeError when the number of cells does not match the size.
 */
export function smallFrom(
  code: Float32Array,
  { width: w, height: h }: { width: number; height: number },
  [r, g, b]: Readonly<Vec3>,
): SmallPicture {
  const cell = cellOf(w, h);
  const [width, height] = [Math.ceil(w / cell), Math.ceil(h / cell)];
  if (code.length !== 3 * width * height)
    throw new RangeError(`A frame of ${w} × ${h} has ${width} × ${height} cells.`);
  const luma = new Float32Array(width * height).map(
    (_, i) => r * code[3 * i] + g * code[3 * i + 1] + b * code[3 * i + 2],
  );
  return { width, height, cells: [w / cell, h / cell], code, luma };
}
