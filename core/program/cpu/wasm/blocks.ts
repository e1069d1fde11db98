/**
 * Processes eight pixels at a time in 16-bit lanes (AssemblyScript, WebAssembly with SIMD): planar Y'CbCr 4:2:0 in and
 * out, with table lookups, for both `kernel.ts` and `fixed.ts`.
 *
 * Fixed point: Q15 is a share of 32768. A table node is four int16: R', G', B' at 8192 for 1 (Q13), and a matte.
 */

// Input: shifts that scale code values to Q15, then the inverse matrix to table coordinates, 0 … 32767.
export let inWide: bool = false;
export let yShift: i32 = 0;
export let cShift: i32 = 0;
export let cMiddle: i32 = 0;
export let kY: i16 = 0;
export let offset: i16 = 0;
export let kRV: i16 = 0;
export let kGU: i16 = 0;
export let kGV: i16 = 0;
export let kBU: i16 = 0;
// Output: luma weights, chroma factors, scales and offsets of the code values.
export let outWide: bool = false;
export let kr: i16 = 0;
export let kg: i16 = 0;
export let kb: i16 = 0;
export let ku: i16 = 0;
export let kv: i16 = 0;
export let yScale: i16 = 0;
export let yOffset: i16 = 0;
export let cScale: i16 = 0;
export let cOffset: i16 = 0;

export function setInput(wide: bool, ys: i32, cs: i32, middle: i32, y: i32, off: i32, rv: i32, gu: i32, gv: i32, bu: i32): void {
  inWide = wide;
  yShift = ys;
  cShift = cs;
  cMiddle = middle;
  kY = <i16>y;
  offset = <i16>off;
  kRV = <i16>rv;
  kGU = <i16>gu;
  kGV = <i16>gv;
  kBU = <i16>bu;
}

export function setOutput(wide: bool, r: i32, g: i32, b: i32, u: i32, v: i32, ys: i32, yo: i32, cs: i32, co: i32): void {
  outWide = wide;
  kr = <i16>r;
  kg = <i16>g;
  kb = <i16>b;
  ku = <i16>u;
  kv = <i16>v;
  yScale = <i16>ys;
  yOffset = <i16>yo;
  cScale = <i16>cs;
  cOffset = <i16>co;
}

// @ts-ignore: decorator
@inline
export function loadSamples(at: usize, index: i32, wide: bool): v128 {
  return wide ? v128.load(at + ((<usize>index) << 1)) : i16x8.extend_low_i8x16_u(v128.load64_zero(at + <usize>index));
}

// @ts-ignore: decorator
@inline
export function storeSamples(at: usize, index: i32, codes: v128, wide: bool): void {
  if (wide) v128.store(at + ((<usize>index) << 1), codes);
  else v128.store64_lane(at + <usize>index, i8x16.narrow_i16x8_u(codes, codes), 0);
}

/** One chroma plane's row, interpolated between rows, times four, centred on zero. */
function chromaRow(plane: usize, near: i32, far: i32, cw: i32, line: usize): void {
  const bytes = <usize>(inWide ? cw << 1 : cw);
  const a = plane + <usize>near * bytes;
  const b = plane + <usize>far * bytes;
  const middle = i16x8.splat(<i16>(cMiddle << 2));
  for (let k = 0; k < cw; k += 8) {
    const i = k + 8 > cw ? cw - 8 : k;
    const n = loadSamples(a, i, inWide);
    const sum = i16x8.add(i16x8.add(i16x8.shl(n, 1), n), loadSamples(b, i, inWide));
    v128.store(line + ((<usize>i) << 1), i16x8.sub(sum, middle));
  }
  // The last sample is repeated.
  const end = line + ((<usize>cw) << 1);
  store<i16>(end, load<i16>(end - 2));
}

/**
 * Eight pixels' chroma from a row made by chromaRow: on even columns the sample itself, on odd ones the mean of two;
 * Q15.
 */
// @ts-ignore: decorator
@inline
export function chromaOf(line: usize, i: i32, shift: i32): v128 {
  const at = line + ((<usize>i) << 1);
  const here = v128.load(at);
  const between = i16x8.add(here, v128.load(at + 2));
  return i16x8.shl(v128.shuffle<i16>(i16x8.shl(here, 1), between, 0, 8, 1, 9, 2, 10, 3, 11), shift);
}

