import fc from 'fast-check';
import type { Vec3 } from '../../colour/matrix';
import { encode709 } from '../../colour/transferTables';
import { luma709 } from '../../colour/ycbcr';
import { gaussianMean } from '../../fields/filters';
import { fitInTable } from '../../formats/gradeLut';
import { newStep } from '../../model/grade';
import { compile } from '../../program/compile';
import { bakeFor, pictureToRgb } from '../../program/cpu/gradePicture';
import { pictureBytes, planesOver } from '../../program/cpu/planar';
import { glow } from './index';

/** A grey picture of encoded values 0–1 through the step; returns one channel. */
function after(
  width: number,
  height: number,
  value: (u: number, v: number) => number,
  params: Record<string, unknown>,
  channel = 1,
): (u: number, v: number) => number {
  const format = {
    ...{ width, height, depth: 16 },
    ...({ chroma: '444', range: 'full', matrix: 'bt709', chromaSite: 'left' } as const),
  };
  const picture = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  picture.y.forEach((_, i) => {
    picture.y[i] = Math.round(65535 * value(((i % width) + 0.5) / width, (Math.floor(i / width) + 0.5) / height));
  });
  picture.cb.fill(32768);
  picture.cr.fill(32768);
  const rgb = pictureToRgb(bakeFor(compile([newStep('glow', 'g', params)], 0), picture, 33), picture);
  return (u, v) => rgb[3 * (Math.floor(v * height) * width + Math.floor(u * width)) + channel];
}

const sun = (u: number, v: number): number => (Math.hypot(u - 0.5, ((v - 0.5) * 9) / 16) < 0.06 ? 1 : 0.1);

test('bright parts shine over what is dark about them, less the further away it is; what is dark alone stays', () => {
  const read = after(640, 360, sun, { amount: 0.8, reach: 0.04 });
  const out = [0.58, 0.62, 0.66, 0.75].map((u) => read(u, 0.5));
  out.slice(1).forEach((v, i) => expect(v).toBeLessThan(out[i]));
  expect(out[0]).toBeGreaterThan(0.3);
  expect(read(0.95, 0.5)).toBeCloseTo(0.1, 3);
  expect(after(640, 360, () => 0.4, { amount: 1 })(0.5, 0.5)).toBeCloseTo(0.4, 4);
});

test('it adds what a Gaussian of that reach makes of the light, in linear light, to what is left to white', () => {
  // A wide field with a straight edge: the light beyond is the normal distribution's tail.
  const reach = 0.05;
  const read = after(1024, 256, (u) => (u < 0.5 ? 1 : 0), { amount: 1, reach });
  // Tail of the standard normal distribution (any statistics table): 0.5 at 0, 0.3085 at 0.5, 0.1587 at 1, 0.0228 at 2.
  for (const [deviations, tail] of [
    [0.5, 0.3085],
    [1, 0.1587],
    [2, 0.0228],
  ])
    expect(Math.abs(read(0.5 + deviations * reach, 0.5) - encode709(tail))).toBeLessThan(0.02);
});

test('the same glow at any size of the picture', () => {
  const params = { amount: 0.7, reach: 0.05 };
  const [small, large] = [after(320, 180, sun, params), after(1280, 720, sun, params)];
  for (const u of [0.3, 0.42, 0.6, 0.7]) expect(Math.abs(small(u, 0.5) - large(u, 0.5))).toBeLessThan(0.02);
});

test('nothing is driven beyond white or made darker, nothing that is white or above it changes, whatever the numbers', () => {
  const light = fc.double({ min: -0.2, max: 1.5, noNaN: true });
  const params = fc.record({
    amount: fc.double({ min: 0.01, max: 1, noNaN: true }),
    warmth: fc.double({ min: -1, max: 1, noNaN: true }),
  });
  fc.assert(
    fc.property(fc.tuple(light, light, light), fc.double({ min: 0, max: 1, noNaN: true }), params, (rgb, plane, p) => {
      const out: Vec3 = [...rgb];
      glow.prepare(glow.schema.parse(p))(out, plane);
      return out.every(
        (v, c) => v >= rgb[c] - 1e-12 && v <= Math.max(1, rgb[c]) + 1e-12 && (rgb[c] < 1 || v === rgb[c]),
      );
    }),
  );
});

test('warmth turns its colour and keeps its luminance', () => {
  const lit = (warmth: number): Vec3 => {
    const out: Vec3 = [0, 0, 0];
    glow.prepare(glow.schema.parse({ amount: 0.5, warmth }))(out, 0.6);
    return out;
  };
  for (const warmth of [-1, 0, 0.5, 1]) expect(luma709(...lit(warmth))).toBeCloseTo(0.3, 9);
  expect(lit(1)[0] / lit(1)[2]).toBeCloseTo(2, 9);
  expect(lit(-1)[0] / lit(-1)[2]).toBeCloseTo(0.5, 9);
});

test('a table cannot hold it', () => {
  expect(fitInTable([newStep('glow', 'g', { amount: 1 })]).lost).toEqual(['Glow']);
});

test('a wide Gaussian mean comes close to the narrow windows’ one', () => {
  const [width, height] = [160, 90];
  const plane = Float32Array.from({ length: width * height }, (_, i) => (i % 37 === 0 ? 1 : (i % width) / width / 4));
  // Just below and above the limit from which box means replace it.
  const [narrow, wide] = [5.999, 6].map((deviation) => gaussianMean(plane, width, height, deviation));
  let [most, among] = [0, 0];
  narrow.forEach((v, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    const inside = x >= 18 && x < width - 18 && y >= 18 && y < height - 18;
    if (inside) among = Math.max(among, Math.abs(v - wide[i]));
    else most = Math.max(most, Math.abs(v - wide[i]));
  });
  console.log(`a wide Gaussian: at most ${among.toFixed(4)} off, at the edges ${most.toFixed(4)}`);
  expect(among).toBeLessThan(0.002);
  expect(most).toBeLessThan(0.02);
});
