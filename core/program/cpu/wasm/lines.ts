/**
 * Operations on rows of pictures in floats (AssemblyScript, WebAssembly with SIMD): tables, curves, regions, stencils.
 * Lines are planes of f32, one per channel, aligned to 16 bytes and padded by 16 bytes on both sides. `gradePicture.ts`
 * is the reference implementation.
 */
import { clamp, pmin, mix, pmax, muladd, whole } from './light';

/** The i-th float of a line. */
// @ts-ignore: decorator
@inline
export function at(line: usize, i: i32): usize {
  return line + ((<usize>i) << 2);
}

export function fill(line: usize, count: i32, value: f32): void {
  if (value === 0) memory.fill(line, 0, <usize>((count + 3) & ~3) << 2);
  else for (let x = 0; x < count; x += 4) v128.store(at(line, x), f32x4.splat(value));
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

/**
 * Clamps the selection by colour (`share`, in place) to the limits of its neighbourhood (`around`), as `clean.ts` does.
 */
export function cleanLine(share: usize, around: usize, speck: f32, count: i32): void {
  const one = f32x4.splat(1);
  const low = f32x4.splat(speck);
  const factor = f32x4.splat(1 / (<f32>0.5 - speck));
  for (let x = 0; x < count; x += 4) {
    const p = v128.load(at(around, x));
    const q = f32x4.sub(one, p);
    const high = muladd(q, clamp(f32x4.mul(f32x4.sub(p, low), factor), 0, 1), p);
    const part = f32x4.mul(p, clamp(f32x4.mul(f32x4.sub(q, low), factor), 0, 1));
    v128.store(at(share, x), pmin(high, pmax(f32x4.sub(p, part), v128.load(at(share, x)))));
  }
}

/**
 * Blurs a line horizontally: weight of the centre, then of the neighbours on either side. `padded` has `radius` extra
 * elements on both sides, filled here with the edge values.
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

/** Mixes a line with its previous state. */
export function mixLine(before: usize, line: usize, amount: usize, count: i32): void {
  for (let x = 0; x < count; x += 4)
    v128.store(at(line, x), mix(v128.load(at(before, x)), v128.load(at(line, x)), v128.load(at(amount, x))));
}

export function copyLine(from: usize, to: usize, count: i32): void {
  for (let x = 0; x < count; x += 4) v128.store(at(to, x), v128.load(at(from, x)));
}

/**
 * The span of a line above zero, within two pixels, the first a multiple of 4: its start in the low 16 bits (a multiple
 * of 4), its end in the high ones.
 */
export function spanOf(line: usize, begin: i32, end: i32): i32 {
  let from = begin;
  while (from < end && !v128.any_true(v128.load(at(line, from)))) from += 4;
  if (from >= end) return 0;
  let to = (end + 3) & ~3;
  while (to > from && !v128.any_true(v128.load(at(line, to - 4)))) to -= 4;
  return from | (min(to, end) << 16);
}

/** Applies a curve of `size` entries to a line, in place; clamped at its ends. `scale`: entries per unit. */
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

/**
 * Blends the four corners of a table for one pixel. Called once for each of four lanes, whose numbers must be literals.
 */
// @ts-ignore: decorator
@inline
function corners(base: usize, first: usize, second: usize, last: usize, w0: v128, w1: v128, w2: v128, w3: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load(base), w0), f32x4.mul(v128.load(base + first), w1)),
    f32x4.add(f32x4.mul(v128.load(base + second), w2), f32x4.mul(v128.load(base + last), w3)),
  );
}

/**
 * Applies a table of f32 (four numbers per node, red fastest) to lines, tetrahedral; the fourth number goes to `share`.
 * Values outside the table's domain are clamped. `scale`: nodes per unit.
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
    // The tetrahedron: largest, middle and smallest fraction. The middle one is selected, since a sum would round.
    const lessXY = pmin(fx, fy);
    const moreXY = pmax(fx, fy);
    const high = pmax(moreXY, fz);
    const low = pmin(lessXY, fz);
    const mid = pmax(lessXY, pmin(moreXY, fz));
    const first = v128.bitselect(vR, v128.bitselect(vG, vB, f32x4.eq(high, fy)), f32x4.eq(high, fx));
    // If all three are equal red is the largest, and blue must be the smallest.
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
