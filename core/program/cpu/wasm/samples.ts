/**
 * Converts samples of pictures to lines of floats and back (AssemblyScript): any chroma siting and depth, whole R'G'B'
 * for scopes. Lines as in `lines.ts`. `planar.ts` is the reference implementation.
 */
import { clamp, muladd, whole } from './light';
import { at } from './lines';

/** Four samples of a plane as floats. */
// @ts-ignore: decorator
@inline
function samples(plane: usize, i: i32, wide: bool): v128 {
  return f32x4.convert_i32x4_s(
    wide
      ? i32x4.extend_low_i16x8_u(v128.load64_zero(plane + ((<usize>i) << 1)))
      : i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(plane + <usize>i))),
  );
}

/** One chroma plane's row as a weighted sum of two rows of samples, padded with the edge values. */
export function chromaLine(
  near: usize,
  far: usize,
  wide: bool,
  count: i32,
  weight: f32,
  offset: f32,
  factor: f32,
  out: usize,
): void {
  for (let i = 0; i < count; i += 4) {
    const a = samples(near, i, wide);
    const b = samples(far, i, wide);
    const sum = f32x4.add(b, f32x4.mul(f32x4.sub(a, b), f32x4.splat(weight)));
    v128.store(at(out, i), f32x4.mul(f32x4.sub(sum, f32x4.splat(offset)), f32x4.splat(factor)));
  }
  store<f32>(out - 4, load<f32>(out));
  store<f32>(at(out, count), load<f32>(at(out, count - 1)));
}

/** Four pixels' chroma from a line made by chromaLine. `across`: 0: one sample per pixel, 1: left-sited, 2: centred. */
// @ts-ignore: decorator
@inline
function chromaOf(line: usize, x: i32, across: i32): v128 {
  if (across === 0) return v128.load(at(line, x));
  const here = v128.load64_zero(at(line, x >> 1));
  const next = v128.load64_zero(at(line, x >> 1) + 4);
  if (across === 1) {
    const between = f32x4.mul(f32x4.add(here, next), f32x4.splat(0.5));
    return v128.shuffle<i32>(here, between, 0, 4, 1, 5);
  }
  const before = v128.load64_zero(at(line, x >> 1) - 4);
  const most = f32x4.mul(here, f32x4.splat(0.75));
  const even = muladd(before, f32x4.splat(0.25), most);
  const odd = muladd(next, f32x4.splat(0.25), most);
  return v128.shuffle<i32>(even, odd, 0, 4, 1, 5);
}

/** A row of luma samples, with chroma lines, as lines of R'G'B' (0 = reference black, 1 = white, not clipped). */
export function toRgb(
  plane: usize,
  wide: bool,
  count: i32,
  offset: f32,
  factor: f32,
  u: usize,
  v: usize,
  across: i32,
  rv: f32,
  gu: f32,
  gv: f32,
  bu: f32,
  r: usize,
  g: usize,
  b: usize,
): void {
  for (let x = 0; x < count; x += 4) {
    const l = f32x4.mul(f32x4.sub(samples(plane, x, wide), f32x4.splat(offset)), f32x4.splat(factor));
    const cb = chromaOf(u, x, across);
    const cr = chromaOf(v, x, across);
    v128.store(at(r, x), muladd(cr, f32x4.splat(rv), l));
    v128.store(at(g, x), muladd(cr, f32x4.splat(gv), muladd(cb, f32x4.splat(gu), l)));
    v128.store(at(b, x), muladd(cb, f32x4.splat(bu), l));
  }
}

/** A row of luma samples as a line (0 = reference black, 1 = white). */
export function lumaSamples(plane: usize, wide: bool, count: i32, offset: f32, factor: f32, out: usize): void {
  for (let x = 0; x < count; x += 4) {
    const l = f32x4.mul(f32x4.sub(samples(plane, x, wide), f32x4.splat(offset)), f32x4.splat(factor));
    v128.store(at(out, x), l);
  }
}

