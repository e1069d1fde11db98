/**
 * Rows of pictures in floats (AssemblyScript, WebAssembly with SIMD): what the fast kernel does not take (spatial steps,
 * other chroma sites and depths, whole R'G'B' for scopes). Lines are planes of f32, one for each channel, on multiples
 * of 16 bytes, with room for 16 bytes more behind their end and in front. `gradePicture.ts` is the oracle.
 */
import { clamp, least, mix, most, muladd, smooth, whole } from './light';

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

// @ts-ignore: decorator
@inline
function at(line: usize, i: i32): usize {
  return line + ((<usize>i) << 2);
}

/** One chroma plane's row from two rows of samples with a weight each; its ends go on. */
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

/** Four pixels' chroma from a line made by chromaLine. `across`: 0 every pixel has its own, 1 left-sited, 2 between. */
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

/** Sums of rows of samples, column by column, as whole numbers. */
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

export function fill(line: usize, count: i32, value: f32): void {
  if (value === 0) memory.fill(line, 0, <usize>((count + 3) & ~3) << 2);
  else for (let x = 0; x < count; x += 4) v128.store(at(line, x), f32x4.splat(value));
}

/** Pixels of a stretched row that have their least and largest number beside it; a multiple of four. */
const CHUNK: i32 = 32;

/**
 * A row of cells interpolated to every pixel of a picture's row. `first` is where the first pixel lies among the cells, from
 * the middle of the first one, `scale` how far the next one is; beyond the ends it is all one. A cell more is read, and
 * must hold a number. `bounds`: the least and the largest number of every {@link CHUNK} pixels in turn.
 */
export function stretchLine(
  cells: usize,
  width: i32,
  first: f32,
  scale: f32,
  count: i32,
  out: usize,
  bounds: usize,
): void {
  for (let from = 0, bound = bounds; from < count; from += CHUNK, bound += 8) {
    let low = f32x4.splat(f32.MAX_VALUE);
    let high = f32x4.splat(-f32.MAX_VALUE);
    const to = min(count, from + CHUNK);
    for (let x = from; x < to; x += 4) {
      const u = clamp(pixelPlaces(x, first, scale), 0, <f32>(width - 1));
      const before = f32x4.trunc(u);
      const cell = i32x4.shl(whole(before), 2);
      const d01 = v128.shuffle<i32>(
        v128.load64_zero(cells + <usize>i32x4.extract_lane(cell, 0)),
        v128.load64_zero(cells + <usize>i32x4.extract_lane(cell, 1)),
        0,
        4,
        1,
        5,
      );
      const d23 = v128.shuffle<i32>(
        v128.load64_zero(cells + <usize>i32x4.extract_lane(cell, 2)),
        v128.load64_zero(cells + <usize>i32x4.extract_lane(cell, 3)),
        0,
        4,
        1,
        5,
      );
      const here = v128.shuffle<i64>(d01, d23, 0, 2);
      const next = v128.shuffle<i64>(d01, d23, 1, 3);
      const d = mix(here, next, f32x4.sub(u, before));
      low = least(low, d);
      high = most(high, d);
      v128.store(at(out, x), d);
    }
    low = least(low, v128.shuffle<i32>(low, low, 2, 3, 2, 3));
    high = most(high, v128.shuffle<i32>(high, high, 2, 3, 2, 3));
    store<f32>(bound, f32x4.extract_lane(least(low, v128.shuffle<i32>(low, low, 1, 1, 1, 1)), 0));
    store<f32>(bound, f32x4.extract_lane(most(high, v128.shuffle<i32>(high, high, 1, 1, 1, 1)), 0), 4);
  }
}