/** Chroma of a row of a picture, interpolated vertically. */
// @ts-ignore: decorator
@inline
export function readChroma(y: i32, inU: usize, inV: usize, width: i32, height: i32, lineU: usize, lineV: usize): void {
  const cw = width >> 1;
  const ch = (height + 1) >> 1;
  const near = y >> 1;
  const wanted = y & 1 ? near + 1 : near - 1;
  const far = wanted < 0 ? 0 : wanted >= ch ? ch - 1 : wanted;
  chromaRow(inU, near, far, cw, lineU);
  chromaRow(inV, near, far, cw, lineV);
}

/** Address of a plane's row. */
// @ts-ignore: decorator
@inline
export function rowOf(plane: usize, y: i32, width: i32, wide: bool): usize {
  return plane + <usize>y * <usize>(wide ? width << 1 : width);
}

/** Eight pixels' luma samples to table coordinates. */
// @ts-ignore: decorator
@inline
export function lumaOf(row: usize, x: i32, wide: bool, shift: i32, factor: v128, from: v128): v128 {
  return i16x8.add_sat_s(i16x8.q15mulr_sat_s(i16x8.shl(loadSamples(row, x, wide), shift), factor), from);
}

/** Red or blue: luma plus scaled chroma. */
// @ts-ignore: decorator
@inline
export function outerOf(luma: v128, chroma: v128, factor: v128): v128 {
  return i16x8.max_s(i16x8.splat(0), i16x8.add_sat_s(luma, i16x8.q15mulr_sat_s(chroma, factor)));
}

/** Green. Chroma is summed first: above white a partial sum could saturate where the whole does not. */
// @ts-ignore: decorator
@inline
export function greenOf(luma: v128, u: v128, v: v128, byU: v128, byV: v128): v128 {
  const both = i16x8.add(i16x8.q15mulr_sat_s(u, byU), i16x8.q15mulr_sat_s(v, byV));
  return i16x8.max_s(i16x8.splat(0), i16x8.add_sat_s(luma, both));
}

/** A channel of eight pixels clamped to 0–1, Q13 to Q15. */
// @ts-ignore: decorator
@inline
export function clamp01(values: v128): v128 {
  const inside = i16x8.min_s(i16x8.splat(8191), i16x8.max_s(i16x8.splat(0), values));
  return i16x8.shl(inside, 2);
}

/** Luma of R', G', B' in Q15. */
// @ts-ignore: decorator
@inline
export function lumaFrom(r: v128, g: v128, b: v128, byR: v128, byG: v128, byB: v128): v128 {
  return i16x8.add_sat_s(
    i16x8.add_sat_s(i16x8.q15mulr_sat_s(r, byR), i16x8.q15mulr_sat_s(g, byG)),
    i16x8.q15mulr_sat_s(b, byB),
  );
}

/** A difference from luma as four times an unscaled chroma sample. */
// @ts-ignore: decorator
@inline
export function chromaFrom(channel: v128, luma: v128, factor: v128): v128 {
  return i16x8.shr_s(i16x8.q15mulr_sat_s(i16x8.sub_sat_s(channel, luma), factor), 2);
}

/**
 * Offsets in the lookup buffer, 224 bytes: addresses of eight pixels' first three corners, and the weights in pairs;
 * then the results: R', G', B' and the fourth number.
 */
const BASE: usize = 0;
const FIRST: usize = 32;
const SECOND: usize = 64;
const WEIGHTS_A: usize = 96;
const WEIGHTS_B: usize = 128;
export const RED: usize = 160;
export const GREEN: usize = 176;
export const BLUE: usize = 192;
export const SHARE: usize = 208;

/** Byte offset from a cell's first corner to its last: a constant, encoded in the instruction. */
const LAST_33: usize = 8 * (1 + 33 + 33 * 33);
const LAST_65: usize = 8 * (1 + 65 + 65 * 65);

/**
 * One pixel: its four corners blended; truncated or, with half a unit added, rounded. Lanes are read back from memory,
 * which is cheaper than extracting them.
 */
// @ts-ignore: decorator
@inline
function blend(fine: bool, rounds: bool, lane: usize): v128 {
  const q = <usize>load<u32>(lane, BASE);
  const last = fine ? v128.load64_zero(q, LAST_65) : v128.load64_zero(q, LAST_33);
  const a = v128.shuffle<i16>(v128.load64_zero(q), v128.load64_zero(<usize>load<u32>(lane, FIRST)), 0, 8, 1, 9, 2, 10, 3, 11);
  const b = v128.shuffle<i16>(v128.load64_zero(<usize>load<u32>(lane, SECOND)), last, 0, 8, 1, 9, 2, 10, 3, 11);
  let sum = i32x4.add(
    i32x4.dot_i16x8_s(a, v128.load32_splat(lane, WEIGHTS_A)),
    i32x4.dot_i16x8_s(b, v128.load32_splat(lane, WEIGHTS_B)),
  );
  if (rounds) sum = i32x4.add(sum, i32x4.splat(fine ? 256 : 512));
  return fine ? i32x4.shr_s(sum, 9) : i32x4.shr_s(sum, 10);
}


