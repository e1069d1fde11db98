import { frameSeed } from '../../fields/tile';
import { fitInTable } from '../../formats/gradeLut';
import { newStep } from '../../model/grade';
import { compile } from '../../program/compile';
import { evaluate } from '../../program/evaluate';
import { bakeFor, pictureToRgb } from '../../program/cpu/gradePicture';
import { pictureBytes, planesOver } from '../../program/cpu/planar';
import { FRAME_WIDTH } from '../numbers';

/** Green of an even grey picture after the step. */
function grainOn(
  level: number,
  width: number,
  height: number,
  params: Record<string, unknown>,
  seconds = 0,
): Float32Array {
  const format = {
    ...{ width, height, depth: 16 },
    ...({ chroma: '444', range: 'full', matrix: 'bt709', chromaSite: 'left' } as const),
  };
  const picture = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  picture.y.fill(Math.round(65535 * level));
  picture.cb.fill(32768);
  picture.cr.fill(32768);
  const rgb = pictureToRgb(bakeFor(compile([newStep('grain', 'g', params)], seconds), picture, 33), picture);
  return Float32Array.from({ length: width * height }, (_, i) => rgb[3 * i + 1]);
}

const meanOf = (v: Float32Array): number => v.reduce((a, b) => a + b, 0) / v.length;
const deviationOf = (v: Float32Array): number => {
  const mean = meanOf(v);
  return Math.sqrt(v.reduce((a, b) => a + (b - mean) ** 2, 0) / v.length);
};
/** Autocorrelation of a picture at this offset in pixels, −1 to 1. */
function alike(a: Float32Array, b: Float32Array, width: number, shift: number): number {
  const [ma, mb] = [meanOf(a), meanOf(b)];
  let sum = 0;
  let count = 0;
  for (let i = 0; i < a.length - shift; i += 1)
    if (i % width < width - shift) {
      sum += (a[i] - ma) * (b[i + shift] - mb);
      count += 1;
    }
  return sum / count / (deviationOf(a) * deviationOf(b));
}

test.each([1, 2, 5])(
  'grain of %i px: its standard deviation in a frame 1920 wide is the amount, its mean nothing',
  (size) => {
    const out = grainOn(0.5, FRAME_WIDTH, 400, { amount: 0.04, size: size / FRAME_WIDTH });
    expect(deviationOf(out)).toBeGreaterThan(0.04 * 0.97);
    expect(deviationOf(out)).toBeLessThan(0.04 * 1.03);
    expect(Math.abs(meanOf(out) - 0.5)).toBeLessThan(0.001);
  },
);

test('a grain is as wide as it says: half as alike at half of its width', () => {
  for (const size of [4, 8]) {
    const out = grainOn(0.5, FRAME_WIDTH, 200, { amount: 0.05, size: size / FRAME_WIDTH });
    expect(Math.abs(alike(out, out, FRAME_WIDTH, size / 2) - 0.5)).toBeLessThan(0.06);
    expect(Math.abs(alike(out, out, FRAME_WIDTH, 3 * size))).toBeLessThan(0.03);
  }
});

test('a smaller picture shows what a larger one looks like when it is made smaller', () => {
  const params = { amount: 0.06, size: 3 / FRAME_WIDTH };
  const [width, height, times] = [1920, 480, 4];
  const whole = grainOn(0.5, width, height, params);
  const small = grainOn(0.5, width / times, height / times, params);
  const shrunk = small.map((_, i) => {
    const [x, y] = [i % (width / times), Math.floor(i / (width / times))];
    let sum = 0;
    for (let v = 0; v < times; v += 1)
      for (let u = 0; u < times; u += 1) sum += whole[(times * y + v) * width + times * x + u];
    return sum / times / times;
  });
  const off = deviationOf(small.map((v, i) => v - shrunk[i]));
  console.log(`made smaller: ${(off / deviationOf(shrunk)).toFixed(3)} of its grain differ`);
  // Pixel sizes are quantised in steps of 2^(1/8), half of which is 4.4 %.
  expect(Math.abs(deviationOf(small) / deviationOf(shrunk) - 1)).toBeLessThan(0.08);
  // An independent pattern would differ by 1.4.
  expect(off / deviationOf(shrunk)).toBeLessThan(0.3);
});

test('another pattern in each frame, the same one in the same frame; white and black stay clean', () => {
  const params = { amount: 0.05, size: 2 / FRAME_WIDTH };
  const frames = [0, 1 / 30, 2 / 30, 1000 / 30].map((t) => grainOn(0.5, 640, 200, params, t));
  for (const [a, b] of [
    [0, 1],
    [1, 2],
    [0, 3],
  ])
    expect(Math.abs(alike(frames[a], frames[b], 640, 0))).toBeLessThan(0.05);
  // The same frame's time, computed differently.
  expect([...grainOn(0.5, 640, 200, params, 0.1 / 3 + 1e-9)]).toEqual([...frames[1]]);
  for (const level of [0, 1]) expect(deviationOf(grainOn(level, 320, 180, params))).toBeLessThan(1e-6);
});

test('a frame’s time tells it from its neighbours at every usual frame rate', () => {
  for (const rate of [24000 / 1001, 24, 25, 30000 / 1001, 30, 50, 60000 / 1001, 60, 120, 240]) {
    const moments = Array.from({ length: 5000 }, (_, n) => [n / rate, (n / rate) * (1 + 1e-13), n * (1 / rate)]);
    const numbers = moments.map((same) => same.map(frameSeed));
    expect(numbers.every(([a, b, c]) => a === b && b === c)).toBe(true);
    expect(new Set(numbers.map(([a]) => a)).size).toBe(5000);
  }
});

test('a colour without a pattern stays; a table cannot hold it', () => {
  const program = compile([newStep('grain', 'g', { amount: 0.1 })], 0);
  expect(evaluate(program, [0.2, 0.4, 0.6], false, [0.5])).toEqual([0.2, 0.4, 0.6].map((v) => expect.closeTo(v, 12)));
  expect(fitInTable([newStep('grain', 'g', { amount: 0.1 })]).lost).toEqual(['Grain']);
});
