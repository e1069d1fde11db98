/**
 * Rows of pictures in 16-bit lanes (AssemblyScript, WebAssembly with SIMD), for programs of several tables: what the
 * general rows do in floats, with half the memory. Lines hold int16 for each column: R', G', B' at 8192 for 1 (Q13),
 * clamped to ±4; aligned to 16 bytes. `width` is even and at least 16: the last block of a row overlaps the one before.
 * `gradePicture.ts` is the reference implementation.
 */
import {
  BLUE,
  chromaFrom,
  chromaOf,
  cShift,
  GREEN,
  greenOf,
  clamp01,
  inWide,
  kb,
  kBU,
  kg,
  kGU,
  kGV,
  kr,
  kRV,
  ku,
  kv,
  kY,
  lookUp,
  lumaFrom,
  lumaOf,
  offset,
  outerOf,
  outWide,
  readChroma,
  RED,
  rowOf,
  SHARE,
  storeChroma,
  storeSamples,
  yOffset,
  yScale,
  yShift,
} from './blocks';
import { at, mixOf } from './fixedLine';

/** Stores lookup results to lines. */
// @ts-ignore: decorator
@inline
function keep(lanes: usize, x: i32, r: usize, g: usize, b: usize, share: usize): void {
  v128.store(at(r, x), v128.load(lanes, RED));
  v128.store(at(g, x), v128.load(lanes, GREEN));
  v128.store(at(b, x), v128.load(lanes, BLUE));
  v128.store(at(share, x), v128.load(lanes, SHARE));
}

/** Luma in table coordinates, and chroma with half its factor, to Q13: not clamped to the table's range. */
// @ts-ignore: decorator
@inline
function valueOf(luma: v128, chroma: v128): v128 {
  const half = i16x8.sub(i16x8.shr_s(luma, 1), i16x8.splat(1024));
  // The coordinates span 32/27, from −2/27 on.
  return i16x8.q15mulr_sat_s(i16x8.add_sat_s(half, chroma), i16x8.splat(19418));
}

/** Reads a row of a picture as Q13. `lineU`, `lineV`: scratch lines for chroma. */
export function readFixed(
  y: i32,
  inY: usize,
  inU: usize,
  inV: usize,
  width: i32,
  height: i32,
  lineU: usize,
  lineV: usize,
  r: usize,
  g: usize,
  b: usize,
): void {
  readChroma(y, inU, inV, width, height, lineU, lineV);
  const wide = inWide;
  const row = rowOf(inY, y, width, wide);
  const lumaShift = yShift;
  const chromaShift = cShift;
  const vKY = i16x8.splat(kY);
  const vOffset = i16x8.splat(offset);
  const halfRV = i16x8.splat(kRV >> 1);
  const halfGU = i16x8.splat(kGU >> 1);
  const halfGV = i16x8.splat(kGV >> 1);
  const halfBU = i16x8.splat(kBU >> 1);
  for (let k = 0; k < width; k += 8) {
    const x = k + 8 > width ? width - 8 : k;
    const u = chromaOf(lineU, x >> 1, chromaShift);
    const v = chromaOf(lineV, x >> 1, chromaShift);
    const l = lumaOf(row, x, wide, lumaShift, vKY, vOffset);
    v128.store(at(r, x), valueOf(l, i16x8.q15mulr_sat_s(v, halfRV)));
    v128.store(at(g, x), valueOf(l, i16x8.add(i16x8.q15mulr_sat_s(u, halfGU), i16x8.q15mulr_sat_s(v, halfGV))));
    v128.store(at(b, x), valueOf(l, i16x8.q15mulr_sat_s(u, halfBU)));
  }
}

/** Reads a row of a picture through the first table, to Q13; the fourth number to `share`. */
export function readThrough(
  nodeBits: i32,
  table: usize,
  y: i32,
  inY: usize,
  inU: usize,
  inV: usize,
  width: i32,
  height: i32,
  lineU: usize,
  lineV: usize,
  r: usize,
  g: usize,
  b: usize,
  share: usize,
  lanes: usize,
): void {
  readChroma(y, inU, inV, width, height, lineU, lineV);
  const row = rowOf(inY, y, width, inWide);
  if (nodeBits === 5) through(false, table, row, width, lineU, lineV, r, g, b, share, lanes);
  else through(true, table, row, width, lineU, lineV, r, g, b, share, lanes);
}

