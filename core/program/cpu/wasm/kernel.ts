/**
 * The CPU backend's kernel for one table (AssemblyScript, WebAssembly with SIMD): planar Y'CbCr 4:2:0 through a table
 * of encoded R'G'B' to planar Y'CbCr 4:2:0, one block of pixels at a time through the whole pipeline. `gradePicture.ts`
 * is the reference implementation.
 */
import {
  BLUE,
  cShift,
  chromaFrom,
  chromaOf,
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
  storeChroma,
  storeSamples,
  yOffset,
  yScale,
  yShift,
} from './blocks';

export { setInput, setOutput } from './blocks';

/**
 * Grades rows `from` (even, inclusive) to `to` (exclusive) of a picture. `nodeBits` is 5 for a table with 33 nodes per
 * edge, 6 for 65. `pattern` holds 8 × 8 int16 offsets added to sixteenths of a luma code value before truncation: 8
 * everywhere rounds, 0–15 in dither order dithers. Width is even and at least 16.
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
  // The same code twice, each with its table's size as a constant.
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
  const cw = width >> 1;
  const step = <usize>((width << 1) + 64);
  const lineU = scratch;
  const lineV = scratch + step;
  // One element is reserved in front, for the neighbour of the first column.
  const sumU = scratch + 2 * step + 16;
  const sumV = scratch + 3 * step + 16;
  const otherU = scratch + 4 * step + 16;
  const otherV = scratch + 5 * step + 16;
  const lanes = scratch + 6 * step;

  const vCut = i16x8.splat(2);
  // Loaded once: inside the loop, globals would be loaded and splatted again for every block.
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
    readChroma(y, inU, inV, width, height, lineU, lineV);
    const rowIn = rowOf(inY, y, width, wideIn);
    const rowOut = rowOf(outY, y, width, wideOut);
    const dither = v128.load(pattern + <usize>((y & 7) << 4));
    const second = y & 1;

    for (let k = 0; k < width; k += 8) {
      // The last block overlaps the one before it, so that nothing beyond the row is touched.
      const x = k + 8 > width ? width - 8 : k;
      // To table coordinates.
      const u = chromaOf(lineU, x >> 1, chromaShift);
      const v = chromaOf(lineV, x >> 1, chromaShift);
      const l = lumaOf(rowIn, x, wideIn, lumaShift, vKY, vOffset);
      const r = outerOf(l, v, vKRV);
      const g = greenOf(l, u, v, vKGU, vKGV);
      const b = outerOf(l, u, vKBU);
      lookUp(fine, false, false, table, r, g, b, lanes);
      const R = clamp01(v128.load(lanes, RED));
      const G = clamp01(v128.load(lanes, GREEN));
      const B = clamp01(v128.load(lanes, BLUE));

      // To Y'CbCr. Truncation affects all channels equally, so only luma is corrected: differences are unaffected.
      const luma = lumaFrom(R, G, B, vKr, vKg, vKb);
      const code = i16x8.shr_s(i16x8.add(i16x8.q15mulr_sat_s(i16x8.add(luma, vCut), vYScale), dither), 4);
      storeSamples(rowOut, x, i16x8.add(code, vYOffset), wideOut);
      const cu = chromaFrom(B, luma, vKu);
      const cv = chromaFrom(R, luma, vKv);
      const at = (<usize>x) << 1;
      v128.store((second ? otherU : sumU) + at, cu);
      v128.store((second ? otherV : sumV) + at, cv);
    }
    if (second || y === height - 1) {
      storeChroma(sumU, second ? otherU : sumU, outU, y >> 1, cw);
      storeChroma(sumV, second ? otherV : sumV, outV, y >> 1, cw);
    }
  }
}

