import { decode709, encode709 } from '../colour/transferTables';
import type { Vec3 } from '../colour/matrix';
import { cleaned } from '../regions/clean';
import { amountOf } from '../regions/region';
import { stepKind, type PointFn } from '../steps';
import { bake, lookUp, type Table } from './bake';
import type { Mix, Program } from './compile';
import { planeRow, type Planes } from './planes';

/** An op made ready for a backend, plain data: a table, or a spatial step with its resolved parameters. */
export type BakedOp = BakedTable | BakedPoint;

export interface BakedTable {
  kind: 'table';
  table: Table;
  /** A file's own table: what its mix takes from the colour was carried by the table before it. */
  own?: true;
  mix?: Mix;
}

export interface BakedPoint {
  kind: 'point';
  step: string;
  params: object;
  plane: number;
  mix?: Mix;
}

/** Ops made ready, and the planes of the frame that they are used on. */
export interface Baked {
  ops: readonly BakedOp[];
  planes: Planes;
}

/** Makes the ops of a program ready, with tables of `size` nodes an edge. */
export const bakeOps = (program: Program, size: number): BakedOp[] =>
  program.ops.map((op) => {
    const mix = op.mix && { mix: op.mix };
    return op.kind === 'table'
      ? { kind: 'table', table: bake(op, size), ...(op.own ? { own: true } : {}), ...mix }
      : { kind: 'point', step: op.step, params: op.params, plane: op.plane, ...mix };
  });

/** Whether planes of these ops may depend on what is in the frame. */
export const readsFrame = (ops: readonly BakedOp[]): boolean =>
  ops.some((op) => op.kind === 'point' || op.mix?.clean !== undefined);

/** One table as all there is. */
export const single = (table: Table): Baked => ({ ops: [{ kind: 'table', table }], planes: [] });

/** Takes rows of a picture through ops. One of these for one frame. */
export class RowGrader {
  private readonly luma: Float32Array;
  private readonly share: Float32Array;
  private readonly before: Float32Array;
  /** Each plane's row. */
  private readonly values: Float32Array[];

  /** `weights`: luma weights of the file. `height`: rows of the picture. */
  constructor(
    private readonly baked: Baked,
    private readonly width: number,
    private readonly height: number,
    private readonly weights: Readonly<Vec3>,
  ) {
    this.luma = new Float32Array(width);
    this.share = new Float32Array(width);
    this.before = new Float32Array(3 * width);
    this.values = baked.planes.map(() => new Float32Array(width));
  }

  /** `line`: the file's R'G'B', width × 3, becomes encoded output. */
  grade(y: number, line: Float32Array): void {
    const { ops, planes } = this.baked;
    const { luma, weights, width, share, values, before } = this;
    if (planes.some(Boolean))
      for (let x = 0, o = 0; x < width; x += 1, o += 3)
        luma[x] = weights[0] * line[o] + weights[1] * line[o + 1] + weights[2] * line[o + 2];
    planes.forEach((plane, k) => plane && planeRow(plane, y, luma, values[k], this.height));
    for (const op of ops) {
      if (op.mix) before.set(line);
      if (op.kind === 'point') pointRow(op, line, values[op.plane]);
      else if (op.own)
        for (let o = 0; o < line.length; o += 3) lookUp(op.table, line[o], line[o + 1], line[o + 2], line, o);
      else
        for (let x = 0, o = 0; x < width; x += 1, o += 3)
          lookUp(op.table, line[o], line[o + 1], line[o + 2], line, o, share, x);
      if (op.mix) mixRow(op.mix, before, line, values, share);
    }
  }
}

/** A row of encoded R'G'B' (width × 3) becomes what it was before and what it is now, mixed. */
function mixRow(
  { join, mask, clean }: Mix,
  before: Float32Array,
  line: Float32Array,
  values: readonly Float32Array[],
  share: Float32Array,
): void {
  const shapes = mask === undefined ? null : values[mask];
  const around = clean === undefined ? null : values[clean];
  for (let x = 0, o = 0; o < line.length; x += 1) {
    const chosen = around ? cleaned(share[x], around[x]) : share[x];
    const amount = amountOf(join, shapes ? shapes[x] : 1, chosen);
    for (const end = o + 3; o < end; o += 1) line[o] = before[o] + amount * (line[o] - before[o]);
  }
}

/** A row of encoded R'G'B' (width × 3) through a spatial step, in place. `values`: its plane. */
function pointRow(op: BakedPoint, line: Float32Array, values: Float32Array): void {
  const apply = prepared(op);
  const linear = stepKind(op.step).formula!.light === 'linear';
  const rgb: Vec3 = [0, 0, 0];
  for (let x = 0, o = 0; o < line.length; x += 1, o += 3) {
    for (let c = 0; c < 3; c += 1) rgb[c] = linear ? decode709(line[o + c]) : line[o + c];
    apply(rgb, values[x]);
    for (let c = 0; c < 3; c += 1) line[o + c] = linear ? encode709(rgb[c]) : rgb[c];
  }
}

const applies = new WeakMap<object, PointFn>();
/** The mathematics of a spatial step, made once for one set of parameters. */
function prepared({ step, params }: { step: string; params: object }): PointFn {
  const known = applies.get(params);
  if (known) return known;
  const made = stepKind(step).prepare(params as Record<string, unknown>);
  applies.set(params, made);
  return made;
}