/** Integer sums of rows of samples, column by column. */
export function sumRows(plane: usize, wide: bool, width: i32, rows: i32, out: usize): void {
  const step = <usize>(wide ? width << 1 : width);
  for (let x = 0; x < width; x += 8) {
    let low = i32x4.splat(0);
    let high = i32x4.splat(0);
    let row = plane;
    for (let y = 0; y < rows; y += 1, row += step) {
      const s = wide
        ? v128.load(row + ((<usize>x) << 1))
        : i16x8.extend_low_i8x16_u(v128.load64_zero(row + <usize>x));
      low = i32x4.add(low, i32x4.extend_low_i16x8_u(s));
      high = i32x4.add(high, i32x4.extend_high_i16x8_u(s));
    }
    v128.store(at(out, x), low);
    v128.store(at(out, x), high, 16);
  }
}

/** Interleaved R'G'B' to lines. */
export function split(rgb: usize, count: i32, r: usize, g: usize, b: usize): void {
  for (let x = 0; x < count; x += 4) {
    const p = rgb + <usize>x * 12;
    const p0 = v128.load(p);
    const p1 = v128.load(p + 16);
    const p2 = v128.load(p + 32);
    // r0 g0 b0 r1 · g1 b1 r2 g2 · b2 r3 g3 b3
    v128.store(at(r, x), v128.shuffle<i32>(v128.shuffle<i32>(p0, p1, 0, 3, 6, 6), p2, 0, 1, 2, 5));
    v128.store(at(g, x), v128.shuffle<i32>(v128.shuffle<i32>(p0, p1, 1, 4, 7, 7), p2, 0, 1, 2, 6));
    v128.store(at(b, x), v128.shuffle<i32>(v128.shuffle<i32>(p0, p1, 2, 5, 5, 5), p2, 0, 1, 4, 7));
  }
}

/** Lines to interleaved R'G'B'. */
export function join(rgb: usize, count: i32, r: usize, g: usize, b: usize): void {
  for (let x = 0; x < count; x += 4) {
    const p = rgb + <usize>x * 12;
    const vr = v128.load(at(r, x));
    const vg = v128.load(at(g, x));
    const vb = v128.load(at(b, x));
    const rg = v128.shuffle<i32>(vr, vg, 0, 4, 1, 5);
    const more = v128.shuffle<i32>(vr, vg, 2, 6, 3, 7);
    v128.store(p, v128.shuffle<i32>(rg, vb, 0, 1, 4, 2));
    v128.store(p + 16, v128.shuffle<i32>(v128.shuffle<i32>(rg, vb, 3, 5, 5, 5), more, 0, 1, 4, 5));
    v128.store(p + 32, v128.shuffle<i32>(more, vb, 6, 2, 3, 7));
  }
}

/** Lines of R'G'B', clipped to 0–1 here, to a row of bytes: red, green, blue, 255. */
export function bytes(r: usize, g: usize, b: usize, count: i32, out: usize): void {
  const white = f32x4.splat(255);
  const half = f32x4.splat(0.5);
  const opaque = i32x4.splat(0xff000000);
  for (let x = 0; x < count; x += 4) {
    const vr = whole(muladd(clamp(v128.load(at(r, x)), 0, 1), white, half));
    const vg = whole(muladd(clamp(v128.load(at(g, x)), 0, 1), white, half));
    const vb = whole(muladd(clamp(v128.load(at(b, x)), 0, 1), white, half));
    v128.store(at(out, x), v128.or(v128.or(vr, i32x4.shl(vg, 8)), v128.or(i32x4.shl(vb, 16), opaque)));
  }
}

/** A weighted sum of three lines. */
export function lumaLine(r: usize, g: usize, b: usize, count: i32, kr: f32, kg: f32, kb: f32, out: usize): void {
  for (let x = 0; x < count; x += 4) {
    const sum = f32x4.add(f32x4.mul(v128.load(at(r, x)), f32x4.splat(kr)), f32x4.mul(v128.load(at(g, x)), f32x4.splat(kg)));
    v128.store(at(out, x), muladd(v128.load(at(b, x)), f32x4.splat(kb), sum));
  }
}

