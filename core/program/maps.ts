import type { Vec3 } from '../colour/matrix';
import { decode709 } from '../colour/transferTables';
import { makeMap, mapRow, type FieldMap } from '../fields/map';
import type { SmallPicture } from '../fields/smallPicture';
import { through, type Program } from './compile';

/** Each pass's map of a frame; null for a pass without. */
export type Maps = (FieldMap | null)[];

/** Makes the maps of a program from a frame: each from the frame as it enters the spatial step. */
export function mapsOf({ passes }: Program, small: SmallPicture): Maps {
  const { width, height, code } = small;
  const maps: Maps = passes.map(() => null);
  const values: (Float32Array | null)[] = passes.map(() => null);
  const rgb: Vec3 = [0, 0, 0];
  passes.forEach((pass, k) => {
    if (pass.kind !== 'field') return;
    const run = through(passes.slice(0, k));
    const linear = new Float32Array(code.length);
    for (let i = 0; i < width * height; i += 1) {
      for (let c = 0; c < 3; c += 1) rgb[c] = code[3 * i + c];
      run(
        rgb,
        values.map((v) => v?.[i] ?? 0),
      );
      for (let c = 0; c < 3; c += 1) linear[3 * i + c] = decode709(rgb[c]);
    }
    const map = makeMap(pass.field, small, { width, height, rgb: linear });
    maps[k] = map;
    values[k] = smallValues(map, small);
  });
  return maps;
}

/** A map's values at the cells of a small picture. */
export function smallValues(
  map: FieldMap,
  { width, height, luma }: Omit<SmallPicture, 'code' | 'cells'>,
): Float32Array {
  const { coefficients: k } = map;
  if (map.width === width && map.height === height)
    return luma.map((l, i) => Math.min(1, Math.max(0, k[2 * i] * l + k[2 * i + 1])));
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y += 1) {
    const [from, to] = [y * width, (y + 1) * width];
    mapRow(map, y, luma.subarray(from, to), out.subarray(from, to), height);
  }
  return out;
}

/** A map's values for every pixel of a picture in R'G'B' code values (width × height × 3), by its luma weights. */
export function mapValues(
  map: FieldMap,
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
    mapRow(map, y, luma, out.subarray(y * width, (y + 1) * width), height);
  }
  return out;
}