/** The same for cells of two numbers, to a line each. `period`: cells after which they begin anew; 0: they end. */
export function stretchPairs(
  cells: usize,
  width: i32,
  period: f32,
  first: f32,
  scale: f32,
  count: i32,
  a: usize,
  b: usize,
): void {
  const turn = f32x4.splat(period);
  for (let x = 0; x < count; x += 4) {
    let u = pixelPlaces(x, first, scale);
    if (period > 0) u = f32x4.sub(u, f32x4.mul(f32x4.floor(f32x4.div(u, turn)), turn));
    u = clamp(u, 0, <f32>(width - 1));
    const before = f32x4.trunc(u);
    const f = f32x4.sub(u, before);
    const cell = i32x4.shl(whole(before), 3);
    const k0 = between(cells + <usize>i32x4.extract_lane(cell, 0), v128.shuffle<i32>(f, f, 0, 0, 0, 0));
    const k1 = between(cells + <usize>i32x4.extract_lane(cell, 1), v128.shuffle<i32>(f, f, 1, 1, 1, 1));
    const k2 = between(cells + <usize>i32x4.extract_lane(cell, 2), v128.shuffle<i32>(f, f, 2, 2, 2, 2));
    const k3 = between(cells + <usize>i32x4.extract_lane(cell, 3), v128.shuffle<i32>(f, f, 3, 3, 3, 3));
    const k01 = v128.shuffle<i32>(k0, k1, 0, 4, 1, 5);
    const k23 = v128.shuffle<i32>(k2, k3, 0, 4, 1, 5);
    v128.store(at(a, x), v128.shuffle<i64>(k01, k23, 0, 2));
    v128.store(at(b, x), v128.shuffle<i64>(k01, k23, 1, 3));
  }
}

/** Where four pixels lie among cells, which may have ended before. */
// @ts-ignore: decorator
@inline
function pixelPlaces(x: i32, first: f32, scale: f32): v128 {
  return muladd(f32x4.add(f32x4.splat(<f32>x), f32x4(0, 1, 2, 3)), f32x4.splat(scale), f32x4.splat(first));
}

/** Both coefficients between a cell and the next one, in the first two lanes. */
// @ts-ignore: decorator
@inline
function between(cell: usize, f: v128): v128 {
  const here = v128.load(cell);
  return muladd(f, f32x4.sub(v128.shuffle<i32>(here, here, 2, 3, 2, 3), here), here);
}

/**
 * A row of a map, as `mapRow` of `map.ts`: between the stretched rows of both coefficients above and below, which each lie
 * one behind the other, `step` apart. `down` is how far it is to the lower one.
 */
export function mapLine(top: usize, low: usize, step: usize, down: f32, luma: usize, count: i32, out: usize): void {
  const t = f32x4.splat(down);
  for (let x = 0; x < count; x += 4) {
    const a = mix(v128.load(at(top, x)), v128.load(at(low, x)), t);
    const b = mix(v128.load(at(top + step, x)), v128.load(at(low + step, x)), t);
    v128.store(at(out, x), clamp(muladd(a, v128.load(at(luma, x)), b), 0, 1));
  }
}

/**
 * A row of one shape of a region, as `maskRow` of `mask.ts`: `top` and `low` are the stretched rows of distances above and
 * below, with their bounds `step` behind them, `down` how far it is to the lower one. `flip`: outside counts as chosen.
 * `adds`: what is chosen already stays, else both must hold.
 */
export function maskLine(
  top: usize,
  low: usize,
  step: usize,
  down: f32,
  slope: f32,
  flip: bool,
  adds: bool,
  count: i32,
  out: usize,
): void {
  const t = f32x4.splat(down);
  const one = f32x4.splat(1);
  const half = f32x4.splat(0.5);
  const steep = f32x4.splat(slope);
  const edge: f32 = <f32>0.5 / slope;
  for (let from = 0, bound = step; from < count; from += CHUNK, bound += 8) {
    const to = min(count, from + CHUNK);
    const outside = min(load<f32>(top + bound), load<f32>(low + bound)) >= edge;
    if (outside || max(load<f32>(top + bound, 4), load<f32>(low + bound, 4)) <= -edge) {
      // All of it beyond the feather: not chosen, or wholly.
      const chosen = outside === flip;
      if (chosen === adds) fill(at(out, from), to - from, chosen ? 1 : 0);
      continue;
    }
    for (let x = from; x < to; x += 4) {
      const d = mix(v128.load(at(top, x)), v128.load(at(low, x)), t);
      let m = smooth(f32x4.sub(half, f32x4.mul(d, steep)));
      if (flip) m = f32x4.sub(one, m);
      const had = v128.load(at(out, x));
      v128.store(at(out, x), adds ? most(had, m) : least(had, m));
    }
  }
}

