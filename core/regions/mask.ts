import { ellipseDistance, polygonDistances, rectangleDistance, type Grid } from './distance';
import { outlineOf, poseAt, type Pose, type Shape } from './shape';

/**
 * A shape ready for a backend: signed distances to its outline at the cells of a grid, which are interpolated and then
 * ramped.
 */
export interface MaskShape extends Grid {
  /** Signed distances, negative inside, width × height, in shares of the frame's width. */
  distances: Float32Array;
  /** 1 over the width of the feather. */
  slope: number;
  mode: Shape['mode'];
  inverted: boolean;
}

/** The shapes of a region at one time. */
export interface MaskPlane {
  shapes: MaskShape[];
  /** The frame's width over its height. */
  aspect: number;
}

/**
 * Cells along the longer side of a shape's box: the outline of an ellipse as wide as the frame is within 1e-5 of its
 * width.
 */
export const MASK_EDGE = 256;
/** Minimum feather: slightly more than a pixel of a frame 1920 wide, for antialiasing. */
const NARROWEST = 1.2 / 1920;

/** The axis-aligned bounding box of a shape with its feather. */
function boxOf(kind: Shape['kind'], pose: Pose, outline: Float64Array | null, feather: number) {
  if (outline) {
    const [xs, ys] = [0, 1].map((k) => outline.filter((_, i) => i % 2 === k));
    return {
      left: Math.min(...xs) - feather / 2,
      right: Math.max(...xs) + feather / 2,
      top: Math.min(...ys) - feather / 2,
      bottom: Math.max(...ys) + feather / 2,
    };
  }
  const turn = (pose.turn * Math.PI) / 180;
  const [c, s] = [Math.abs(Math.cos(turn)), Math.abs(Math.sin(turn))];
  const [a, b] = [pose.width / 2, pose.height / 2];
  const [w, h] =
    kind === 'ellipse' ? [Math.hypot(a * c, b * s), Math.hypot(a * s, b * c)] : [a * c + b * s, a * s + b * c];
  const more = feather / 2;
  return { left: pose.x - w - more, right: pose.x + w + more, top: pose.y - h - more, bottom: pose.y + h + more };
}

/** A grid over the visible part of a box, with a margin of one cell on every side. */
function gridOver(box: ReturnType<typeof boxOf>, aspect: number): Grid {
  const left = Math.max(-0.02, Math.min(1, box.left));
  const right = Math.min(1.02, Math.max(0, box.right));
  const top = Math.max(-0.02, Math.min(1 / aspect, box.top));
  const bottom = Math.min(1 / aspect + 0.02, Math.max(0, box.bottom));
  const edge = Math.max(right - left, bottom - top, 0.004);
  const cell = edge / (MASK_EDGE - 5);
  return {
    x: left - 2 * cell,
    y: top - 2 * cell,
    cell,
    width: Math.min(MASK_EDGE, Math.ceil(Math.max(0, right - left) / cell) + 5),
    height: Math.min(MASK_EDGE, Math.ceil(Math.max(0, bottom - top) / cell) + 5),
  };
}

function shapeAt(shape: Shape, pose: Pose, aspect: number): MaskShape {
  const feather = Math.max(NARROWEST, pose.feather);
  const rest = { slope: 1 / feather, mode: shape.mode, inverted: shape.inverted };
  const turn = (pose.turn * Math.PI) / 180;
  if (shape.kind === 'gradient') {
    // A plane: four cells represent it exactly.
    const grid = { x: -1, y: -1, cell: 3 + 1 / aspect, width: 2, height: 2 };
    const distances = Float32Array.from([0, 1, 2, 3], (i) => {
      const [x, y] = [grid.x + (i % 2) * grid.cell, grid.y + (i >> 1) * grid.cell];
      return (x - pose.x) * Math.cos(turn) + (y - pose.y) * Math.sin(turn);
    });
    return { ...grid, ...rest, distances };
  }
  const outline = shape.kind === 'path' ? outlineOf(pose) : null;
  const grid = gridOver(boxOf(shape.kind, pose, outline, feather), aspect);
  // Constant beyond the feather.
  const reach = feather / 2 + 2 * grid.cell;
  if (outline) return { ...grid, ...rest, distances: polygonDistances(outline, grid, reach) };
  const distances = new Float32Array(grid.width * grid.height);
  const [a, b] = [pose.width / 2, pose.height / 2];
  const radius = pose.round * Math.min(a, b);
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  for (let row = 0, i = 0; row < grid.height; row += 1)
    for (let column = 0; column < grid.width; column += 1, i += 1) {
      const dx = grid.x + column * grid.cell - pose.x;
      const dy = grid.y + row * grid.cell - pose.y;
      const x = c * dx + s * dy;
      const y = c * dy - s * dx;
      distances[i] =
        shape.kind === 'ellipse' ? ellipseDistance(x, y, a, b, reach) : rectangleDistance(x, y, a, b, radius);
    }
  return { ...grid, ...rest, distances };
}

