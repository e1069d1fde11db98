/** A constant, or a value in the representation of the form being generated. */
export type Operand<T> = T | number;

/**
 * The operations in which formulas of spatial steps are written. Each form generated from a formula implements them:
 * plain numbers, and source text in the languages of the other backends. Results for NaN and for values that overflow
 * 32 bits are undefined.
 */
export interface Algebra<T> {
  add(a: Operand<T>, b: Operand<T>): T;
  sub(a: Operand<T>, b: Operand<T>): T;
  mul(a: Operand<T>, b: Operand<T>): T;
  div(a: Operand<T>, b: Operand<T>): T;
  min(a: Operand<T>, b: Operand<T>): T;
  max(a: Operand<T>, b: Operand<T>): T;
  /** e to a power, limited to −80…80. */
  exp(a: Operand<T>): T;
  /** `a` if `low` is less than `high`, else `b`. */
  select(low: Operand<T>, high: Operand<T>, a: Operand<T>, b: Operand<T>): T;
}

/** Plain numbers: the exact evaluator. */
export const NUMBERS: Algebra<number> = {
  add: (a, b) => a + b,
  sub: (a, b) => a - b,
  mul: (a, b) => a * b,
  div: (a, b) => a / b,
  min: (a, b) => (a < b ? a : b),
  max: (a, b) => (a > b ? a : b),
  exp: (a) => Math.exp(a),
  select: (low, high, a, b) => (low < high ? a : b),
};

/** Linear interpolation from a to b, with t clamped to 0–1. */
export const mix = <T>(k: Algebra<T>, a: Operand<T>, b: Operand<T>, t: Operand<T>): T =>
  k.add(a, k.mul(t, k.sub(b, a)));

/** Clamps to a range. */
export const clamp = <T>(k: Algebra<T>, v: Operand<T>, low: Operand<T>, high: Operand<T>): T =>
  k.min(high, k.max(low, v));

/** Smoothstep: 0 up to `low`, 1 from `high`, 3t² − 2t³ in between. */
export function smoothstep<T>(k: Algebra<T>, low: number, high: number, v: Operand<T>): T {
  const t = clamp(k, k.mul(k.sub(v, low), 1 / (high - low)), 0, 1);
  return k.mul(k.mul(t, t), k.sub(3, k.add(t, t)));
}

/** Luminance or luma by BT.709 weights. */
export const luma709 = <T>(k: Algebra<T>, r: Operand<T>, g: Operand<T>, b: Operand<T>): T =>
  k.add(k.add(k.mul(0.2126, r), k.mul(0.7152, g)), k.mul(0.0722, b));