/** Writes four codes, or as many as remain in the row. */
// @ts-ignore: decorator
@inline
function put(plane: usize, i: i32, count: i32, codes: v128, wide: bool): void {
  const half = i16x8.narrow_i32x4_u(codes, codes);
  if (i + 4 <= count) {
    if (wide) v128.store64_lane(plane + ((<usize>i) << 1), half, 0);
    else v128.store32_lane(plane + <usize>i, i8x16.narrow_i16x8_u(half, half), 0);
    return;
  }
  let rest = i64x2.extract_lane(half, 0);
  for (let k = i; k < count; k += 1, rest >>= 16) {
    if (wide) store<u16>(plane + ((<usize>k) << 1), <u16>rest);
    else store<u8>(plane + <usize>k, <u8>rest);
  }
}

/**
 * Writes lines of R'G'B', clipped to 0–1, to a row of luma samples and lines of Cb and Cr. `added`: eight rounding
 * offsets, repeated over the columns, added before truncation. `second`: the chroma lines hold the previous row and
 * receive the mean of both.
 */
export function fromRgb(
  r: usize,
  g: usize,
  b: usize,
  count: i32,
  kr: f32,
  kg: f32,
  kb: f32,
  factor: f32,
  offset: f32,
  added: usize,
  plane: usize,
  wide: bool,
  u: usize,
  v: usize,
  ku: f32,
  kv: f32,
  second: bool,
): void {
  for (let x = 0; x < count; x += 4) {
    const vr = clamp(v128.load(at(r, x)), 0, 1);
    const vg = clamp(v128.load(at(g, x)), 0, 1);
    const vb = clamp(v128.load(at(b, x)), 0, 1);
    const l = muladd(vb, f32x4.splat(kb), f32x4.add(f32x4.mul(vr, f32x4.splat(kr)), f32x4.mul(vg, f32x4.splat(kg))));
    const code = f32x4.add(muladd(l, f32x4.splat(factor), f32x4.splat(offset)), v128.load(at(added, x & 7)));
    put(plane, x, count, whole(code), wide);
    const cu = f32x4.mul(f32x4.sub(vb, l), f32x4.splat(ku));
    const cv = f32x4.mul(f32x4.sub(vr, l), f32x4.splat(kv));
    const half = f32x4.splat(0.5);
    v128.store(at(u, x), second ? f32x4.mul(f32x4.add(v128.load(at(u, x)), cu), half) : cu);
    v128.store(at(v, x), second ? f32x4.mul(f32x4.add(v128.load(at(v, x)), cv), half) : cv);
  }
}

/**
 * Writes a line of chroma to a row of samples: `across` as in chromaOf. `count`: pixels; `highest`: the highest code.
 * The line is padded with the edge values.
 */
export function chromaOut(
  line: usize,
  count: i32,
  across: i32,
  factor: f32,
  offset: f32,
  highest: f32,
  plane: usize,
  wide: bool,
): void {
  store<f32>(line - 4, load<f32>(line));
  store<f32>(at(line, count), load<f32>(at(line, count - 1)));
  const samplesOut = across === 0 ? count : (count + 1) >> 1;
  for (let i = 0; i < samplesOut; i += 4) {
    let c: v128;
    if (across === 0) c = v128.load(at(line, i));
    else {
      const p = at(line, 2 * i);
      const p0 = v128.load(p);
      const p1 = v128.load(p + 16);
      const even = v128.shuffle<i32>(p0, p1, 0, 2, 4, 6);
      const odd = v128.shuffle<i32>(p0, p1, 1, 3, 5, 7);
      if (across === 1) {
        const before = v128.shuffle<i32>(v128.load(p - 4), v128.load(p + 12), 0, 2, 4, 6);
        c = muladd(f32x4.add(before, odd), f32x4.splat(0.25), f32x4.mul(even, f32x4.splat(0.5)));
      } else c = f32x4.mul(f32x4.add(even, odd), f32x4.splat(0.5));
    }
    const code = clamp(muladd(c, f32x4.splat(factor), f32x4.splat(offset + 0.5)), 0, highest);
    put(plane, i, samplesOut, whole(code), wide);
  }
}
