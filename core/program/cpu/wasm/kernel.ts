/**
 * The CPU backend's kernel (AssemblyScript, WebAssembly with SIMD): planar Y'CbCr 4:2:0 through a table of encoded
 * R'G'B' to planar Y'CbCr 4:2:0, eight pixels at a time in 16-bit lanes. `gradePicture.ts` is its oracle.
 *
 * Fixed point: Q15 is a share of 32768. A table node is four int16: R', G', B' at 8192 for 1, and a matte.
 */

// Input: shifts that bring code values to Q15, then the inverse matrix into table coordinates, 0 … 32767.
let inWide: bool = false;
let yShift: i32 = 0;
let cShift: i32 = 0;
let cMiddle: i32 = 0;
let kY: i16 = 0;
let offset: i16 = 0;
let kRV: i16 = 0;
let kGU: i16 = 0;
let kGV: i16 = 0;
let kBU: i16 = 0;
// Output: luma weights, chroma factors, scales and offsets of the code values.
let outWide: bool = false;
let kr: i16 = 0;
let kg: i16 = 0;
let kb: i16 = 0;
let ku: i16 = 0;
let kv: i16 = 0;
let yScale: i16 = 0;
let yOffset: i16 = 0;
let cScale: i16 = 0;
let cOffset: i16 = 0;

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
function loadSamples(at: usize, index: i32, wide: bool): v128 {
  return wide ? v128.load(at + ((<usize>index) << 1)) : i16x8.extend_low_i8x16_u(v128.load64_zero(at + <usize>index));
}

// @ts-ignore: decorator
@inline
function storeSamples(at: usize, index: i32, codes: v128, wide: bool): void {
  if (wide) v128.store(at + ((<usize>index) << 1), codes);
  else v128.store64_lane(at + <usize>index, i8x16.narrow_i16x8_u(codes, codes), 0);
}

/** One chroma plane's row, interpolated between rows, times four, without its middle. */
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
  // Beyond the end the last sample goes on.
  const end = line + ((<usize>cw) << 1);
  store<i16>(end, load<i16>(end - 2));
}

/** Eight pixels' chroma from a row made by chromaRow: on even columns the sample, on odd ones between two; Q15. */
// @ts-ignore: decorator
@inline
function chromaOf(line: usize, i: i32, shift: i32): v128 {
  const at = line + ((<usize>i) << 1);
  const here = v128.load(at);
  const between = i16x8.add(here, v128.load(at + 2));
  return i16x8.shl(v128.shuffle<i16>(i16x8.shl(here, 1), between, 0, 8, 1, 9, 2, 10, 3, 11), shift);
}

/** Places of eight pixels' numbers in the lanes: addresses of the first three corners, and the weights in pairs. */
const BASE: usize = 0;
const FIRST: usize = 32;
const SECOND: usize = 64;
const WEIGHTS_A: usize = 96;
const WEIGHTS_B: usize = 128;

/** From a cell's first corner to its last, in bytes: known here, they go into the instruction. */
const LAST_33: usize = 8 * (1 + 33 + 33 * 33);
const LAST_65: usize = 8 * (1 + 65 + 65 * 65);

/**
 * One pixel: its four corners blended, what is below a unit cut off. Lanes are read back from memory, which is cheaper
 * than taking them apart.
 */
// @ts-ignore: decorator
@inline
function blend(fine: bool, lane: usize): v128 {
  const q = <usize>load<u32>(lane, BASE);
  const last = fine ? v128.load64_zero(q, LAST_65) : v128.load64_zero(q, LAST_33);
  const a = v128.shuffle<i16>(v128.load64_zero(q), v128.load64_zero(<usize>load<u32>(lane, FIRST)), 0, 8, 1, 9, 2, 10, 3, 11);
  const b = v128.shuffle<i16>(v128.load64_zero(<usize>load<u32>(lane, SECOND)), last, 0, 8, 1, 9, 2, 10, 3, 11);
  const sum = i32x4.add(
    i32x4.dot_i16x8_s(a, v128.load32_splat(lane, WEIGHTS_A)),
    i32x4.dot_i16x8_s(b, v128.load32_splat(lane, WEIGHTS_B)),
  );
  return fine ? i32x4.shr_s(sum, 9) : i32x4.shr_s(sum, 10);
}

/** A channel of eight pixels held to 0–1; Q15, without the half of a unit that was cut off. */
// @ts-ignore: decorator
@inline
function held(values: v128): v128 {
  const inside = i16x8.min_s(i16x8.splat(8191), i16x8.max_s(i16x8.splat(0), values));
  return i16x8.shl(inside, 2);
}

/**
 * Grades rows `from` (even) up to, not with, `to` of a picture. `nodeBits` is 5 for a table with 33 nodes an edge, 6
 * for 65. `pattern` holds 8 × 8 int16 that are added to sixteenths of a luma code value before the rest is cut off: 8
 * everywhere rounds, a spread of 0–15 dithers. Width is even and at least 16.
 */