/** How much of an op each pixel gets, by its region's shapes and its colour: see `Join` of `region.ts`. */
export function amountLine(
  mask: usize,
  chosen: usize,
  j0: f32,
  j1: f32,
  j2: f32,
  j3: f32,
  count: i32,
  out: usize,
): void {
  for (let x = 0; x < count; x += 4) {
    const m = v128.load(at(mask, x));
    const a = v128.load(at(chosen, x));
    const byMask = muladd(m, f32x4.splat(j1), f32x4.splat(j0));
    v128.store(at(out, x), muladd(a, muladd(m, f32x4.splat(j3), f32x4.splat(j2)), byMask));
  }
}

/** What colours choose (`share`, in place) held between limits of its neighbourhood (`around`), as `clean.ts` does. */
export function cleanLine(share: usize, around: usize, speck: f32, count: i32): void {
  const one = f32x4.splat(1);
  const low = f32x4.splat(speck);
  const factor = f32x4.splat(1 / (<f32>0.5 - speck));
  for (let x = 0; x < count; x += 4) {
    const p = v128.load(at(around, x));
    const q = f32x4.sub(one, p);
    const high = muladd(q, clamp(f32x4.mul(f32x4.sub(p, low), factor), 0, 1), p);
    const part = f32x4.mul(p, clamp(f32x4.mul(f32x4.sub(q, low), factor), 0, 1));
    v128.store(at(share, x), least(high, most(f32x4.sub(p, part), v128.load(at(share, x)))));
  }
}

/**
 * A line blurred along the row: weights of the middle, then of the neighbours on either side. `padded` has `radius` places in
 * front, which it fills here as those behind: the ends go on.
 */
export function acrossLine(padded: usize, weights: usize, radius: i32, count: i32, out: usize): void {
  for (let i = 0; i < radius; i += 1) {
    store<f32>(at(padded, i), load<f32>(at(padded, radius)));
    store<f32>(at(padded, radius + count + i), load<f32>(at(padded, radius + count - 1)));
  }
  const middle = f32x4.splat(load<f32>(weights));
  for (let x = 0; x < count; x += 4) {
    const here = at(padded, radius + x);
    let sum = f32x4.mul(v128.load(here), middle);
    for (let i = 1; i <= radius; i += 1) {
      const both = f32x4.add(v128.load(here - ((<usize>i) << 2)), v128.load(here + ((<usize>i) << 2)));
      sum = muladd(both, f32x4.splat(load<f32>(at(weights, i))), sum);
    }
    v128.store(at(out, x), sum);
  }
}

/** Adds two lines with the same weight to a line. */
export function addLines(a: usize, b: usize, weight: f32, line: usize, count: i32): void {
  const factor = f32x4.splat(weight);
  for (let x = 0; x < count; x += 4)
    v128.store(at(line, x), muladd(f32x4.add(v128.load(at(a, x)), v128.load(at(b, x))), factor, v128.load(at(line, x))));
}

/** A line becomes what it was before and what it is now, mixed. */
export function mixLine(before: usize, line: usize, amount: usize, count: i32): void {
  for (let x = 0; x < count; x += 4)
    v128.store(at(line, x), mix(v128.load(at(before, x)), v128.load(at(line, x)), v128.load(at(amount, x))));
}

export function copyLine(from: usize, to: usize, count: i32): void {
  for (let x = 0; x < count; x += 4) v128.store(at(to, x), v128.load(at(from, x)));
}

/**
 * Where a line is more than nothing, between two pixels, the first a multiple of 4: from this pixel (in the low 16 bits, a
 * multiple of 4) up to that one.
 */
export function spanOf(line: usize, begin: i32, end: i32): i32 {
  let from = begin;
  while (from < end && !v128.any_true(v128.load(at(line, from)))) from += 4;
  if (from >= end) return 0;
  let to = (end + 3) & ~3;
  while (to > from && !v128.any_true(v128.load(at(line, to - 4)))) to -= 4;
  return from | (min(to, end) << 16);
}