/**
 * Looks up eight pixels, tetrahedral; `lanes` then holds the results at {@link RED}, {@link GREEN}, {@link BLUE} and,
 * with `shares`, at {@link SHARE}. `r`, `g`, `b`: table coordinates, 0 … 32767. `fine`: 65 nodes per edge, else 33.
 * `rounds`: results are rounded, else truncated.
 */
// @ts-ignore: decorator
@inline
export function lookUp(
  fine: bool,
  rounds: bool,
  shares: bool,
  table: usize,
  r: v128,
  g: v128,
  b: v128,
  lanes: usize,
): void {
  const nodeBits = fine ? 6 : 5;
  const bits = 15 - nodeBits;
  const unit: i32 = 1 << bits;
  const mask = i16x8.splat(<i16>(unit - 1));
  const one = i16x8.splat(<i16>unit);
  const nodes = (1 << nodeBits) + 1;
  const dG = nodes;
  const dB = nodes * nodes;
  // Strides between nodes in bytes, eight per node; they fit into sixteen unsigned bits.
  const bR = 8;
  const bG = 8 * dG;
  const bB = 8 * dB;
  const vB = i16x8.splat(<i16>bB);
  const flipGB = i16x8.splat(<i16>(bG ^ bB));
  const vR = i16x8.splat(<i16>bR);
  // Sum of all strides but one.
  const lessR = i16x8.splat(<i16>(bG + bB));
  const lessB = i16x8.splat(<i16>(bR + bG));
  const flipLessRG = i16x8.splat(<i16>((bR + bB) ^ (bG + bB)));
  const vRG = i32x4.splat(bR | (bG << 16));
  // A signed product would overflow.
  const vHalfB = i16x8.splat(<i16>(bB >> 1));

  // The tetrahedron: largest, middle and smallest fraction.
  const fr = v128.and(r, mask);
  const fg = v128.and(g, mask);
  const fb = v128.and(b, mask);
  const highest = i16x8.max_s(fr, i16x8.max_s(fg, fb));
  const lowest = i16x8.min_s(fr, i16x8.min_s(fg, fb));
  const middle = i16x8.sub(i16x8.sub(i16x8.add(fr, i16x8.add(fg, fb)), highest), lowest);
  const w0 = i16x8.sub(one, highest);
  const w1 = i16x8.sub(highest, middle);
  const w2 = i16x8.sub(middle, lowest);
  // Selects one of two by flipping the bits in which they differ.
  const notRed = v128.xor(vB, v128.and(flipGB, i16x8.eq(highest, fg)));
  const off1 = v128.xor(notRed, v128.and(v128.xor(notRed, vR), i16x8.eq(highest, fr)));
  // If all three are equal red is the largest, and blue must be the smallest.
  const notBlue = v128.xor(lessR, v128.and(flipLessRG, i16x8.eq(lowest, fg)));
  const off2 = v128.xor(notBlue, v128.and(v128.xor(notBlue, lessB), i16x8.eq(lowest, fb)));

  const ir = i16x8.shr_u(r, bits);
  const ig = i16x8.shr_u(g, bits);
  const ib = i16x8.shr_u(b, bits);
  const rgLow = v128.shuffle<i16>(ir, ig, 0, 8, 1, 9, 2, 10, 3, 11);
  const rgHigh = v128.shuffle<i16>(ir, ig, 4, 12, 5, 13, 6, 14, 7, 15);
  const bbLow = v128.shuffle<i16>(ib, ib, 0, 8, 1, 9, 2, 10, 3, 11);
  const bbHigh = v128.shuffle<i16>(ib, ib, 4, 12, 5, 13, 6, 14, 7, 15);
  // A sum of 16-bit products is cheaper than a 32-bit product.
  const nodeLow = i32x4.add(i32x4.dot_i16x8_s(rgLow, vRG), i32x4.dot_i16x8_s(bbLow, vHalfB));
  const nodeHigh = i32x4.add(i32x4.dot_i16x8_s(rgHigh, vRG), i32x4.dot_i16x8_s(bbHigh, vHalfB));
  const baseLow = i32x4.add(nodeLow, i32x4.splat(<i32>table));
  const baseHigh = i32x4.add(nodeHigh, i32x4.splat(<i32>table));
  v128.store(lanes, baseLow, BASE);
  v128.store(lanes, baseHigh, BASE + 16);
  v128.store(lanes, i32x4.add(baseLow, i32x4.extend_low_i16x8_u(off1)), FIRST);
  v128.store(lanes, i32x4.add(baseHigh, i32x4.extend_high_i16x8_u(off1)), FIRST + 16);
  v128.store(lanes, i32x4.add(baseLow, i32x4.extend_low_i16x8_u(off2)), SECOND);
  v128.store(lanes, i32x4.add(baseHigh, i32x4.extend_high_i16x8_u(off2)), SECOND + 16);
  v128.store(lanes, v128.shuffle<i16>(w0, w1, 0, 8, 1, 9, 2, 10, 3, 11), WEIGHTS_A);
  v128.store(lanes, v128.shuffle<i16>(w0, w1, 4, 12, 5, 13, 6, 14, 7, 15), WEIGHTS_A + 16);
  v128.store(lanes, v128.shuffle<i16>(w2, lowest, 0, 8, 1, 9, 2, 10, 3, 11), WEIGHTS_B);
  v128.store(lanes, v128.shuffle<i16>(w2, lowest, 4, 12, 5, 13, 6, 14, 7, 15), WEIGHTS_B + 16);

  const p0 = blend(fine, rounds, lanes);
  const p1 = blend(fine, rounds, lanes + 4);
  const p2 = blend(fine, rounds, lanes + 8);
  const p3 = blend(fine, rounds, lanes + 12);
  const p4 = blend(fine, rounds, lanes + 16);
  const p5 = blend(fine, rounds, lanes + 20);
  const p6 = blend(fine, rounds, lanes + 24);
  const p7 = blend(fine, rounds, lanes + 28);

  // Transposes eight pixels of R, G, B, matte to one vector each, with single-instruction shuffles.
  const q0 = i16x8.narrow_i32x4_s(p0, p2);
  const q1 = i16x8.narrow_i32x4_s(p1, p3);
  const q2 = i16x8.narrow_i32x4_s(p4, p6);
  const q3 = i16x8.narrow_i32x4_s(p5, p7);
  const t0 = v128.shuffle<i16>(q0, q1, 0, 8, 1, 9, 2, 10, 3, 11);
  const t1 = v128.shuffle<i16>(q0, q1, 4, 12, 5, 13, 6, 14, 7, 15);
  const t2 = v128.shuffle<i16>(q2, q3, 0, 8, 1, 9, 2, 10, 3, 11);
  const t3 = v128.shuffle<i16>(q2, q3, 4, 12, 5, 13, 6, 14, 7, 15);
  const rg0 = v128.shuffle<i32>(t0, t1, 0, 4, 1, 5);
  const rg1 = v128.shuffle<i32>(t2, t3, 0, 4, 1, 5);
  const b0 = v128.shuffle<i32>(t0, t1, 2, 6, 3, 7);
  const b1 = v128.shuffle<i32>(t2, t3, 2, 6, 3, 7);
  v128.store(lanes, v128.shuffle<i64>(rg0, rg1, 0, 2), RED);
  v128.store(lanes, v128.shuffle<i64>(rg0, rg1, 1, 3), GREEN);
  v128.store(lanes, v128.shuffle<i64>(b0, b1, 0, 2), BLUE);
  if (shares) v128.store(lanes, v128.shuffle<i64>(b0, b1, 1, 3), SHARE);
}

/** Filters chroma of two rows to the even columns (1, 2, 1) and stores it. */
export function storeChroma(one: usize, two: usize, plane: usize, row: i32, cw: i32): void {
  store<i16>(one - 2, load<i16>(one));
  store<i16>(two - 2, load<i16>(two));
  const at = plane + <usize>row * <usize>(outWide ? cw << 1 : cw);
  for (let k = 0; k < cw; k += 8) {
    const i = k + 8 > cw ? cw - 8 : k;
    const p = (<usize>i) << 2;
    const a = i16x8.add_sat_s(spread(one + p), spread(two + p));
    const b = i16x8.add_sat_s(spread(one + p + 16), spread(two + p + 16));
    const even = v128.shuffle<i16>(a, b, 0, 2, 4, 6, 8, 10, 12, 14);
    storeSamples(at, i, i16x8.add(i16x8.q15mulr_sat_s(even, i16x8.splat(cScale)), i16x8.splat(cOffset)), outWide);
  }
}

/** Each column with its neighbours: 1, 2, 1. */
// @ts-ignore: decorator
@inline
function spread(p: usize): v128 {
  return i16x8.add(i16x8.add(v128.load(p - 2), v128.load(p + 2)), i16x8.shl(v128.load(p), 1));
}
