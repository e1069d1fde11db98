/** Squares of a plane are loaded into rows of STRIDE floats, so that all further code is independent of the format. */
import { sample, scratch, wide } from './format';

const STRIDE: i32 = 24;
export const ROW: usize = 96;
/** Rows of a loaded square, and of the interpolation's input. */
export const SQUARE: usize = 24 * ROW;

/** Samples of a plane from (x, y), `columns` × `rows`, as floats; clamped at the edges. */
export function copySquare(plane: usize, w: i32, h: i32, x: i32, y: i32, columns: i32, rows: i32, to: usize): void {
  const whole = x >= 0 && x + STRIDE <= w;
  const bytes = <usize>columns << 2;
  for (let j = 0; j < rows; j += 1) {
    const row = min(max(y + j, 0), h - 1) * w;
    let out = to + <usize>j * ROW;
    const end = out + bytes;
    if (!whole) {
      for (let i = 0; out < end; i += 1, out += 4) store<f32>(out, sample(plane, row + min(max(x + i, 0), w - 1)));
      continue;
    }
    let at = plane + (<usize>(row + x) << (wide ? 1 : 0));
    while (out < end) {
      const eight = wide ? v128.load(at) : i16x8.extend_low_i8x16_u(v128.load64_zero(at));
      v128.store(out, f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(eight)));
      v128.store(out, f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(eight)), 16);
      at += wide ? 16 : 8;
      out += 32;
    }
  }
}

export let c0: f32 = 0;
export let c1: f32 = 0;
export let c2: f32 = 0;
export let c3: f32 = 0;

/** Weights of cubic interpolation between four samples, at a fractional offset after the second. */
export function cubic(t: f32): void {
  c0 = t * (<f32>-0.5 + t * (<f32>1 - <f32>0.5 * t));
  c1 = <f32>1 + t * t * (<f32>-2.5 + <f32>1.5 * t);
  c2 = t * (<f32>0.5 + t * (<f32>2 - <f32>1.5 * t));
  c3 = t * t * (<f32>-0.5 + <f32>0.5 * t);
}

// @ts-ignore: decorator
@inline
function four(at: usize, step: usize, k0: v128, k1: v128, k2: v128, k3: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(k0, v128.load(at)), f32x4.mul(k1, v128.load(at + step))),
    f32x4.add(f32x4.mul(k2, v128.load(at + 2 * step)), f32x4.mul(k3, v128.load(at + 3 * step))),
  );
}

/** A square of a plane displaced by a vector. */
export function fetch(plane: usize, w: i32, h: i32, x: i32, y: i32, columns: i32, rows: i32, dx: f32, dy: f32, to: usize): void {
  const ix = <i32>Math.floor(dx);
  const iy = <i32>Math.floor(dy);
  const fx = dx - <f32>ix;
  const fy = dy - <f32>iy;
  if (fx === 0 && fy === 0) return copySquare(plane, w, h, x + ix, y + iy, columns, rows, to);
  const raw = scratch;
  const across = raw + SQUARE;
  const bytes = <usize>columns << 2;
  copySquare(plane, w, h, x + ix - 1, y + iy - 1, columns + 3, rows + 3, raw);
  cubic(fx);
  let k0 = f32x4.splat(c0);
  let k1 = f32x4.splat(c1);
  let k2 = f32x4.splat(c2);
  let k3 = f32x4.splat(c3);
  for (let j = 0, from = raw; j < rows + 3; j += 1, from += ROW)
    for (let i: usize = 0; i < bytes; i += 16) v128.store(from + SQUARE + i, four(from + i, 4, k0, k1, k2, k3));
  cubic(fy);
  k0 = f32x4.splat(c0);
  k1 = f32x4.splat(c1);
  k2 = f32x4.splat(c2);
  k3 = f32x4.splat(c3);
  for (let j = 0, from = across; j < rows; j += 1, from += ROW, to += ROW)
    for (let i: usize = 0; i < bytes; i += 16) v128.store(to + i, four(from + i, ROW, k0, k1, k2, k3));
}