/** A line through a curve of `size` entries, in place; held at its ends. `scale`: entries for 1. */
export function shapeLine(curve: usize, size: i32, low: f32, scale: f32, line: usize, count: i32): void {
  const top = <f32>(size - 1);
  const end = i32x4.splat(size - 2);
  for (let x = 0; x < count; x += 4) {
    const u = clamp(f32x4.mul(f32x4.sub(v128.load(at(line, x)), f32x4.splat(low)), f32x4.splat(scale)), 0, top);
    const i = i32x4.min_s(whole(u), end);
    const f = f32x4.sub(u, f32x4.convert_i32x4_s(i));
    const p01 = v128.shuffle<i32>(
      v128.load64_zero(at(curve, i32x4.extract_lane(i, 0))),
      v128.load64_zero(at(curve, i32x4.extract_lane(i, 1))),
      0,
      4,
      1,
      5,
    );
    const p23 = v128.shuffle<i32>(
      v128.load64_zero(at(curve, i32x4.extract_lane(i, 2))),
      v128.load64_zero(at(curve, i32x4.extract_lane(i, 3))),
      0,
      4,
      1,
      5,
    );
    const here = v128.shuffle<i64>(p01, p23, 0, 2);
    const next = v128.shuffle<i64>(p01, p23, 1, 3);
    v128.store(at(line, x), muladd(f, f32x4.sub(next, here), here));
  }
}

/** One pixel's four corners of a table, blended. Called once for each of four lanes, whose numbers must be literals. */
// @ts-ignore: decorator
@inline
function corners(base: usize, first: usize, second: usize, last: usize, w0: v128, w1: v128, w2: v128, w3: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load(base), w0), f32x4.mul(v128.load(base + first), w1)),
    f32x4.add(f32x4.mul(v128.load(base + second), w2), f32x4.mul(v128.load(base + last), w3)),
  );
}

/**
 * Lines through a table of f32 (four numbers a node, red fastest), tetrahedral; the fourth number goes to `share`. Values
 * outside the table's domain are held to it. `scale`: nodes for 1.
 */
