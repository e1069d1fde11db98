import { MAP_EDGE } from '../../fields/map';
import { MASK_EDGE } from '../../regions/mask';
import type { BakedOp } from '../baked';
import type { MostOps } from '../plan';

/** What the compiled module exports for rows, see `wasm/rows.ts`; and a function for each spatial step that has one. */
export type RowExports = Record<
  | 'chromaLine'
  | 'toRgb'
  | 'split'
  | 'join'
  | 'lumaLine'
  | 'fill'
  | 'mapLine'
  | 'maskLine'
  | 'shapeLine'
  | 'amountLine'
  | 'mixLine'
  | 'copyLine'
  | 'lookLine'
  | 'fromRgb'
  | 'chromaOut'
  | (string & {}),
  (...args: number[]) => void
> & { spanOf(line: number, count: number): number };

/** The largest program that a kernel has room for. */
export interface RowKernelRoom extends MostOps {
  /** Pixels a row. */
  width: number;
}

export const LINES = [
  ...(['r', 'g', 'b', 'luma', 'share', 'map', 'u', 'v', 'outU', 'outV'] as const),
  ...(['mask', 'amount', 'r0', 'g0', 'b0'] as const),
];
export type Line = (typeof LINES)[number];
export const SPARE = 64;
/** Pixels beyond what is written that chroma needs: the even column before, and whole groups of eight. */
export const MARGIN = 8;
export const DATA_BYTES = 16384;
export const MAP_BYTES = MAP_EDGE ** 2 * 8 + SPARE;
export const MASK_BYTES = MASK_EDGE ** 2 * 4 + SPARE;
export const CELLS_BYTES = (MAP_EDGE + 4) * 8 + SPARE;
export const DITHER_BYTES = 64 * 4;

export const align = (n: number): number => Math.ceil(n / 16) * 16;
export const lineBytes = (width: number): number => align(width * 4) + SPARE;
export const tableBytes = ({ size, shaper }: { size: number; shaper: number }): number =>
  size ** 3 * 16 + align(shaper * 12) + SPARE;

/** Bytes of memory that a kernel with this room takes. */
export const rowKernelBytes = ({ width, tables, points, shapes, ...room }: RowKernelRoom): number =>
  (LINES.length + 3) * lineBytes(width) +
  DITHER_BYTES +
  CELLS_BYTES +
  tables * tableBytes(room) +
  points * (MAP_BYTES + DATA_BYTES) +
  shapes * MASK_BYTES;

/** Whether all but the first op act within shapes alone, so that elsewhere the first one is all there is. */
export const leavesTheRest = ([first, ...later]: readonly BakedOp[]): boolean =>
  first?.kind === 'table' &&
  !first.mix &&
  !first.own &&
  later.length > 0 &&
  later.every(({ kind, mix }) => kind === 'table' && mix?.mask !== undefined && mix.join[0] === 0 && mix.join[2] === 0);
