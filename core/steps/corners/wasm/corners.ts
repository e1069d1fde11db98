/** The corners step for the kernel (AssemblyScript): the same mathematics, four pixels at a time. */
import { decode709, encode709, mix } from '../../../program/cpu/wasm/light';

/** Encoded R'G'B' lines, changed in place. `data`: what the step's `shader.data` holds. */
export function corners(data: usize, map: usize, share: usize, r: usize, g: usize, b: usize, count: i32): void {
  const amount = load<f32>(data, 0);
  const begins = load<f32>(data, 4);
  const late = begins >= 1;
  const t = f32x4.splat(late ? begins - 1 : begins);
  const factor = f32x4.splat(amount);
  const one = f32x4.splat(1);
  for (let x = 0; x < count; x += 4) {
    const o = (<usize>x) << 2;
    const m = v128.load(map + o);
    const two = f32x4.mul(m, m);
    const low = late ? two : m;
    const high = late ? f32x4.mul(two, m) : two;
    const part = f32x4.mul(factor, mix(low, high, t));
    const gain = amount > 0 ? f32x4.div(one, f32x4.sub(one, part)) : f32x4.add(one, part);
    const s = v128.load(share + o);
    line(r + o, gain, s);
    line(g + o, gain, s);
    line(b + o, gain, s);
  }
}

// @ts-ignore: decorator
@inline
function line(at: usize, gain: v128, share: v128): void {
  const before = v128.load(at);
  v128.store(at, mix(before, encode709(f32x4.mul(decode709(before), gain)), share));
}
