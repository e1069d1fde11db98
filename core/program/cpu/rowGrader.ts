import { decode709, encode709 } from '../../colour/transferTables';
import type { Vec3 } from '../../colour/matrix';
import { luma709 } from '../../colour/ycbcr';
import { cleaned } from '../../regions/clean';
import { amountOf } from '../../regions/region';
import { stepKind, type PointFn } from '../../steps';
import { readsColours, stagesOf, type Baked, type BakedPoint, type BakedStencil, type Stage } from '../baked';
import { lookUp } from '../bake';
import type { Mix } from '../compile';
import { planeRow } from '../planes';

/** Reads a row of the file's R'G'B' (width × 3); rows may be requested in any order. */
export type ReadRow = (y: number, line: Float32Array) => void;

/** A row as it enters a stencil. */
interface EnteringRow {
  y: number;
  line: Float32Array;
  /** Its luma (width), or its colours (width × 3), blurred along the row. */
  across: Float32Array;
  /** The file's luma, and the selections by colour that later ops need. */
  luma: Float32Array;
  share: Float32Array;
}

/** Grades rows of a picture. One instance per frame. */
export class RowGrader {
  private readonly luma: Float32Array;
  private readonly share: Float32Array;
  private readonly before: Float32Array;
  private readonly base: Float32Array;
  /** Each plane's row. */
  private readonly values: Float32Array[];
  private readonly stages: Stage[];
  /** Ring buffer of the rows that enter each stage. */
  private readonly held: EnteringRow[][];

  /** `weights`: luma weights of the file. `height`: rows of the picture. */
  constructor(
    private readonly baked: Baked,
    private readonly width: number,
    private readonly height: number,
    private readonly weights: Readonly<Vec3>,
    private readonly read: ReadRow,
  ) {
    const row = (): Float32Array => new Float32Array(width);
    [this.luma, this.share] = [row(), row()];
    this.base = new Float32Array(3 * width);
    this.before = new Float32Array(3 * width);
    this.values = baked.planes.map(row);
    this.stages = stagesOf(baked.ops, width);
    this.held = this.stages.map(({ taps }) =>
      Array.from({ length: taps ? 2 * taps.radius + 1 : 0 }, () => ({
        ...{ y: -1, line: new Float32Array(3 * width), across: new Float32Array(3 * width), luma: row(), share: row() },
      })),
    );
  }

  /** Writes a row of encoded output. */
  grade(y: number, line: Float32Array): void {
    this.run(this.stages.length - 1, y, line);
  }

  private run(k: number, y: number, line: Float32Array): void {
    const { ops, planes } = this.baked;
    const { luma, weights, width, share, values, before } = this;
    const stage = this.stages[k];
    if (k === 0) {
      this.read(y, line);
      if (planes.some(Boolean))
        for (let x = 0, o = 0; x < width; x += 1, o += 3)
          luma[x] = weights[0] * line[o] + weights[1] * line[o + 1] + weights[2] * line[o + 2];
    } else this.gather(k, y, line);
    planes.forEach((plane, i) => plane && planeRow(plane, y, luma, values[i], this.height));
    for (let i = stage.from; i < stage.to; i += 1) {
      const op = ops[i];
      // A stencil without effect at this size.
      if (op.kind === 'stencil' && !(stage.taps && i === stage.from)) continue;
      if (op.mix) before.set(line);
      if (op.kind === 'stencil') pointRow(op, line, this.base);
      else if (op.kind === 'point') pointRow(op, line, values[op.plane]);
      else if (op.own)
        for (let o = 0; o < line.length; o += 3) lookUp(op.table, line[o], line[o + 1], line[o + 2], line, o);
      else
        for (let x = 0, o = 0; x < width; x += 1, o += 3)
          lookUp(op.table, line[o], line[o + 1], line[o + 2], line, o, share, x);
      if (op.mix) mixRow(op.mix, before, line, values, share);
    }
  }

  /**
   * The row that enters a stage's stencil, and the blurred values it reads. Edge rows are repeated outside the picture.
   */
  private gather(k: number, y: number, line: Float32Array): void {
    const { radius, weights } = this.stages[k].taps!;
    const rows = Array.from({ length: 2 * radius + 1 }, (_, i) =>
      this.entering(k, Math.min(this.height - 1, Math.max(0, y + i - radius))),
    );
    this.base.fill(0);
    rows.forEach(({ across }, i) => {
      const weight = weights[Math.abs(i - radius)];
      for (let i = 0; i < across.length; i += 1) this.base[i] += weight * across[i];
    });
    const here = rows[radius];
    line.set(here.line);
    this.luma.set(here.luma);
    this.share.set(here.share);
  }

  private entering(k: number, y: number): EnteringRow {
    const rows = this.held[k];
    const row = rows[y % rows.length];
    if (row.y === y) return row;
    this.run(k - 1, y, row.line);
    row.y = y;
    row.luma.set(this.luma);
    row.share.set(this.share);
    const { radius, weights } = this.stages[k].taps!;
    const { width } = this;
    const { line, across } = row;
    // Blurred values are interleaved, this many numbers per pixel.
    const n = readsColours(this.baked.ops[this.stages[k].from]) ? 3 : 1;
    const own =
      n === 3
        ? line
        : Float32Array.from({ length: width }, (_, x) => luma709(line[3 * x], line[3 * x + 1], line[3 * x + 2]));
    for (let x = 0; x < width; x += 1)
      for (let c = 0; c < n; c += 1) {
        let sum = weights[0] * own[n * x + c];
        for (let i = 1; i <= radius; i += 1)
          sum += weights[i] * (own[n * Math.max(0, x - i) + c] + own[n * Math.min(width - 1, x + i) + c]);
        across[n * x + c] = sum;
      }
    return row;
  }
}

/** Mixes a row of encoded R'G'B' (width × 3) with its previous state. */
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

/**
 * Applies a spatial step to a row of encoded R'G'B' (width × 3), in place. `values`: its plane, or the blurred
 * neighbours.
 */
function pointRow(op: BakedPoint | BakedStencil, line: Float32Array, values: Float32Array): void {
  const apply = prepared(op);
  const linear = stepKind(op.step).formula!.light === 'linear';
  const rgb: Vec3 = [0, 0, 0];
  const near: Vec3 = [0, 0, 0];
  const colours = readsColours(op);
  for (let x = 0, o = 0; o < line.length; x += 1, o += 3) {
    if (colours) for (let c = 0; c < 3; c += 1) near[c] = values[o + c];
    for (let c = 0; c < 3; c += 1) rgb[c] = linear ? decode709(line[o + c]) : line[o + c];
    apply(rgb, colours ? near : values[x]);
    for (let c = 0; c < 3; c += 1) line[o + c] = linear ? encode709(rgb[c]) : rgb[c];
  }
}

const applies = new WeakMap<object, PointFn>();
/** The formula of a spatial step, prepared once for a set of parameters. */
function prepared({ step, params }: { step: string; params: object }): PointFn {
  const known = applies.get(params);
  if (known) return known;
  const made = stepKind(step).prepare(params as Record<string, unknown>);
  applies.set(params, made);
  return made;
}