export function lookLine(
  table: usize,
  size: i32,
  start: f32,
  scale: f32,
  r: usize,
  g: usize,
  b: usize,
  share: usize,
  count: i32,
): void {
  const top = <f32>(size - 1);
  const end = i32x4.splat(size - 2);
  const dR: i32 = 16;
  const dG = 16 * size;
  const dB = dG * size;
  const last = <usize>(dR + dG + dB);
  const vR = i32x4.splat(dR);
  const vG = i32x4.splat(dG);
  const vB = i32x4.splat(dB);
  const vAll = i32x4.splat(dR + dG + dB);
  const vStart = f32x4.splat(start);
  const vScale = f32x4.splat(scale);
  for (let p = 0; p < count; p += 4) {
    const x = clamp(f32x4.mul(f32x4.sub(v128.load(at(r, p)), vStart), vScale), 0, top);
    const y = clamp(f32x4.mul(f32x4.sub(v128.load(at(g, p)), vStart), vScale), 0, top);
    const z = clamp(f32x4.mul(f32x4.sub(v128.load(at(b, p)), vStart), vScale), 0, top);
    const ix = i32x4.min_s(whole(x), end);
    const iy = i32x4.min_s(whole(y), end);
    const iz = i32x4.min_s(whole(z), end);
    const fx = f32x4.sub(x, f32x4.convert_i32x4_s(ix));
    const fy = f32x4.sub(y, f32x4.convert_i32x4_s(iy));
    const fz = f32x4.sub(z, f32x4.convert_i32x4_s(iz));
    const base = i32x4.add(i32x4.add(i32x4.mul(ix, vR), i32x4.mul(iy, vG)), i32x4.mul(iz, vB));
    // The tetrahedron: largest, middle and smallest fraction. The middle one by choice, not by a sum that rounds.
    const lessXY = least(fx, fy);
    const moreXY = most(fx, fy);
    const high = most(moreXY, fz);
    const low = least(lessXY, fz);
    const mid = most(lessXY, least(moreXY, fz));
    const first = v128.bitselect(vR, v128.bitselect(vG, vB, f32x4.eq(high, fy)), f32x4.eq(high, fx));
    // Where all three are alike red is the largest, and blue must be the smallest.
    const back = v128.bitselect(vB, v128.bitselect(vG, vR, f32x4.eq(low, fy)), f32x4.eq(low, fz));
    const second = i32x4.sub(vAll, back);
    const w0 = f32x4.sub(f32x4.splat(1), high);
    const w1 = f32x4.sub(high, mid);
    const w2 = f32x4.sub(mid, low);
    const q0 = corners(
      table + <usize>i32x4.extract_lane(base, 0),
      <usize>i32x4.extract_lane(first, 0),
      <usize>i32x4.extract_lane(second, 0),
      last,
      v128.shuffle<i32>(w0, w0, 0, 0, 0, 0),
      v128.shuffle<i32>(w1, w1, 0, 0, 0, 0),
      v128.shuffle<i32>(w2, w2, 0, 0, 0, 0),
      v128.shuffle<i32>(low, low, 0, 0, 0, 0),
    );
    const q1 = corners(
      table + <usize>i32x4.extract_lane(base, 1),
      <usize>i32x4.extract_lane(first, 1),
      <usize>i32x4.extract_lane(second, 1),
      last,
      v128.shuffle<i32>(w0, w0, 1, 1, 1, 1),
      v128.shuffle<i32>(w1, w1, 1, 1, 1, 1),
      v128.shuffle<i32>(w2, w2, 1, 1, 1, 1),
      v128.shuffle<i32>(low, low, 1, 1, 1, 1),
    );
    const q2 = corners(
      table + <usize>i32x4.extract_lane(base, 2),
      <usize>i32x4.extract_lane(first, 2),
      <usize>i32x4.extract_lane(second, 2),
      last,
      v128.shuffle<i32>(w0, w0, 2, 2, 2, 2),
      v128.shuffle<i32>(w1, w1, 2, 2, 2, 2),
      v128.shuffle<i32>(w2, w2, 2, 2, 2, 2),
      v128.shuffle<i32>(low, low, 2, 2, 2, 2),
    );
    const q3 = corners(
      table + <usize>i32x4.extract_lane(base, 3),
      <usize>i32x4.extract_lane(first, 3),
      <usize>i32x4.extract_lane(second, 3),
      last,
      v128.shuffle<i32>(w0, w0, 3, 3, 3, 3),
      v128.shuffle<i32>(w1, w1, 3, 3, 3, 3),
      v128.shuffle<i32>(w2, w2, 3, 3, 3, 3),
      v128.shuffle<i32>(low, low, 3, 3, 3, 3),
    );
    const rg0 = v128.shuffle<i32>(q0, q1, 0, 4, 1, 5);
    const rg1 = v128.shuffle<i32>(q2, q3, 0, 4, 1, 5);
    const bs0 = v128.shuffle<i32>(q0, q1, 2, 6, 3, 7);
    const bs1 = v128.shuffle<i32>(q2, q3, 2, 6, 3, 7);
    v128.store(at(r, p), v128.shuffle<i64>(rg0, rg1, 0, 2));
    v128.store(at(g, p), v128.shuffle<i64>(rg0, rg1, 1, 3));
    v128.store(at(b, p), v128.shuffle<i64>(bs0, bs1, 0, 2));
    v128.store(at(share, p), v128.shuffle<i64>(bs0, bs1, 1, 3));
  }
}

/** Writes four codes, or the few that a row still has room for. */
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
 * Lines of R'G'B', clipped to 0–1 here, to a row of luma samples and lines of Cb and Cr. `added` holds eight numbers
 * for the columns in turn that go to a code value before the rest is cut off. `second`: the lines already hold the row
 * before, and take the mean of both.
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
 * A line of chroma to a row of samples: `across` as in chromaOf. `count`: pixels; `highest`: the highest code. The ends of
 * the line go on.
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
