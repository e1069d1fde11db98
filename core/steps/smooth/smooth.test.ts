import fc from 'fast-check';
import type { Vec3 } from '../../colour/matrix';
import { luma709 } from '../../colour/ycbcr';
import { fitInTable } from '../../formats/gradeLut';
import { newStep } from '../../model/grade';
import { bakeOps } from '../../program/baked';
import { compile } from '../../program/compile';
import { evaluate } from '../../program/evaluate';
import { RowGrader } from '../../program/cpu/rowGrader';
import { FRAME_WIDTH } from '../numbers';
import { randomFrom } from '../../random';
import { smooth } from './index';

const [WIDTH, HEIGHT] = [FRAME_WIDTH, 48];

/** A picture of R'G'B' through the step. */
function after(code: Float32Array, params: Record<string, unknown>): Float32Array {
  const ops = bakeOps(compile([newStep('smooth', 's', params)], 0), 2);
  const grader = new RowGrader({ ops, planes: [] }, WIDTH, HEIGHT, [0.2126, 0.7152, 0.0722], (y, line) =>
    line.set(code.subarray(3 * y * WIDTH, 3 * (y + 1) * WIDTH)),
  );
  const out = new Float32Array(code.length);
  for (let y = 0; y < HEIGHT; y += 1) grader.grade(y, out.subarray(3 * y * WIDTH, 3 * (y + 1) * WIDTH));
  return out;
}

/** A picture with noise of this many 8-bit code values in each channel. */
function noisy(truth: (x: number, y: number) => Vec3, deviation: number): { clean: Float32Array; code: Float32Array } {
  const random = randomFrom(3);
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const clean = new Float32Array(3 * WIDTH * HEIGHT);
  for (let i = 0; i < WIDTH * HEIGHT; i += 1) clean.set(truth(i % WIDTH, Math.floor(i / WIDTH)), 3 * i);
  return { clean, code: clean.map((v) => v + (deviation / 255) * normal()) };
}

/** Root mean squares of the residual in luma and in chroma. */
function left(out: Float32Array, clean: Float32Array): { light: number; colour: number } {
  let [light, colour] = [0, 0];
  for (let o = 0; o < out.length; o += 3) {
    const off = [0, 1, 2].map((c) => out[o + c] - clean[o + c]) as Vec3;
    const l = luma709(...off);
    light += l * l;
    for (const v of off) colour += (v - l) ** 2;
  }
  return { light: Math.sqrt((3 * light) / out.length), colour: Math.sqrt(colour / out.length) };
}

const GREY = (): Vec3 => [0.4, 0.42, 0.38];
const EDGE = (x: number): Vec3 => (x < WIDTH / 2 ? [0.2, 0.35, 0.5] : [0.6, 0.5, 0.3]);
const PARAMS = { luma: 0.06, colour: 0.12, radius: 2 / FRAME_WIDTH };

test('on an even field noise of 3 code values goes to a quarter or less, in light and in colour', () => {
  const { clean, code } = noisy(GREY, 3);
  const [before, now] = [left(code, clean), left(after(code, PARAMS), clean)];
  console.log(
    `left of noise: light ${(now.light / before.light).toFixed(2)}, colour ${(now.colour / before.colour).toFixed(2)}`,
  );
  expect(now.light).toBeLessThan(0.25 * before.light);
  expect(now.colour).toBeLessThan(0.25 * before.colour);
});

test('each number takes its own sort of noise alone', () => {
  const { clean, code } = noisy(GREY, 3);
  const before = left(code, clean);
  const light = left(after(code, { ...PARAMS, colour: 0 }), clean);
  const colour = left(after(code, { ...PARAMS, luma: 0 }), clean);
  expect(light.light).toBeLessThan(0.25 * before.light);
  expect(light.colour).toBeCloseTo(before.colour, 6);
  expect(colour.light).toBeCloseTo(before.light, 6);
  expect(colour.colour).toBeLessThan(0.25 * before.colour);
});

test('an edge stays where and as high as it is: nothing differs by more than a part of the strongest noise', () => {
  const { code } = noisy(EDGE, 0);
  const out = after(code, PARAMS);
  let most = 0;
  out.forEach((v, i) => (most = Math.max(most, Math.abs(v - code[i]))));
  console.log(`beside an edge of 0.4: at most ${most.toFixed(4)} off`);
  // d · (1 − (d / most)²)² is largest at most / √5: 0.286 of the strongest noise.
  expect(most).toBeLessThan(0.286 * (PARAMS.luma + PARAMS.colour));
  // The pixels on either side of it differ from their neighbours by much more: they stay.
  const at = 3 * (20 * WIDTH + WIDTH / 2);
  for (const o of [at - 3, at]) expect([...out.subarray(o, o + 3)]).toEqual([...code.subarray(o, o + 3)]);
});

test('what it takes off is never more than what a colour differs by from its neighbours, and never turns it round', () => {
  const part = fc.double({ min: -0.3, max: 0.3, noNaN: true });
  const params = fc.record({
    luma: fc.double({ min: 0, max: 0.2, noNaN: true }),
    colour: fc.double({ min: 0, max: 0.4, noNaN: true }),
  });
  fc.assert(
    fc.property(fc.tuple(part, part, part), params, (off, p) => {
      const near: Vec3 = [0.4, 0.5, 0.6];
      const rgb = near.map((v, c) => v + off[c]) as Vec3;
      smooth.prepare(smooth.schema.parse(p))(rgb, near);
      const now = rgb.map((v, c) => v - near[c]) as Vec3;
      const [was, is] = [luma709(...off), luma709(...now)];
      return (
        Math.abs(is) <= Math.abs(was) + 1e-12 &&
        is * was >= -1e-12 &&
        now.every((v, c) => (v - is) * (off[c] - was) >= -1e-12 && Math.abs(v - is) <= Math.abs(off[c] - was) + 1e-12)
      );
    }),
  );
});

test('a colour among its like stays; a table cannot hold it', () => {
  const program = compile([newStep('smooth', 's', PARAMS)], 0);
  expect(program.ops[0]).toMatchObject({ kind: 'stencil', spread: 2 / FRAME_WIDTH });
  expect(evaluate(program, [0.2, 0.4, 0.6])).toEqual([0.2, 0.4, 0.6]);
  expect(fitInTable([newStep('smooth', 's', PARAMS)]).lost).toEqual(['Fine noise']);
});
