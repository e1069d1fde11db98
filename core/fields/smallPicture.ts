import type { Vec3 } from '../colour/matrix';
import { codeScale, inverseMatrix } from '../colour/ycbcr';
import { chromaHeight, chromaWidth, type PlanarPicture, type Samples } from '../program/cpu/planar';

/** Cells along the longer edge of a small picture, at most. */
export const SMALL_EDGE = 256;

/** A frame averaged over square cells: what maps and readings of a whole clip are made from. */
export interface SmallPicture {
  width: number;
  height: number;
  /** The frame's size in cells: cells at the right and lower edge may be cut off, so it is no whole number. */
  cells: readonly [across: number, down: number];
  /** The file's R'G'B' (0 = reference black, 1 = reference white), width × height × 3. */
  code: Float32Array;
  /** Luma Y' by the file's own matrix, width × height. */
  luma: Float32Array;
}

function averagePlane(plane: Samples, w: number, h: number, cell: number, columns: number, rows: number): Float32Array {
  const sums = new Float64Array(columns);
  const out = new Float32Array(columns * rows);
  for (let row = 0; row < rows; row += 1) {
    sums.fill(0);
    const [from, to] = [row * cell, Math.min(h, (row + 1) * cell)];
    for (let y = from; y < to; y += 1) {
      let at = y * w;
      for (let c = 0; c < columns; c += 1) {
        const end = y * w + Math.min(w, (c + 1) * cell);
        let sum = 0;
        for (; at < end; at += 1) sum += plane[at];
        sums[c] += sum;
      }
    }
    for (let c = 0; c < columns; c += 1)
      out[row * columns + c] = sums[c] / ((to - from) * (Math.min(w, (c + 1) * cell) - c * cell));
  }
  return out;
}

/** Pixels an edge of a cell, for a frame of this size. Even, so that chroma samples have a cell of their own. */
export function cellOf(width: number, height: number): number {
  const cell = Math.ceil(Math.max(width, height) / SMALL_EDGE);
  return cell > 1 ? cell + (cell % 2) : 1;
}

/** Averages a planar picture over cells. Averages of code values: the matrix to R'G'B' changes nothing about them. */
export function shrink(picture: PlanarPicture): SmallPicture {
  const { format } = picture;
  const { width: w, height: h } = format;
  const cell = cellOf(w, h);
  const [width, height] = [Math.ceil(w / cell), Math.ceil(h / cell)];
  const y = averagePlane(picture.y, w, h, cell, width, height);
  const [cw, ch] = [chromaWidth(format), chromaHeight(format)];
  // A plane with half the samples has cells of half the size; where a cell is one pixel, samples are held.
  const across = cw < w ? 2 : 1;
  const down = ch < h ? 2 : 1;
  const [u, v] = [picture.cb, picture.cr].map((plane) => {
    if (cell === 1) return plane;
    return across === down
      ? averagePlane(plane, cw, ch, cell / across, width, height)
      : averageUneven(plane, cw, ch, cell / across, cell / down, width, height);
  });
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
 * The small picture of a frame of so many pixels, given the R'G'B' of its cells: `code` of {@link shrink}. `weights`: of the
 * file's luma. Throws a RangeError when the cells are not those of such a frame.
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

function averageUneven(
  plane: Samples,
  w: number,
  h: number,
  across: number,
  down: number,
  columns: number,
  rows: number,
): Float32Array {
  const out = new Float32Array(columns * rows);
  for (let row = 0; row < rows; row += 1)
    for (let c = 0; c < columns; c += 1) {
      let sum = 0;
      let count = 0;
      for (let y = row * down; y < Math.min(h, (row + 1) * down); y += 1)
        for (let x = c * across; x < Math.min(w, (c + 1) * across); x += 1, count += 1) sum += plane[y * w + x];
      out[row * columns + c] = sum / Math.max(1, count);
    }
  return out;
}
