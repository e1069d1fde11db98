import { gaussianMean, guidedCoefficients } from './filters';
import { SMALL_EDGE, type SmallPicture } from './smallPicture';
import { atWidth, isTiled, placeAmong, TILE_EDGE, tileMap, type TiledField } from './tile';

/** A downsampled frame in working linear light, with the luma that guides its maps. */
export interface LinearPicture {
  width: number;
  height: number;
  /** Linear R, G, B, width × height × 3. */
  rgb: Float32Array;
}

/**
 * How a map is made: estimated from the frame and refined along its edges or blurred, from position alone, or as noise.
 */
export type FieldSpec = SeenField | SmoothField | PlacedField | TiledField;

/** A map that does not depend on the frame's content. */
export interface PlacedField {
  /** The map, 0–1, at a position (shares of the frame's width and height). `aspect`: width over height of the frame. */
  place(u: number, v: number, aspect: number): number;
  /** Cache key: maps with equal keys are identical. */
  key: string;
}

/** A map that is estimated from a frame. */
export interface SeenField {
  /** The unrefined map, 0–1 for each cell of the frame as it enters the step. */
  estimate(picture: LinearPicture): Float32Array;
  /**
   * Indices of the cells that the estimate reads, for a frame of this many cells; the others may be 0. Missing: it
   * reads all cells.
   */
  reads?(width: number, height: number): Int32Array;
  /** Radius of the guided filter as a share of the frame's width, and its epsilon (code values squared). */
  radius: number;
  epsilon: number;
}

/** A blurred estimate from the frame. */
export interface SmoothField {
  /** 0–1 for each cell of the frame as it enters the step. */
  estimate(picture: LinearPicture): Float32Array;
  /** Standard deviation of the Gaussian as a share of the frame's width. */
  spread: number;
}

/** A map of a frame, 0–1: at a pixel, a · Y' + b clamped to 0–1, with a and b interpolated between cells. */
export interface FieldMap {
  width: number;
  height: number;
  /** The frame's size in cells, see {@link SmallPicture}. */
  cells: readonly [across: number, down: number];
  /** Position of the frame's upper left corner among the cells, for a part of a frame; (0, 0) if missing. */
  corner?: readonly [x: number, y: number];
  /** The map wraps around; the last cells repeat the first ones. */
  repeats?: true;
  /** a and b, interleaved, width × height × 2; of a tiled map, those of `atWidth`. */
  coefficients: Float32Array;
}

/**
 * Cells along the longer edge of a map that depends on position alone. It is constant in the outer half of the
 * outermost cells: with this many cells, a falloff to one half is off by 0.6 % at most there.
 */
const PLACED_CELLS = 512;
/** Maximum number of cells along the longer edge of any map. */
export const MAP_EDGE = Math.max(SMALL_EDGE, PLACED_CELLS, TILE_EDGE);
/** The most recent maps: consecutive frames often share them. */
const placed = new Map<string, FieldMap>();
const KEPT = 8;

function placedMap(spec: PlacedField, aspect: number): FieldMap {
  const cells = [PLACED_CELLS * Math.min(1, aspect), PLACED_CELLS / Math.max(1, aspect)] as const;
  const [width, height] = cells.map(Math.ceil);
  const key = `${aspect} ${spec.key}`;
  const known = placed.get(key);
  if (known) return known;
  const coefficients = new Float32Array(2 * width * height);
  for (let y = 0, o = 1; y < height; y += 1)
    for (let x = 0; x < width; x += 1, o += 2)
      coefficients[o] = spec.place((x + 0.5) / cells[0], (y + 0.5) / cells[1], aspect);
  const map = { width, height, cells, coefficients };
  if (placed.size >= KEPT) placed.delete(placed.keys().next().value!);
  placed.set(key, map);
  return map;
}

/** Whether a map depends on the frame's content. */
export const isSeen = (spec: FieldSpec): spec is SeenField | SmoothField => 'estimate' in spec;

/** A map that needs no frame, at this many seconds into the clip. `aspect`: width over height of the frame. */
export const unseenMap = (spec: PlacedField | TiledField, aspect: number, seconds = 0): FieldMap =>
  isTiled(spec) ? tileMap(spec, aspect, seconds) : placedMap(spec, aspect);

/** Makes the map of a frame; `linear` is the frame as it enters the step, this many seconds into the clip. */
export function makeMap(spec: FieldSpec, small: SmallPicture, linear: LinearPicture, seconds = 0): FieldMap {
  const { width, height, cells, luma } = small;
  if (!isSeen(spec)) return unseenMap(spec, cells[0] / cells[1], seconds);
  if ('spread' in spec) {
    const blurred = gaussianMean(spec.estimate(linear), width, height, spec.spread * cells[0]);
    return {
      width,
      height,
      cells,
      coefficients: Float32Array.from({ length: 2 * width * height }, (_, i) => (i % 2 ? blurred[(i - 1) / 2] : 0)),
    };
  }
  const radius = Math.max(1, Math.round(spec.radius * width));
  return {
    width,
    height,
    cells,
    coefficients: guidedCoefficients(luma, spec.estimate(linear), width, height, radius, spec.epsilon),
  };
}

/** The two rows of map cells that enclose row y of a picture with `rows` rows, and the interpolation weight. */
export function rowsAt(
  { height, cells, corner, repeats }: FieldMap,
  y: number,
  rows: number,
): { top: number; low: number; down: number } {
  const v = placeAmong((corner?.[1] ?? 0) + ((y + 0.5) * cells[1]) / rows - 0.5, height, repeats);
  const top = Math.min(height - 1, Math.floor(v));
  return { top, low: Math.min(height - 1, top + 1), down: v - top };
}

/**
 * One row of a map for a picture of any size: `out` is as long as the picture is wide, `rows` is its height. Takes the
 * row's luma, writes 0–1.
 */
export function mapRow(map: FieldMap, y: number, luma: ArrayLike<number>, out: Float32Array, rows: number): void {
  const { width, cells, corner, repeats, coefficients: k } = atWidth(map, out.length);
  const scale = cells[0] / out.length;
  const first = (corner?.[0] ?? 0) - 0.5;
  const at = rowsAt(map, y, rows);
  const fy = at.down;
  const top = 2 * at.top * width;
  const low = 2 * at.low * width;
  for (let x = 0; x < out.length; x += 1) {
    const u = placeAmong((x + 0.5) * scale + first, width, repeats);
    const x0 = u | 0;
    const fx = u - x0;
    const p = 2 * x0;
    const q = 2 * (x0 < width - 1 ? x0 + 1 : x0);
    const a0 = k[top + p] + fx * (k[top + q] - k[top + p]);
    const a1 = k[low + p] + fx * (k[low + q] - k[low + p]);
    const b0 = k[top + p + 1] + fx * (k[top + q + 1] - k[top + p + 1]);
    const b1 = k[low + p + 1] + fx * (k[low + q + 1] - k[low + p + 1]);
    const m = (a0 + fy * (a1 - a0)) * luma[x] + b0 + fy * (b1 - b0);
    out[x] = m < 0 ? 0 : m > 1 ? 1 : m;
  }
}
