import { bake, type Table } from './bake';
import type { Mix, Program, StencilOp } from './compile';
import { stepKind } from '../steps';
import type { Planes } from './planes';
import { tapsOf, type Taps } from './stencil';

/** An op made ready for a backend, plain data: a table, or a spatial step with its resolved parameters. */
export type BakedOp = BakedTable | BakedPoint | BakedStencil;

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

/** Plain data as it is. */
export type BakedStencil = StencilOp;

/** Ops made ready, and the planes of the frame that they are used on. */
export interface Baked {
  ops: readonly BakedOp[];
  planes: Planes;
}

/** Makes the ops of a program ready, with tables of `size` nodes an edge. */
export const bakeOps = (program: Program, size: number): BakedOp[] =>
  program.ops.map((op) => {
    if (op.kind === 'stencil') return op;
    const mix = op.mix && { mix: op.mix };
    return op.kind === 'table'
      ? { kind: 'table', table: bake(op, size), ...(op.own ? { own: true } : {}), ...mix }
      : { kind: 'point', step: op.step, params: op.params, plane: op.plane, ...mix };
  });

/** Whether planes of these ops may depend on what is in the frame. */
export const readsFrame = (ops: readonly BakedOp[]): boolean =>
  ops.some((op) => op.kind === 'point' || op.mix?.clean !== undefined);

/** Whether an op reads the colours of a pixel's neighbours, and not their luma alone. */
export const readsColours = (op: BakedOp): boolean =>
  op.kind === 'stencil' && stepKind(op.step).formula!.neighbours === 'colour';

/** One table as all there is. */
export const single = (table: Table): Baked => ({ ops: [{ kind: 'table', table }], planes: [] });

/** Ops from `from` up to, not with, `to`, which a pixel passes without looking at its neighbours. */
export interface Stage {
  from: number;
  to: number;
  /** Of the stencil that is its first op; none: it begins with the file's pixels. */
  taps?: Taps;
}

/** Ops of a picture `width` pixels wide, cut before each stencil that does something at that size. */
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