/** Cache of recent shapes: most do not change from frame to frame. */
const made = new Map<string, MaskShape>();
const KEPT = 32;

/** The shapes of a region at a time. `aspect`: width over height of the frame. */
export function maskAt(shapes: readonly Shape[], seconds: number, aspect: number): MaskPlane {
  return {
    aspect,
    shapes: shapes.map((shape) => {
      const pose = poseAt(shape, seconds);
      const key = JSON.stringify([shape.kind, shape.mode, shape.inverted, pose, aspect]);
      const known = made.get(key) ?? shapeAt(shape, pose, aspect);
      made.delete(key);
      made.set(key, known);
      if (made.size > KEPT) made.delete(made.keys().next().value!);
      return known;
    }),
  };
}

/**
 * Position of a picture's row among a shape's cells: rows above and below with the weight, and the cell positions of
 * the first and the next pixel.
 */
export function rowIn(shape: Grid, aspect: number, y: number, rows: number, columns: number) {
  const v = Math.min(shape.height - 1, Math.max(0, ((y + 0.5) / rows / aspect - shape.y) / shape.cell));
  const top = Math.min(shape.height - 1, Math.floor(v));
  return {
    top,
    low: Math.min(shape.height - 1, top + 1),
    down: v - top,
    first: (0.5 / columns - shape.x) / shape.cell,
    scale: 1 / columns / shape.cell,
  };
}

/**
 * The columns of a picture's row that a shape's grid covers, the first a multiple of four: distances are constant
 * beyond. Empty if the row lies outside.
 */
export function columnsIn(
  shape: Grid,
  aspect: number,
  y: number,
  rows: number,
  columns: number,
): [from: number, to: number] {
  const v = (y + 0.5) / rows / aspect;
  if (v < shape.y || v > shape.y + (shape.height - 1) * shape.cell) return [0, 0];
  const from = Math.max(0, Math.floor(shape.x * columns)) & ~3;
  return [from, Math.min(columns, Math.ceil((shape.x + (shape.width - 1) * shape.cell) * columns) + 1)];
}

/** One row of a region's mask for a picture of any size: 0–1, as long as the picture is wide. */
export function maskRow({ shapes, aspect }: MaskPlane, y: number, out: Float32Array, rows: number): void {
  out.fill(shapes.length > 0 && shapes[0].mode !== 'add' ? 1 : 0);
  for (const shape of shapes) {
    const { width, distances, slope, mode, inverted } = shape;
    const { top, low, down, first, scale } = rowIn(shape, aspect, y, rows, out.length);
    const [upper, lower] = [top * width, low * width];
    for (let x = 0; x < out.length; x += 1) {
      let u = first + x * scale;
      u = u < 0 ? 0 : u > width - 1 ? width - 1 : u;
      const x0 = u | 0;
      const x1 = x0 < width - 1 ? x0 + 1 : x0;
      const f = u - x0;
      const a = distances[upper + x0] + down * (distances[lower + x0] - distances[upper + x0]);
      const b = distances[upper + x1] + down * (distances[lower + x1] - distances[upper + x1]);
      let t = 0.5 - (a + f * (b - a)) * slope;
      t = t < 0 ? 0 : t > 1 ? 1 : t;
      t *= t * (3 - 2 * t);
      if (inverted !== (mode === 'subtract')) t = 1 - t;
      out[x] = mode === 'add' ? Math.max(out[x], t) : Math.min(out[x], t);
    }
  }
}
