/** Transfer functions and vector helpers of the kernel (AssemblyScript): four floats at a time. */

// `f32x4.pmin` and `pmax` are one instruction each, where `min` and `max`, which propagate NaN, are many. Here the first
// operand stays when the second is NaN.
// @ts-ignore: decorator
@inline
export function pmin(a: v128, b: v128): v128 {
  return f32x4.pmin(a, b);
}

// @ts-ignore: decorator
@inline
export function pmax(a: v128, b: v128): v128 {
  return f32x4.pmax(a, b);
}

/** Clamps to a range; NaN becomes its low end. */
// @ts-ignore: decorator
@inline
export function clamp(v: v128, low: f32, high: f32): v128 {
  return pmin(f32x4.splat(high), pmax(f32x4.splat(low), v));
}

/** The integer part of numbers from 0 to 2²²: after adding 2²³ a float's mantissa is the integer. */
// @ts-ignore: decorator
@inline
export function whole(v: v128): v128 {
  return v128.and(f32x4.add(f32x4.trunc(v), f32x4.splat(8388608)), i32x4.splat(0x7fffff));
}

/** a + t · (b − a). */
// @ts-ignore: decorator
@inline
export function mix(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(t, f32x4.sub(b, a)));
}

/** a · b + c. */
// @ts-ignore: decorator
@inline
export function muladd(a: v128, b: v128, c: v128): v128 {
  return f32x4.add(f32x4.mul(a, b), c);
}

/** 3t² − 2t³ of t clamped to 0–1. */
// @ts-ignore: decorator
@inline
export function smoothstep(v: v128): v128 {
  const t = clamp(v, 0, 1);
  return f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)));
}

/** Luminance or luma by BT.709 weights. */
// @ts-ignore: decorator
@inline
export function luma709(r: v128, g: v128, b: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(r, f32x4.splat(0.2126)), f32x4.mul(g, f32x4.splat(0.7152))),
    f32x4.mul(b, f32x4.splat(0.0722)),
  );
}

/** Binary logarithm of positive normal numbers, to 2e-6: the exponent plus the atanh series of the mantissa. */
// @ts-ignore: decorator
@inline
function log2(x: v128): v128 {
  // The mantissa is scaled to between √½ and √2.
  const bits = i32x4.sub(x, i32x4.splat(0x3f3504f3));
  const exponent = i32x4.shr_s(bits, 23);
  const m = i32x4.sub(x, i32x4.shl(exponent, 23));
  const one = f32x4.splat(1);
  const t = f32x4.div(f32x4.sub(m, one), f32x4.add(m, one));
  const s = f32x4.mul(t, t);
  let sum = muladd(s, f32x4.splat(2.885390082 / 5), f32x4.splat(2.885390082 / 3));
  sum = muladd(s, sum, f32x4.splat(2.885390082));
  return muladd(t, sum, f32x4.convert_i32x4_s(exponent));
}

/** 2 to a power between −120 and 120, to 3e-6: the integer part becomes the exponent; a series for the rest. */
// @ts-ignore: decorator
@inline
export function exp2(x: v128): v128 {
  // Adding 1.5 · 2²³ rounds to an integer, held in the lowest bits of the sum.
  const large = f32x4.splat(12582912);
  const rounded = f32x4.add(x, large);
  const f = f32x4.sub(x, f32x4.sub(rounded, large));
  let sum = muladd(f, f32x4.splat(1.33335581e-3), f32x4.splat(9.61812911e-3));
  sum = muladd(f, sum, f32x4.splat(5.55041087e-2));
  sum = muladd(f, sum, f32x4.splat(2.40226507e-1));
  sum = muladd(f, sum, f32x4.splat(6.93147181e-1));
  sum = muladd(f, sum, f32x4.splat(1));
  return i32x4.add(sum, i32x4.shl(rounded, 23));
}

// As in `transfer.ts`.
const ALPHA: f32 = 1.09929682680944;
const BETA: f32 = 0.018053968510807;

/** BT.709 signal to linear light, odd-symmetric below 0. */
// @ts-ignore: decorator
@inline
export function decode709(v: v128): v128 {
  const size = f32x4.abs(v);
  const base = f32x4.mul(f32x4.add(size, f32x4.splat(ALPHA - 1)), f32x4.splat(1 / ALPHA));
  const curved = exp2(f32x4.mul(log2(base), f32x4.splat(<f32>(1 / 0.45))));
  const out = v128.bitselect(
    f32x4.mul(size, f32x4.splat(<f32>(1 / 4.5))),
    curved,
    f32x4.lt(size, f32x4.splat(4.5 * BETA)),
  );
  return v128.or(out, v128.and(v, i32x4.splat(0x80000000)));
}

/** Linear light to BT.709 signal, odd-symmetric below 0. */
// @ts-ignore: decorator
@inline
export function encode709(l: v128): v128 {
  const size = f32x4.abs(l);
  const base = pmax(f32x4.splat(BETA), size);
  const curved = f32x4.sub(
    f32x4.mul(exp2(f32x4.mul(log2(base), f32x4.splat(0.45))), f32x4.splat(ALPHA)),
    f32x4.splat(ALPHA - 1),
  );
  const out = v128.bitselect(f32x4.mul(size, f32x4.splat(4.5)), curved, f32x4.lt(size, f32x4.splat(BETA)));
  return v128.or(out, v128.and(l, i32x4.splat(0x80000000)));
}
