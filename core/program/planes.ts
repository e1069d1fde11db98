import type { Vec3 } from '../colour/matrix';
import { decode709 } from '../colour/transferTables';
import { isSeen, makeMap, mapRow, unseenMap, type FieldMap } from '../fields/map';
import type { SmallPicture } from '../fields/smallPicture';
import { maskAt, maskRow, type MaskPlane } from '../regions/mask';
import { type Program } from './compile';
import { through } from './evaluate';

/** A plane of a frame: a map of a spatial step, or the shapes of a region. */
export type Plane = FieldMap | MaskPlane;
/** Each plane of a program, for one frame; null: zero everywhere. */
export type Planes = (Plane | null)[];

export const isMask = (plane: Plane): plane is MaskPlane => 'shapes' in plane;

const sameNumbers = (a: Float32Array, b: Float32Array): boolean =>
  a.length === b.length && a.every((v, i) => v === b[i]);

const sameMap = (a: FieldMap, b: FieldMap): boolean =>
  JSON.stringify([a.cells, a.corner]) === JSON.stringify([b.cells, b.corner]) &&
  sameNumbers(a.coefficients, b.coefficients);

/** Whether two planes are equal; one received from another thread is a copy. */
export function samePlane(a: Plane | null, b: Plane | null): boolean {
  if (a === b || !a || !b) return a === b;
  if (!isMask(a) || !isMask(b)) return !isMask(a) && !isMask(b) && sameMap(a, b);
  return (
    a.shapes.length === b.shapes.length &&
    a.shapes.every((s, i) => {
      const { distances, ...rest } = b.shapes[i];
      const own = { ...s } as Partial<typeof s>;
      delete own.distances;
      return sameNumbers(s.distances, distances) && JSON.stringify(own) === JSON.stringify(rest);
    })
  );
}

/** One row of a plane for a picture of any size; `luma` is the row's own, `rows` the picture's height. */
export function planeRow(plane: Plane, y: number, luma: Float32Array, out: Float32Array, rows: number): void {
  if (isMask(plane)) maskRow(plane, y, out, rows);
  else mapRow(plane, y, luma, out, rows);
}

/** Makes the planes of a program for a frame: maps from the frame as it enters their step. */
export function planesOf({ ops, planes: specs }: Program, small: SmallPicture): Planes {
  const { width, height, code, cells } = small;
  const planes: Planes = specs.map(() => null);
  const values: (Float32Array | null)[] = specs.map(() => null);
  const rgb: Vec3 = [0, 0, 0];
  const aspect = cells[0] / cells[1];
  // The last one that depends on the frame: planes up to it need values.
  const seen = specs.findLastIndex((s) => s.kind === 'field');
  specs.forEach((spec, k) => {
    let plane: Plane;
    if (spec.kind === 'mask') plane = maskAt(spec.shapes, spec.seconds, aspect);
    else {
      const linear = new Float32Array(isSeen(spec.field) ? code.length : 0);
      const run = through(ops.slice(0, spec.before));
      const here = specs.map(() => 0);
      const some = 'reads' in spec.field ? spec.field.reads?.(width, height) : undefined;
      const count = some?.length ?? linear.length / 3;
      for (let n = 0; n < count; n += 1) {
        const i = some ? some[n] : n;
        for (let c = 0; c < 3; c += 1) rgb[c] = code[3 * i + c];
        for (let p = 0; p < k; p += 1) here[p] = values[p]?.[i] ?? 0;
        run(rgb, here);
        for (let c = 0; c < 3; c += 1) linear[3 * i + c] = decode709(rgb[c]);
      }
      plane = makeMap(spec.field, small, { width, height, rgb: linear }, spec.seconds);
    }
    planes[k] = plane;
    if (k < seen) values[k] = smallValues(plane, small);
  });
  return planes;
}

/** Whether a program has planes that depend on the frame's content. */
export const seesFrame = ({ planes }: Pick<Program, 'planes'>): boolean =>
  planes.some((spec) => spec.kind === 'field' && isSeen(spec.field));

/** The planes of a program that need no frame: shapes, positional maps and noise. The others are null. */
export const unseenPlanes = ({ planes }: Pick<Program, 'planes'>, aspect: number): Planes =>
  planes.map((spec) => {
    if (spec.kind === 'mask') return maskAt(spec.shapes, spec.seconds, aspect);
    return isSeen(spec.field) ? null : unseenMap(spec.field, aspect, spec.seconds);
  });

/** A plane's values at the cells of a small picture. */
export function smallValues(plane: Plane, { width, height, luma }: Omit<SmallPicture, 'code' | 'cells'>): Float32Array {
  if (!isMask(plane) && plane.width === width && plane.height === height) {
    const { coefficients: k } = plane;
    return luma.map((l, i) => Math.min(1, Math.max(0, k[2 * i] * l + k[2 * i + 1])));
  }
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y += 1) {
    const [from, to] = [y * width, (y + 1) * width];
    planeRow(plane, y, luma.subarray(from, to), out.subarray(from, to), height);
  }
  return out;
}

/** A plane's values for every pixel of a picture in R'G'B' code values (width × height × 3), by its luma weights. */
export function planeValues(
  plane: Plane,
  code: Float32Array,
  width: number,
  height: number,
  [kr, kg, kb]: Readonly<Vec3>,
): Float32Array {
  const out = new Float32Array(width * height);
  const luma = new Float32Array(width);
  for (let y = 0; y < height; y += 1) {
    for (let x = 0, o = y * width * 3; x < width; x += 1, o += 3)
      luma[x] = kr * code[o] + kg * code[o + 1] + kb * code[o + 2];
    planeRow(plane, y, luma, out.subarray(y * width, (y + 1) * width), height);
  }
  return out;
}
