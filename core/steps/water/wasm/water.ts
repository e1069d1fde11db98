/** The water step for the kernel (AssemblyScript): the same mathematics, four pixels at a time. */
import { clamp, decode709, encode709, least, luma709, mix, most, muladd, smooth, takeVeil, whole } from '../../../program/cpu/wasm/light';

/** Encoded R'G'B' lines, changed in place. `data`: what the step's `shader.data` holds. */
export function water(data: usize, map: usize, share: usize, r: usize, g: usize, b: usize, count: i32): void {
  const last = load<f32>(data, 28);
  const samples = data + 48;
  const one = f32x4.splat(1);
  const none = f32x4.splat(0);
  for (let x = 0; x < count; x += 4) {
    const o = (<usize>x) << 2;
    const place = f32x4.mul(clamp(v128.load(map + o), 0, 1), f32x4.splat(last));
    const low = least(f32x4.splat(last - 1), f32x4.trunc(place));
    const f = f32x4.sub(place, low);
    const cells = i32x4.shl(whole(low), 5);
    // Gain of three channels and what is kept, haze of three: of four pixels, turned to lines.
    const p0 = samples + <usize>i32x4.extract_lane(cells, 0);
    const p1 = samples + <usize>i32x4.extract_lane(cells, 1);
    const p2 = samples + <usize>i32x4.extract_lane(cells, 2);
    const p3 = samples + <usize>i32x4.extract_lane(cells, 3);
    const f0 = v128.shuffle<i32>(f, f, 0, 0, 0, 0);
    const f1 = v128.shuffle<i32>(f, f, 1, 1, 1, 1);
    const f2 = v128.shuffle<i32>(f, f, 2, 2, 2, 2);
    const f3 = v128.shuffle<i32>(f, f, 3, 3, 3, 3);
    const g0 = mix(v128.load(p0), v128.load(p0, 32), f0);
    const g1 = mix(v128.load(p1), v128.load(p1, 32), f1);
    const g2 = mix(v128.load(p2), v128.load(p2, 32), f2);
    const g3 = mix(v128.load(p3), v128.load(p3, 32), f3);
    const h0 = mix(v128.load(p0, 16), v128.load(p0, 48), f0);
    const h1 = mix(v128.load(p1, 16), v128.load(p1, 48), f1);
    const h2 = mix(v128.load(p2, 16), v128.load(p2, 48), f2);
    const h3 = mix(v128.load(p3, 16), v128.load(p3, 48), f3);
    const g01 = v128.shuffle<i32>(g0, g1, 0, 4, 1, 5);
    const g23 = v128.shuffle<i32>(g2, g3, 0, 4, 1, 5);
    const gk01 = v128.shuffle<i32>(g0, g1, 2, 6, 3, 7);
    const gk23 = v128.shuffle<i32>(g2, g3, 2, 6, 3, 7);
    const h01 = v128.shuffle<i32>(h0, h1, 0, 4, 1, 5);
    const h23 = v128.shuffle<i32>(h2, h3, 0, 4, 1, 5);
    const ha01 = v128.shuffle<i32>(h0, h1, 2, 6, 3, 7);
    const ha23 = v128.shuffle<i32>(h2, h3, 2, 6, 3, 7);
    const gainR = v128.shuffle<i64>(g01, g23, 0, 2);
    const gainG = v128.shuffle<i64>(g01, g23, 1, 3);
    const gainB = v128.shuffle<i64>(gk01, gk23, 0, 2);
    const kept = v128.shuffle<i64>(gk01, gk23, 1, 3);
    const hazeR = v128.shuffle<i64>(h01, h23, 0, 2);
    const hazeG = v128.shuffle<i64>(h01, h23, 1, 3);
    const hazeB = v128.shuffle<i64>(ha01, ha23, 0, 2);

    const er = v128.load(r + o);
    const eg = v128.load(g + o);
    const eb = v128.load(b + o);
    const lr = decode709(er);
    const lg = decode709(eg);
    const lb = decode709(eb);

    const heldR = least(f32x4.splat(load<f32>(data, 12)), gainR);
    const heldG = least(f32x4.splat(load<f32>(data, 40)), gainG);
    const heldB = least(f32x4.splat(load<f32>(data, 44)), gainB);
    const backG = f32x4.mul(takeVeil(lg, f32x4.mul(hazeG, f32x4.splat(load<f32>(data, 4)))), heldG);
    const rebuild = f32x4.splat(load<f32>(data, 16));
    const rebuilt = f32x4.mul(rebuild, f32x4.sub(one, f32x4.div(heldR, gainR)));
    const rebuiltB = f32x4.mul(rebuild, f32x4.sub(one, f32x4.div(heldB, gainB)));
    const backB = muladd(
      rebuiltB,
      backG,
      f32x4.mul(takeVeil(lb, f32x4.mul(hazeB, f32x4.splat(load<f32>(data, 8)))), heldB),
    );
    const backR = muladd(
      rebuilt,
      backG,
      f32x4.mul(takeVeil(lr, f32x4.mul(hazeR, f32x4.splat(load<f32>(data, 0)))), heldR),
    );

    // Colour fades to grey where too little of the thing's own light is left.
    const seen = f32x4.sub(f32x4.splat(1 - GUESSED), hazeG);
    const trust = smooth(f32x4.mul(seen, f32x4.splat(1 / (TRUSTED - GUESSED))));
    const grey = luma709(backR, backG, backB);
    const ownR = mix(grey, backR, trust);
    const ownG = mix(grey, backG, trust);
    const ownB = mix(grey, backB, trust);

    // Open water, greener or bluer, its luminance kept.
    const wg = f32x4.mul(lg, f32x4.splat(load<f32>(data, 32)));
    const wb = f32x4.mul(lb, f32x4.splat(load<f32>(data, 36)));
    const luma = luma709(lr, lg, lb);
    const ratio = f32x4.div(luma, most(f32x4.splat(1e-6), luma709(lr, wg, wb)));
    const level = v128.bitselect(ratio, one, f32x4.gt(luma, none));

    const s = v128.load(share + o);
    v128.store(r + o, mix(er, encode709(mix(ownR, f32x4.mul(lr, level), kept)), s));
    v128.store(g + o, mix(eg, encode709(mix(ownG, f32x4.mul(wg, level), kept)), s));
    v128.store(b + o, mix(eb, encode709(mix(ownB, f32x4.mul(wb, level), kept)), s));
  }
}

// As the step's index has them.
const TRUSTED: f32 = 0.5;
const GUESSED: f32 = 0.1;
