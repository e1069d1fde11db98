import type { FieldMap } from '../fields/map';
import type { MaskPlane } from '../regions/mask';
import { stagesOf, type Baked, type BakedOp } from './baked';
import { isMask, type Plane } from './planes';

/** A part of a frame, in shares of its width and height. */
export interface Part {
  x: number;
  y: number;
  width: number;
  height: number;
}

const mapIn = (map: FieldMap, { x, y, width, height }: Part): FieldMap => {
  const [across, down] = map.cells;
  const [left, top] = map.corner ?? [0, 0];
  return {
    ...map,
    cells: [across * width, down * height],
    corner: [left + x * across, top + y * down],
  };
};

// Coordinates are shares of the frame's width, vertically too.
const masksIn = ({ shapes, aspect }: MaskPlane, { x, y, width, height }: Part): MaskPlane => ({
  aspect: (aspect * width) / height,
  shapes: shapes.map((s) => ({
    ...s,
    x: (s.x - x) / width,
    y: (s.y - y / aspect) / width,
    cell: s.cell / width,
  })),
});

/** Ops and planes of a frame cropped to a part of it, which a backend then treats as a whole frame. */
export function partOf({ ops, planes }: Baked, part: Part): Baked {
  if (part.x === 0 && part.y === 0 && part.width === 1 && part.height === 1) return { ops, planes };
  return {
    ops: ops.map((op): BakedOp => (op.kind === 'stencil' ? { ...op, spread: op.spread / part.width } : op)),
    planes: planes.map((p): Plane | null => p && (isMask(p) ? masksIn(p, part) : mapIn(p, part))),
  };
}

/** Margin in pixels that ops read around a part of a picture, where the whole picture is `width` pixels wide. */
export const rimOf = (ops: readonly BakedOp[], width: number): number =>
  stagesOf(ops, width).reduce((sum, { taps }) => sum + (taps?.radius ?? 0), 0);