export function gradeRows(
  table: usize,
  nodeBits: i32,
  inY: usize,
  inU: usize,
  inV: usize,
  outY: usize,
  outU: usize,
  outV: usize,
  width: i32,
  height: i32,
  from: i32,
  to: i32,
  scratch: usize,
  pattern: usize,
): void {
  // Twice the same code, each with its table's size as a constant.
  if (nodeBits === 5) rows(false, table, inY, inU, inV, outY, outU, outV, width, height, from, to, scratch, pattern);
  else rows(true, table, inY, inU, inV, outY, outU, outV, width, height, from, to, scratch, pattern);
}

// @ts-ignore: decorator
@inline
function rows(
  fine: bool,
  table: usize,
  inY: usize,
  inU: usize,
  inV: usize,
  outY: usize,
  outU: usize,
  outV: usize,
  width: i32,
  height: i32,
  from: i32,
  to: i32,
  scratch: usize,
  pattern: usize,
): void {
  const nodeBits = fine ? 6 : 5;
  const cw = width >> 1;
  const ch = (height + 1) >> 1;
  const step = <usize>((width << 1) + 64);
  const lineU = scratch;
  const lineV = scratch + step;
  // One element is kept free in front, for the neighbour of the first column.
  const sumU = scratch + 2 * step + 16;
  const sumV = scratch + 3 * step + 16;
  const otherU = scratch + 4 * step + 16;
  const otherV = scratch + 5 * step + 16;
  const lanes = scratch + 6 * step;

  const bits = 15 - nodeBits;
  const unit: i32 = 1 << bits;
  const mask = i16x8.splat(<i16>(unit - 1));
  const one = i16x8.splat(<i16>unit);
  const nodes = (1 << nodeBits) + 1;
  const dG = nodes;
  const dB = nodes * nodes;
  // Steps between nodes in bytes, eight for a node; sixteen bits without a sign hold them.
  const bR = 8;
  const bG = 8 * dG;
  const bB = 8 * dB;
  const vB = i16x8.splat(<i16>bB);
  const flipGB = i16x8.splat(<i16>(bG ^ bB));
  const vR = i16x8.splat(<i16>bR);
  // All steps but one.
  const lessR = i16x8.splat(<i16>(bG + bB));
  const lessB = i16x8.splat(<i16>(bR + bG));
  const flipLessRG = i16x8.splat(<i16>((bR + bB) ^ (bG + bB)));
  const vRG = i32x4.splat(bR | (bG << 16));
  // A product of signed numbers would not hold the whole step.
  const vHalfB = i16x8.splat(<i16>(bB >> 1));
  const vTable = i32x4.splat(<i32>table);
  const zero = i16x8.splat(0);
  const vCut = i16x8.splat(2);
  // Read once: in the loop a module's variables would be read and spread over the lanes again for every block.
  const vKY = i16x8.splat(kY);
  const vOffset = i16x8.splat(offset);
  const vKRV = i16x8.splat(kRV);
  const vKGU = i16x8.splat(kGU);
  const vKGV = i16x8.splat(kGV);
  const vKBU = i16x8.splat(kBU);
  const vKr = i16x8.splat(kr);
  const vKg = i16x8.splat(kg);
  const vKb = i16x8.splat(kb);
  const vKu = i16x8.splat(ku);
  const vKv = i16x8.splat(kv);
  const vYScale = i16x8.splat(yScale);
  const vYOffset = i16x8.splat(yOffset);
  const wideIn = inWide;
  const wideOut = outWide;
  const chromaShift = cShift;
  const lumaShift = yShift;

  for (let y = from; y < to; y += 1) {
    const near = y >> 1;
    const wanted = y & 1 ? near + 1 : near - 1;
    const far = wanted < 0 ? 0 : wanted >= ch ? ch - 1 : wanted;
    chromaRow(inU, near, far, cw, lineU);
    chromaRow(inV, near, far, cw, lineV);
    const rowIn = inY + <usize>y * <usize>(wideIn ? width << 1 : width);
    const rowOut = outY + <usize>y * <usize>(wideOut ? width << 1 : width);
    const dither = v128.load(pattern + <usize>((y & 7) << 4));
    const second = y & 1;

    for (let k = 0; k < width; k += 8) {
      // The last block reaches back over the one before it, so that nothing beyond the row is touched.
      const x = k + 8 > width ? width - 8 : k;
      // To table coordinates.
      const u = chromaOf(lineU, x >> 1, chromaShift);
      const v = chromaOf(lineV, x >> 1, chromaShift);
      const l = i16x8.add_sat_s(i16x8.q15mulr_sat_s(i16x8.shl(loadSamples(rowIn, x, wideIn), lumaShift), vKY), vOffset);
      const r = i16x8.max_s(zero, i16x8.add_sat_s(l, i16x8.q15mulr_sat_s(v, vKRV)));
      // Chroma first: beyond white a part of the sum would run into the end that the whole does not reach.
      const both = i16x8.add(i16x8.q15mulr_sat_s(u, vKGU), i16x8.q15mulr_sat_s(v, vKGV));
      const g = i16x8.max_s(zero, i16x8.add_sat_s(l, both));
      const b = i16x8.max_s(zero, i16x8.add_sat_s(l, i16x8.q15mulr_sat_s(u, vKBU)));

      // The tetrahedron: largest, middle and smallest fraction.
      const fr = v128.and(r, mask);
      const fg = v128.and(g, mask);
      const fb = v128.and(b, mask);
      const most = i16x8.max_s(fr, i16x8.max_s(fg, fb));
      const least = i16x8.min_s(fr, i16x8.min_s(fg, fb));
      const middle = i16x8.sub(i16x8.sub(i16x8.add(fr, i16x8.add(fg, fb)), most), least);
      const w0 = i16x8.sub(one, most);
      const w1 = i16x8.sub(most, middle);
      const w2 = i16x8.sub(middle, least);
      // A choice of two is a flip of the bits in which they differ.
      const notRed = v128.xor(vB, v128.and(flipGB, i16x8.eq(most, fg)));
      const off1 = v128.xor(notRed, v128.and(v128.xor(notRed, vR), i16x8.eq(most, fr)));
      // Where all three are alike red is the largest, and blue must be the smallest.
      const notBlue = v128.xor(lessR, v128.and(flipLessRG, i16x8.eq(least, fg)));
      const off2 = v128.xor(notBlue, v128.and(v128.xor(notBlue, lessB), i16x8.eq(least, fb)));

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
      const baseLow = i32x4.add(nodeLow, vTable);
      const baseHigh = i32x4.add(nodeHigh, vTable);
      v128.store(lanes, baseLow, BASE);
      v128.store(lanes, baseHigh, BASE + 16);
      v128.store(lanes, i32x4.add(baseLow, i32x4.extend_low_i16x8_u(off1)), FIRST);
      v128.store(lanes, i32x4.add(baseHigh, i32x4.extend_high_i16x8_u(off1)), FIRST + 16);
      v128.store(lanes, i32x4.add(baseLow, i32x4.extend_low_i16x8_u(off2)), SECOND);
      v128.store(lanes, i32x4.add(baseHigh, i32x4.extend_high_i16x8_u(off2)), SECOND + 16);
      v128.store(lanes, v128.shuffle<i16>(w0, w1, 0, 8, 1, 9, 2, 10, 3, 11), WEIGHTS_A);
      v128.store(lanes, v128.shuffle<i16>(w0, w1, 4, 12, 5, 13, 6, 14, 7, 15), WEIGHTS_A + 16);
      v128.store(lanes, v128.shuffle<i16>(w2, least, 0, 8, 1, 9, 2, 10, 3, 11), WEIGHTS_B);
      v128.store(lanes, v128.shuffle<i16>(w2, least, 4, 12, 5, 13, 6, 14, 7, 15), WEIGHTS_B + 16);

      const p0 = blend(fine, lanes);
      const p1 = blend(fine, lanes + 4);
      const p2 = blend(fine, lanes + 8);
      const p3 = blend(fine, lanes + 12);
      const p4 = blend(fine, lanes + 16);
      const p5 = blend(fine, lanes + 20);
      const p6 = blend(fine, lanes + 24);
      const p7 = blend(fine, lanes + 28);

      // Eight pixels of R, G, B, matte to three vectors, by steps that are one instruction each; held to 0–1.
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
      const R = held(v128.shuffle<i64>(rg0, rg1, 0, 2));
      const G = held(v128.shuffle<i64>(rg0, rg1, 1, 3));
      const B = held(v128.shuffle<i64>(b0, b1, 0, 2));

      // To Y'CbCr. What was cut off of all channels is missing in luma alone: differences are as they were.
      const luma = i16x8.add_sat_s(
        i16x8.add_sat_s(i16x8.q15mulr_sat_s(R, vKr), i16x8.q15mulr_sat_s(G, vKg)),
        i16x8.q15mulr_sat_s(B, vKb),
      );
      const code = i16x8.shr_s(i16x8.add(i16x8.q15mulr_sat_s(i16x8.add(luma, vCut), vYScale), dither), 4);
      storeSamples(rowOut, x, i16x8.add(code, vYOffset), wideOut);
      const cu = i16x8.shr_s(i16x8.q15mulr_sat_s(i16x8.sub_sat_s(B, luma), vKu), 2);
      const cv = i16x8.shr_s(i16x8.q15mulr_sat_s(i16x8.sub_sat_s(R, luma), vKv), 2);
      const at = (<usize>x) << 1;
      v128.store((second ? otherU : sumU) + at, cu);
      v128.store((second ? otherV : sumV) + at, cv);
    }
    if (second || y === height - 1) {
      storeChroma(sumU, second ? otherU : sumU, outU, near, cw);
      storeChroma(sumV, second ? otherV : sumV, outV, near, cw);
    }
  }
}

/** Averages chroma of two rows onto the even columns (1, 2, 1) and stores it. */
function storeChroma(one: usize, two: usize, plane: usize, row: i32, cw: i32): void {
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