// @ts-ignore: decorator
@inline
function through(
  fine: bool,
  table: usize,
  row: usize,
  width: i32,
  lineU: usize,
  lineV: usize,
  r: usize,
  g: usize,
  b: usize,
  share: usize,
  lanes: usize,
): void {
  const wide = inWide;
  const lumaShift = yShift;
  const chromaShift = cShift;
  const vKY = i16x8.splat(kY);
  const vOffset = i16x8.splat(offset);
  const vKRV = i16x8.splat(kRV);
  const vKGU = i16x8.splat(kGU);
  const vKGV = i16x8.splat(kGV);
  const vKBU = i16x8.splat(kBU);
  for (let k = 0; k < width; k += 8) {
    const x = k + 8 > width ? width - 8 : k;
    const u = chromaOf(lineU, x >> 1, chromaShift);
    const v = chromaOf(lineV, x >> 1, chromaShift);
    const l = lumaOf(row, x, wide, lumaShift, vKY, vOffset);
    lookUp(fine, true, true, table, outerOf(l, v, vKRV), greenOf(l, u, v, vKGU, vKGV), outerOf(l, u, vKBU), lanes);
    keep(lanes, x, r, g, b, share);
  }
}

/**
 * Q13 to clamped table coordinates. `narrow`: from −2/27 to 30/27, as for the first op (27/8 of the value plus a
 * sixteenth of the range), otherwise from −½ to 1½.
 */
// @ts-ignore: decorator
@inline
function coordinates(values: v128, narrow: bool): v128 {
  if (narrow) {
    const inside = i16x8.max_s(i16x8.splat(-606), i16x8.min_s(i16x8.splat(9101), values));
    const more = i16x8.q15mulr_sat_s(inside, i16x8.splat(12288));
    return i16x8.add(i16x8.add(i16x8.add(i16x8.shl(inside, 1), inside), more), i16x8.splat(2048));
  }
  const inside = i16x8.max_s(i16x8.splat(-4096), i16x8.min_s(i16x8.splat(12287), values));
  return i16x8.shl(i16x8.add(inside, i16x8.splat(4096)), 1);
}

/** Applies a table other than the first op's to lines in Q13; the fourth number to `share`. */
export function lookFixed(
  nodeBits: i32,
  table: usize,
  r: usize,
  g: usize,
  b: usize,
  share: usize,
  width: i32,
  lanes: usize,
): void {
  if (nodeBits === 5) look(false, table, r, g, b, share, width, lanes);
  else look(true, table, r, g, b, share, width, lanes);
}

// @ts-ignore: decorator
@inline
function look(
  fine: bool,
  table: usize,
  r: usize,
  g: usize,
  b: usize,
  share: usize,
  width: i32,
  lanes: usize,
): void {
  // Lines are padded by a whole block.
  for (let x = 0; x < width; x += 8) {
    const vr = coordinates(v128.load(at(r, x)), false);
    const vg = coordinates(v128.load(at(g, x)), false);
    const vb = coordinates(v128.load(at(b, x)), false);
    lookUp(fine, true, true, table, vr, vg, vb, lanes);
    keep(lanes, x, r, g, b, share);
  }
}

/**
 * Applies a table to lines in Q13, from column `from` (a multiple of 8) to `to`, mixed by `mask` (Q15) and the table's
 * fourth number: see `Join` of `region.ts`, whose numbers are in Q14 here. Skipped where the mask is zero. `narrow`:
 * the table is the first op's.
 */
export function mixFixed(
  nodeBits: i32,
  table: usize,
  r: usize,
  g: usize,
  b: usize,
  mask: usize,
  j0: i32,
  j1: i32,
  j2: i32,
  j3: i32,
  narrow: bool,
  from: i32,
  to: i32,
  lanes: usize,
): void {
  if (nodeBits === 5) mixed(false, table, r, g, b, mask, j0, j1, j2, j3, narrow, from, to, lanes);
  else mixed(true, table, r, g, b, mask, j0, j1, j2, j3, narrow, from, to, lanes);
}

