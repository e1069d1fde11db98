/**
 * Conversions between lines of 16-bit values, as in `fixed.ts`, and lines of floats (AssemblyScript), in which spatial
 * steps work: encoded values or linear light.
 */
import { at, mixOf } from './fixedLine';
import { clamp } from './light';

/** A line of floats between 0 and 1 in Q15, from column `from` (a multiple of 8) up to `to`. */
export function sharesFixed(line: usize, out: usize, from: i32, to: i32): void {
  for (let x = from; x < to; x += 8) {
    const o = line + ((<usize>x) << 2);
    const scale = f32x4.splat(32767);
    const half = f32x4.splat(0.5);
    const low = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(v128.load(o), scale), half));
    const high = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(v128.load(o, 16), scale), half));
    v128.store(at(out, x), i16x8.narrow_i32x4_s(low, high));
  }
}

/** A line in Q13 as floats. */
export function floatsFrom(line: usize, out: usize, width: i32): void {
  const scale = f32x4.splat(1.0 / 8192.0);
  for (let x = 0; x < width; x += 8) {
    const v = v128.load(at(line, x));
    const o = out + ((<usize>x) << 2);
    v128.store(o, f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_s(v)), scale));
    v128.store(o, f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_s(v)), scale), 16);
  }
}

/** A line of floats in Q13, clamped to ±4. */
export function fixedFrom(line: usize, out: usize, width: i32): void {
  const scale = f32x4.splat(8192);
  for (let x = 0; x < width; x += 8) {
    const o = line + ((<usize>x) << 2);
    const low = i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(clamp(v128.load(o), -4, 4), scale)));
    const high = i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(clamp(v128.load(o, 16), -4, 4), scale)));
    v128.store(at(out, x), i16x8.narrow_i32x4_s(low, high));
  }
}

/** A line of encoded values in Q13 as linear light in floats; `table`: address of the light of value 0. */
export function lightFrom(line: usize, table: usize, out: usize, width: i32): void {
  for (let x = 0; x < width; x += 4) {
    const from = at(line, x);
    const to = out + ((<usize>x) << 2);
    store<f32>(to, load<f32>(table + ((<usize>load<i16>(from)) << 2)));
    store<f32>(to, load<f32>(table + ((<usize>load<i16>(from, 2)) << 2)), 4);
    store<f32>(to, load<f32>(table + ((<usize>load<i16>(from, 4)) << 2)), 8);
    store<f32>(to, load<f32>(table + ((<usize>load<i16>(from, 6)) << 2)), 12);
  }
}

/** Byte offsets into the table of `encodedFrom` of four values of light, clamped to its range. */
// @ts-ignore: decorator
@inline
function placesOf(light: v128): v128 {
  const bits = i32x4.shr_u(v128.and(light, i32x4.splat(0x7fffffff)), 12);
  const place = i32x4.sub(bits, i32x4.splat(110 << 11));
  return i32x4.shl(i32x4.min_s(i32x4.splat((22 << 11) - 1), i32x4.max_s(i32x4.splat(0), place)), 1);
}

/**
 * A line of linear light in floats as encoded values in Q13. `table`: the value for every float from 2⁻¹⁷ to 32, by
 * exponent and the first eleven bits of the mantissa (laid out by `fixedKernel.ts`).
 */
export function encodedFrom(line: usize, table: usize, out: usize, width: i32, lanes: usize): void {
  for (let x = 0; x < width; x += 8) {
    const o = line + ((<usize>x) << 2);
    const low = v128.load(o);
    const high = v128.load(o, 16);
    v128.store(lanes, placesOf(low));
    v128.store(lanes, placesOf(high), 16);
    const to = at(out, x);
    store<i16>(to, load<i16>(table + <usize>load<u32>(lanes)));
    store<i16>(to, load<i16>(table + <usize>load<u32>(lanes, 4)), 2);
    store<i16>(to, load<i16>(table + <usize>load<u32>(lanes, 8)), 4);
    store<i16>(to, load<i16>(table + <usize>load<u32>(lanes, 12)), 6);
    store<i16>(to, load<i16>(table + <usize>load<u32>(lanes, 16)), 8);
    store<i16>(to, load<i16>(table + <usize>load<u32>(lanes, 20)), 10);
    store<i16>(to, load<i16>(table + <usize>load<u32>(lanes, 24)), 12);
    store<i16>(to, load<i16>(table + <usize>load<u32>(lanes, 28)), 14);
    const signs = i16x8.narrow_i32x4_s(i32x4.shr_s(low, 31), i32x4.shr_s(high, 31));
    if (v128.any_true(signs)) v128.store(to, i16x8.sub(v128.xor(v128.load(to), signs), signs));
  }
}

/** Mixes a line with its previous state by `amount` (Q15). */
export function blendFixed(line: usize, after: usize, amount: usize, width: i32): void {
  for (let x = 0; x < width; x += 8) {
    const m = v128.load(at(amount, x));
    const rest = i16x8.sub(i16x8.splat(32767), m);
    v128.store(at(line, x), mixOf(v128.load(at(line, x)), v128.load(at(after, x)), m, rest));
  }
}
