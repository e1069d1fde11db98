import { MAP_EDGE } from '../../fields/map';
import { MASK_EDGE } from '../../regions/mask';
import type { Baked } from '../baked';
import type { MaxOps } from '../plan';
import { isMask } from '../planes';
import { radiusOf } from '../stencil';

/**
 * Exports of the compiled module for rows, see `lines.ts`, `samples.ts` and `cells.ts` of `wasm`; and a function for
 * each spatial step that has one.
 */
export type RowExports = Record<
  | 'chromaLine'
  | 'toRgb'
  | 'split'
  | 'join'
  | 'lumaLine'
  | 'fill'
  | 'stretchLine'
  | 'stretchPairs'
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
> & { spanOf(line: number, from: number, to: number): number };

/** The largest program that a kernel can hold. */
export interface RowKernelCapacity extends MaxOps {
  /** Pixels per row. */
  width: number;
}

export const LINES = [
  ...(['r', 'g', 'b', 'luma', 'share', 'map', 'u', 'v', 'outU', 'outV'] as const),
  ...(['mask', 'amount', 'r0', 'g0', 'b0'] as const),
  // Channels of a pixel's neighbours: luma, or red, green and blue.
  ...(['base', 'baseG', 'baseB'] as const),
];
export type Line = (typeof LINES)[number];
/**
 * Lines per row that enters a stencil: what later ops read, and its luma, or red, green and blue, blurred along the
 * row.
 */
export const BUFFERED_LINES = ['r', 'g', 'b', 'luma', 'share', 'across', 'acrossG', 'acrossB'] as const;
export type BufferedLine = (typeof BUFFERED_LINES)[number];
export const SPARE = 64;
export const DATA_BYTES = 16384;
export const MAP_BYTES = MAP_EDGE ** 2 * 8 + SPARE;
export const MASK_BYTES = MASK_EDGE ** 2 * 4 + SPARE;
export const DITHER_BYTES = 64 * 4;

export const align = (n: number): number => Math.ceil(n / 16) * 16;
export const lineBytes = (width: number): number => align(width * 4) + SPARE;
export const tableBytes = ({ size, shaper }: { size: number; shaper: number }): number =>
  size ** 3 * 16 + align(shaper * 12) + SPARE;

/** Bytes of the rows buffered for one stencil of this radius. */
export const rowBufferBytes = (radius: number, width: number): number =>
  (2 * radius + 1) * BUFFERED_LINES.length * lineBytes(width);
/** Bytes of a padded line of luma, and of the kernel's weights. */
export const padBytes = (radius: number, width: number): number =>
  lineBytes(width + 2 * radius) + align(4 * radius + 4);

/** Bytes that `RowInputs` needs for a program of this size. */
export const inputBytes = ({ width, maps, points, shapes }: RowKernelCapacity): number =>
  maps * MAP_BYTES + shapes * MASK_BYTES + points * DATA_BYTES + (maps + shapes) * 4 * lineBytes(width);

/** Bytes of memory that a kernel of this capacity needs. */
export const rowKernelBytes = (capacity: RowKernelCapacity): number => {
  const { width, tables, stencils, spread } = capacity;
  const radius = radiusOf(spread * width);
  return (
    (LINES.length + 3) * lineBytes(width) +
    DITHER_BYTES +
    tables * tableBytes(capacity) +
    inputBytes(capacity) +
    padBytes(radius, width) +
    stencils * rowBufferBytes(radius, width)
  );
};

/** The capacity that a baked program needs. */
export function needsOf({ ops, planes }: Baked): MaxOps {
  const tables = ops.flatMap((p) => (p.kind === 'table' ? [p.table] : []));
  const masks = planes.flatMap((p) => (p && isMask(p) ? [p] : []));
  return {
    tables: tables.length,
    size: Math.max(0, ...tables.map((t) => t.size)),
    shaper: Math.max(0, ...tables.map((t) => t.shaper?.size ?? 0)),
    points: ops.length - tables.length,
    stencils: ops.filter((p) => p.kind === 'stencil').length,
    spread: Math.max(0, ...ops.flatMap((p) => (p.kind === 'stencil' ? [p.spread] : []))),
    maps: planes.length - masks.length,
    shapes: masks.reduce((n, m) => n + m.shapes.length, 0),
  };
}
