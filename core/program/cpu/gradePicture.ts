import { LUMA } from '../../colour/ycbcr';
import { downsample, type SumCells } from '../../fields/smallPicture';
import { type Table } from '../bake';
import { bakeOps, single, type Baked } from '../baked';
import type { Program } from '../compile';
import { planesOf, seesFrame, unseenPlanes } from '../planes';
import { RowGrader } from './rowGrader';
import { RowReader, RowWriter, type PlanarPicture } from './planar';

/** Bakes a program for one frame: tables with `size` nodes per edge, and the frame's planes. */
export const bakeFor = (program: Program, picture: PlanarPicture, size: number): Baked => ({
  ops: bakeOps(program, size),
  planes: planesFor(program, picture),
});

/** The planes of a program for one frame. `sum`: as for `downsample`. */
export function planesFor(
  program: Pick<Program, 'ops' | 'planes'>,
  picture: PlanarPicture,
  sum?: SumCells,
): Baked['planes'] {
  // Averaging a large frame takes as long as applying a table.
  const { width, height } = picture.format;
  if (!seesFrame(program)) return unseenPlanes(program, width / height);
  return planesOf(program, downsample(picture, sum));
}

/**
 * Grades a planar picture into another of the same size, row by row. Output is clipped once, to 0–1, and dithered where
 * the depth is reduced. Rows `from` (even, inclusive) to `to` (exclusive).
 */
export function gradePicture(
  grade: Baked | Table,
  input: PlanarPicture,
  output: PlanarPicture,
  from = 0,
  to = input.format.height,
): void {
  const { width, height, matrix } = input.format;
  if (output.format.width !== width || output.format.height !== height) {
    throw new RangeError('The graded picture must be as large as the picture it comes from.');
  }
  const reader = new RowReader(input);
  const writer = new RowWriter(output, output.format.depth < input.format.depth);
  const read = (y: number, line: Float32Array): void => reader.read(y, line);
  const grader = new RowGrader('ops' in grade ? grade : single(grade), width, height, LUMA[matrix], read);
  const line = new Float32Array(width * 3);
  for (let y = from; y < to; y += 1) {
    grader.grade(y, line);
    writer.write(y, line);
  }
}

/** The whole picture as encoded R'G'B' (width × height × 3, not clipped), graded or, without ops, as recorded. */
export function pictureToRgb(grade: Baked | Table | undefined, input: PlanarPicture): Float32Array {
  const { width, height, matrix } = input.format;
  const out = new Float32Array(width * height * 3);
  const reader = new RowReader(input);
  const baked = grade && ('ops' in grade ? grade : single(grade));
  const read = (y: number, line: Float32Array): void => reader.read(y, line);
  const grader = baked && baked.ops.length > 0 ? new RowGrader(baked, width, height, LUMA[matrix], read) : undefined;
  for (let y = 0; y < height; y += 1) {
    const line = out.subarray(y * width * 3, (y + 1) * width * 3);
    if (grader) grader.grade(y, line);
    else read(y, line);
  }
  return out;
}

/** Copies a picture bit for bit into one of the same format. */
export function copyPicture(input: PlanarPicture, output: PlanarPicture): void {
  output.y.set(input.y);
  output.cb.set(input.cb);
  output.cr.set(input.cr);
}
