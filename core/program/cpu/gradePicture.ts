import { lookUp, type Table } from '../bake';
import { RowReader, RowWriter, type PlanarPicture } from './planar';

/**
 * Takes a planar picture through a table into another planar picture of the same size, in one pass, row by row.
 * The written picture is clipped once, to 0–1. Rows from `from` (even) up to, not with, `to`.
 */
export function gradePicture(
  table: Table,
  input: PlanarPicture,
  output: PlanarPicture,
  from = 0,
  to = input.format.height,
): void {
  const { width, height } = input.format;
  if (output.format.width !== width || output.format.height !== height) {
    throw new RangeError('The graded picture must be as large as the picture it comes from.');
  }
  const reader = new RowReader(input);
  const writer = new RowWriter(output);
  const line = new Float32Array(width * 3);
  for (let y = from; y < to; y += 1) {
    reader.read(y, line);
    for (let o = 0; o < line.length; o += 3) lookUp(table, line[o], line[o + 1], line[o + 2], line, o);
    writer.write(y, line);
  }
}

/**
 * The whole picture as encoded R'G'B' (width × height × 3, not clipped), through a table or, without one, as recorded.
 */
export function pictureToRgb(table: Table | undefined, input: PlanarPicture): Float32Array {
  const { width, height } = input.format;
  const out = new Float32Array(width * height * 3);
  const reader = new RowReader(input);
  for (let y = 0; y < height; y += 1) {
    const line = out.subarray(y * width * 3, (y + 1) * width * 3);
    reader.read(y, line);
    if (table) for (let o = 0; o < line.length; o += 3) lookUp(table, line[o], line[o + 1], line[o + 2], line, o);
  }
  return out;
}

/** Copies a picture bit for bit into one of the same format. */
export function copyPicture(input: PlanarPicture, output: PlanarPicture): void {
  output.y.set(input.y);
  output.cb.set(input.cb);
  output.cr.set(input.cr);
}
