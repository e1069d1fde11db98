import { LUMA } from '../../colour/ycbcr';
import type { Vec3 } from '../../colour/matrix';
import { mapRow } from '../../fields/map';
import { shrink } from '../../fields/smallPicture';
import { bake, lookUp, lookUpAt, type Table } from '../bake';
import type { Program } from '../compile';
import { mapsOf, type Maps } from '../maps';
import { RowReader, RowWriter, type PlanarPicture } from './planar';

/** The tables of a program, and its maps of the frame that they are used on. */
export interface Baked {
  tables: readonly Table[];
  maps: Maps;
}

/** Bakes a program for one frame: tables with `size` nodes an edge, and the frame's maps. */
export const bakeFor = (program: Program, picture: PlanarPicture, size: number): Baked => ({
  tables: program.passes.map((pass) => bake(pass, size)),
  maps: program.passes.some((p) => p.field) ? mapsOf(program, shrink(picture)) : program.passes.map(() => null),
});

const single = (table: Table): Baked => ({ tables: [table], maps: [null] });

/** Takes rows of R'G'B' through tables; every row has its place in the maps. */
class RowGrader {
  private readonly luma: Float32Array;
  private readonly values: Float32Array[];

  constructor(
    private readonly baked: Baked,
    private readonly width: number,
    private readonly weights: Readonly<Vec3>,
  ) {
    this.luma = new Float32Array(width);
    this.values = baked.tables.map(() => new Float32Array(width));
  }

  grade(y: number, line: Float32Array): void {
    const { tables, maps } = this.baked;
    const { luma, values, weights } = this;
    if (maps.some(Boolean))
      for (let x = 0, o = 0; x < this.width; x += 1, o += 3)
        luma[x] = weights[0] * line[o] + weights[1] * line[o + 1] + weights[2] * line[o + 2];
    tables.forEach((table, k) => {
      const map = maps[k];
      if (!map) {
        for (let o = 0; o < line.length; o += 3) lookUp(table, line[o], line[o + 1], line[o + 2], line, o);
        return;
      }
      const at = values[k];
      mapRow(map, y, luma, at);
      for (let x = 0, o = 0; o < line.length; x += 1, o += 3)
        lookUpAt(table, at[x], line[o], line[o + 1], line[o + 2], line, o);
    });
  }
}

/**
 * Takes a planar picture through tables into another planar picture of the same size, row by row. The written picture
 * is clipped once, to 0–1. Rows from `from` (even) up to, not with, `to`.
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
  const writer = new RowWriter(output);
  const grader = new RowGrader('tables' in grade ? grade : single(grade), width, LUMA[matrix]);
  const line = new Float32Array(width * 3);
  for (let y = from; y < to; y += 1) {
    reader.read(y, line);
    grader.grade(y, line);
    writer.write(y, line);
  }
}

/**
 * The whole picture as encoded R'G'B' (width × height × 3, not clipped), through tables or, without any, as recorded.
 */
export function pictureToRgb(grade: Baked | Table | undefined, input: PlanarPicture): Float32Array {
  const { width, height, matrix } = input.format;
  const out = new Float32Array(width * height * 3);
  const reader = new RowReader(input);
  const baked = grade && ('tables' in grade ? grade : single(grade));
  const grader = baked && baked.tables.length > 0 ? new RowGrader(baked, width, LUMA[matrix]) : undefined;
  for (let y = 0; y < height; y += 1) {
    const line = out.subarray(y * width * 3, (y + 1) * width * 3);
    reader.read(y, line);
    grader?.grade(y, line);
  }
  return out;
}

/** Copies a picture bit for bit into one of the same format. */
export function copyPicture(input: PlanarPicture, output: PlanarPicture): void {
  output.y.set(input.y);
  output.cb.set(input.cb);
  output.cr.set(input.cr);
}
