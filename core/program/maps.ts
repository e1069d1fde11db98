import type { Vec3 } from '../colour/matrix';
import { makeMap, mapRow, type FieldMap } from '../fields/map';
import type { SmallPicture } from '../fields/smallPicture';
import type { Program } from './compile';

/** Each pass's map of a frame; null for a pass without. */
export type Maps = (FieldMap | null)[];

/** Makes the maps of a program from a frame: each from the frame as it enters the pass's spatial step. */
export function mapsOf(program: Program, small: SmallPicture): Maps {
  const last = program.passes.findLastIndex((p) => p.field);
  if (last < 0) return program.passes.map(() => null);
  const { width, height, code, luma } = small;
  // What each pass leaves is what the next one meets.
  let colours = code;
  const rgb: Vec3 = [0, 0, 0];
  const run = (f: (rgb: Vec3, i: number) => void): Float32Array => {
    const out = new Float32Array(colours.length);
    for (let i = 0; i < width * height; i += 1) {
      for (let c = 0; c < 3; c += 1) rgb[c] = colours[3 * i + c];
      f(rgb, i);
      out.set(rgb, 3 * i);
    }
    return out;
  };
  return program.passes.map((pass, k) => {
    const { field } = pass;
    const map = field ? makeMap(field.spec, small, { width, height, rgb: run((c) => field.before(c)) }) : null;
    if (k < last) {
      const values = map ? smallValues(map, luma) : null;
      colours = run((c, i) => pass.evaluate(c, values?.[i]));
    }
    return map;
  });
}

/** A map's values cell by cell. */
export function smallValues(map: FieldMap, luma: Float32Array): Float32Array {
  const { width, height, cell } = map;
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y += 1)
    mapRow(map, y, luma.subarray(y * width, (y + 1) * width), out.subarray(y * width, (y + 1) * width), cell);
  return out;
}

/** A map's values for every pixel of a picture in R'G'B' code values (width × height × 3), by its luma weights. */
export function mapValues(
  map: FieldMap,
  code: Float32Array,
  width: number,
  height: number,
  [kr, kg, kb]: Readonly<Vec3>,
  pixel = 1,
): Float32Array {
  const out = new Float32Array(width * height);
  const luma = new Float32Array(width);
  for (let y = 0; y < height; y += 1) {
    for (let x = 0, o = y * width * 3; x < width; x += 1, o += 3)
      luma[x] = kr * code[o] + kg * code[o + 1] + kb * code[o + 2];
    mapRow(map, y, luma, out.subarray(y * width, (y + 1) * width), pixel);
  }
  return out;
}
