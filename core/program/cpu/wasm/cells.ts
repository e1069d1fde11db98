/**
 * Upsamples the cells of maps and masks to lines of floats (AssemblyScript): horizontally, then vertically, as in
 * `lines.ts`.
 */
import { clamp, pmin, mix, pmax, muladd, smoothstep, whole } from './light';
import { at, fill } from './lines';

/** Pixels per minimum/maximum pair of an upsampled row; a multiple of four. */
const CHUNK: i32 = 32;

/**
 * Interpolates a row of cells to every pixel of a picture's row. `first`: position of the first pixel among the cells,
 * from the centre of the first one; `scale`: increment per pixel; clamped at the ends. One more cell is read and must
 * be a valid number. `bounds`: minimum and maximum of every {@link CHUNK} pixels.
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
      low = pmin(low, d);
      high = pmax(high, d);
      v128.store(at(out, x), d);
    }
    low = pmin(low, v128.shuffle<i32>(low, low, 2, 3, 2, 3));
    high = pmax(high, v128.shuffle<i32>(high, high, 2, 3, 2, 3));
    store<f32>(bound, f32x4.extract_lane(pmin(low, v128.shuffle<i32>(low, low, 1, 1, 1, 1)), 0));
    store<f32>(bound, f32x4.extract_lane(pmax(high, v128.shuffle<i32>(high, high, 1, 1, 1, 1)), 0), 4);
  }
}

/** The same for cells of two numbers, to a line each. `period`: cells after which they repeat; 0: no wrapping. */
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

/** Positions of four pixels among the cells, clamped at the ends. */
// @ts-ignore: decorator
@inline
function pixelPlaces(x: i32, first: f32, scale: f32): v128 {
  return muladd(f32x4.add(f32x4.splat(<f32>x), f32x4(0, 1, 2, 3)), f32x4.splat(scale), f32x4.splat(first));
}

/** Both coefficients interpolated between two adjacent cells, in the first two lanes. */
// @ts-ignore: decorator
@inline
function between(cell: usize, f: v128): v128 {
  const here = v128.load(cell);
  return muladd(f, f32x4.sub(v128.shuffle<i32>(here, here, 2, 3, 2, 3), here), here);
}

/**
 * A row of a map, as `mapRow` of `map.ts`: interpolated between the upsampled rows above and below, whose coefficients
 * lie `step` apart. `down`: interpolation weight of the lower one.
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
 * A row of one shape of a region, as `maskRow` of `mask.ts`: `top` and `low` are the upsampled rows of distances above
 * and below, with their bounds `step` behind, `down` the weight of the lower one. `flip`: inverted. `adds`: union with
 * the existing selection, otherwise intersection.
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
      // Entirely outside the feather: unselected or fully selected.
      const chosen = outside === flip;
      if (chosen === adds) fill(at(out, from), to - from, chosen ? 1 : 0);
      continue;
    }
    for (let x = from; x < to; x += 4) {
      const d = mix(v128.load(at(top, x)), v128.load(at(low, x)), t);
      let m = smoothstep(f32x4.sub(half, f32x4.mul(d, steep)));
      if (flip) m = f32x4.sub(one, m);
      const had = v128.load(at(out, x));
      v128.store(at(out, x), adds ? pmax(had, m) : pmin(had, m));
    }
  }
}