// @ts-ignore: decorator
@inline
function mixed(
  fine: bool,
  table: usize,
  r: usize,
  g: usize,
  b: usize,
  mask: usize,
  j0: i32,
  j1: i32,
  j2: i32,
  j3: i32,
  narrow: bool,
  from: i32,
  to: i32,
  lanes: usize,
): void {
  const v0 = i16x8.splat(<i16>j0);
  const v1 = i16x8.splat(<i16>j1);
  const v2 = i16x8.splat(<i16>j2);
  const v3 = i16x8.splat(<i16>j3);
  const zero = i16x8.splat(0);
  const whole = i16x8.splat(16384);
  for (let x = from; x < to; x += 8) {
    const m = v128.load(at(mask, x));
    const byMask = i16x8.add(v0, i16x8.q15mulr_sat_s(m, v1));
    const byColour = i16x8.add(v2, i16x8.q15mulr_sat_s(m, v3));
    if (!v128.any_true(v128.or(byMask, byColour))) continue;
    const vr = v128.load(at(r, x));
    const vg = v128.load(at(g, x));
    const vb = v128.load(at(b, x));
    const xr = coordinates(vr, narrow);
    const xg = coordinates(vg, narrow);
    const xb = coordinates(vb, narrow);
    lookUp(fine, true, true, table, xr, xg, xb, lanes);
    const chosen = clamp01(v128.load(lanes, SHARE));
    const sum = i16x8.add(byMask, i16x8.q15mulr_sat_s(chosen, byColour));
    const inside = i16x8.min_s(whole, i16x8.max_s(zero, sum));
    // Q14 to Q15; 1 becomes the largest value, off by one invisible unit.
    const amount = i16x8.add_sat_s(inside, inside);
    const rest = i16x8.sub(i16x8.splat(32767), amount);
    v128.store(at(r, x), mixOf(vr, v128.load(lanes, RED), amount, rest));
    v128.store(at(g, x), mixOf(vg, v128.load(lanes, GREEN), amount, rest));
    v128.store(at(b, x), mixOf(vb, v128.load(lanes, BLUE), amount, rest));
  }
}

/**
 * Writes lines in Q13, clamped to 0–1, to a row of a picture; chroma with the second of two rows, or the last. `sums`:
 * four scratch lines of chroma, each with one element in front. `pattern`: as for `gradeRows`.
 */
export function writeFixed(
  y: i32,
  r: usize,
  g: usize,
  b: usize,
  outY: usize,
  outU: usize,
  outV: usize,
  width: i32,
  height: i32,
  sums: usize,
  step: usize,
  pattern: usize,
): void {
  const second = y & 1;
  const sumU = sums + 16;
  const sumV = sumU + step;
  const otherU = sumV + step;
  const otherV = otherU + step;
  const lineU = second ? otherU : sumU;
  const lineV = second ? otherV : sumV;
  const wide = outWide;
  const row = rowOf(outY, y, width, wide);
  const dither = v128.load(pattern + <usize>((y & 7) << 4));
  const vKr = i16x8.splat(kr);
  const vKg = i16x8.splat(kg);
  const vKb = i16x8.splat(kb);
  const vKu = i16x8.splat(ku);
  const vKv = i16x8.splat(kv);
  const vYScale = i16x8.splat(yScale);
  const vYOffset = i16x8.splat(yOffset);
  for (let k = 0; k < width; k += 8) {
    const x = k + 8 > width ? width - 8 : k;
    const R = clamp01(v128.load(at(r, x)));
    const G = clamp01(v128.load(at(g, x)));
    const B = clamp01(v128.load(at(b, x)));
    const luma = lumaFrom(R, G, B, vKr, vKg, vKb);
    const code = i16x8.shr_s(i16x8.add(i16x8.q15mulr_sat_s(luma, vYScale), dither), 4);
    storeSamples(row, x, i16x8.add(code, vYOffset), wide);
    v128.store(at(lineU, x), chromaFrom(B, luma, vKu));
    v128.store(at(lineV, x), chromaFrom(R, luma, vKv));
  }
  if (second || y === height - 1) {
    storeChroma(sumU, lineU, outU, y >> 1, width >> 1);
    storeChroma(sumV, lineV, outV, y >> 1, width >> 1);
  }
}
