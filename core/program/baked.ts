import { bake, type Table } from './bake';
import type { Mix, Program, StencilOp } from './compile';
import { stepKind } from '../steps';
import type { Planes } from './planes';
import { tapsOf, type Taps } from './stencil';

/** An op ready for a backend, as plain data: a table, or a spatial step with its resolved parameters. */
export type BakedOp = BakedTable | BakedPoint | BakedStencil;

export interface BakedTable {
  kind: 'table';
  table: Table;
  /** A file's own table: the part of its mix that depends on the colour was done by the previous table. */
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

/** Plain data as it is. */
export type BakedStencil = StencilOp;

/** Baked ops, and the planes of the frame on which they act. */
export interface Baked {
  ops: readonly BakedOp[];
  planes: Planes;
}

/** Bakes the ops of a program, with tables of `size` nodes per edge. */
export const bakeOps = (program: Program, size: number): BakedOp[] =>
  program.ops.map((op) => {
    if (op.kind === 'stencil') return op;
    const mix = op.mix && { mix: op.mix };
    return op.kind === 'table'
      ? { kind: 'table', table: bake(op, size), ...(op.own ? { own: true } : {}), ...mix }
      : { kind: 'point', step: op.step, params: op.params, plane: op.plane, ...mix };
  });

/** Whether planes of these ops may depend on the frame's content. */
export const readsFrame = (ops: readonly BakedOp[]): boolean =>
  ops.some((op) => op.kind === 'point' || op.mix?.clean !== undefined);

/** Whether an op reads the colours of neighbouring pixels, not only their luma. */
export const readsColours = (op: BakedOp): boolean =>
  op.kind === 'stencil' && stepKind(op.step).formula!.neighbours === 'colour';

/** A single table as the whole grade. */
export const single = (table: Table): Baked => ({ ops: [{ kind: 'table', table }], planes: [] });

/** Consecutive ops from `from` (inclusive) to `to` (exclusive) that read no neighbours. */
export interface Stage {
  from: number;
  to: number;
  /** Of the stencil that is its first op; absent: it begins with the file's pixels. */
  taps?: Taps;
}

/** Splits the ops of a picture `width` pixels wide before each stencil that has an effect at that size. */
export function stagesOf(ops: readonly BakedOp[], width: number): Stage[] {
  const stages: Stage[] = [{ from: 0, to: ops.length }];
  ops.forEach((op, k) => {
    if (op.kind !== 'stencil') return;
    const taps = tapsOf(op.spread * width);
    if (taps.radius === 0) return;
    stages[stages.length - 1].to = k;
    stages.push({ from: k, to: ops.length, taps });
  });
  return stages;
}
