/** The haze step for the kernel (AssemblyScript): the same mathematics, four pixels at a time. */
import { decode709, encode709, exp2, mix, most, smooth, takeVeil } from '../../../program/cpu/wasm/light';

const LOG2_E: f32 = 1.44269504;
// As the step's index has them.
const SKY_BEGINS: f32 = 1;
const SKY_WHOLE: f32 = 1.5;

/** Encoded R'G'B' lines, changed in place. `data`: what the step's `shader.data` holds. */
export function haze(data: usize, map: usize, share: usize, r: usize, g: usize, b: usize, count: i32): void {
  const airR = f32x4.splat(load<f32>(data, 0));
  const airG = f32x4.splat(load<f32>(data, 4));
  const airB = f32x4.splat(load<f32>(data, 8));
  const amount = f32x4.splat(load<f32>(data, 12));
  const floor = f32x4.splat(load<f32>(data, 16));
  const far = f32x4.splat(1 - load<f32>(data, 20));
  const end = f32x4.splat(-load<f32>(data, 24) * LOG2_E);
  const one = f32x4.splat(1);
  for (let x = 0; x < count; x += 4) {
    const o = (<usize>x) << 2;
    const er = v128.load(r + o);
    const eg = v128.load(g + o);
    const eb = v128.load(b + o);
    const lr = decode709(er);
    const lg = decode709(eg);
    const lb = decode709(eb);
    // What is brighter than the air in any channel is sky, or near.
    const over = most(f32x4.div(lr, airR), most(f32x4.div(lg, airG), f32x4.div(lb, airB)));
    const kept = smooth(f32x4.mul(f32x4.sub(over, f32x4.splat(SKY_BEGINS)), f32x4.splat(1 / (SKY_WHOLE - SKY_BEGINS))));
    const through = f32x4.mul(exp2(f32x4.mul(end, v128.load(map + o))), far);
    const taken = f32x4.mul(f32x4.mul(amount, f32x4.sub(one, kept)), f32x4.sub(one, through));
    const left = most(floor, f32x4.sub(one, taken));
    const gone = f32x4.sub(one, left);
    const t = f32x4.div(one, left);
    const s = v128.load(share + o);
    v128.store(r + o, mix(er, encode709(f32x4.mul(takeVeil(lr, f32x4.mul(airR, gone)), t)), s));
    v128.store(g + o, mix(eg, encode709(f32x4.mul(takeVeil(lg, f32x4.mul(airG, gone)), t)), s));
    v128.store(b + o, mix(eb, encode709(f32x4.mul(takeVeil(lb, f32x4.mul(airB, gone)), t)), s));
  }
}
