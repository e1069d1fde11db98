import fc from 'fast-check';
import type { Vec3 } from '../colour/matrix';
import { ycbcrToRgb } from '../colour/ycbcr';
import { newStep, stepSchema } from '../model/grade';
import { compile } from '../program/compile';
import { evaluate } from '../program/evaluate';
import { colour } from '../steps/testRun';
import { matteFunction, matteSchema } from './matte';

const of = (matte: object) => matteFunction(matteSchema.parse(matte));
/** A colour of a hue in turns. */
const hued = (turns: number, chroma = 0.2): Vec3 =>
  ycbcrToRgb([0.5, chroma * Math.cos(2 * Math.PI * turns), chroma * Math.sin(2 * Math.PI * turns)], 'bt709');

test('a hue: all of its middle, nothing beyond its reach, no seam at the ends of the circle, nothing of grey', () => {
  const matte = of({ hue: { middle: 0.98, reach: 0.05, soft: 0.02 } });
  expect([0.98, 0.01, 0.02, 0.06, 0.5].map((h) => Number(matte(hued(h)).toFixed(6)))).toEqual([1, 1, 1, 0, 0]);
  expect(matte([0.5, 0.5, 0.5])).toBe(0);
});

test('lightness and saturation: softly in and out; inverted is the rest', () => {
  const light = { lightness: { low: 0.4, high: 0.6, soft: 0.1 } };
  expect([0.3, 0.35, 0.4, 0.5, 0.65, 0.71].map((v) => of(light)([v, v, v]))).toEqual([
    0,
    expect.closeTo(0.5, 9),
    1,
    1,
    expect.closeTo(0.5, 9),
    0,
  ]);
  expect(of({ saturation: { low: 0.3, soft: 0 } })(hued(0.2, 0.1))).toBe(0);
  fc.assert(
    fc.property(colour, (rgb) => {
      const a = of({ ...light, hue: { middle: 0.2, reach: 0.1 } })(rgb);
      return (
        a >= 0 &&
        a <= 1 &&
        Math.abs(a + of({ ...light, hue: { middle: 0.2, reach: 0.1 }, inverted: true })(rgb) - 1) < 1e-12
      );
    }),
  );
});

test('in a grade: a step acts where its matte holds, and not at all elsewhere; many such steps are one pass', () => {
  const step = (matte: object) => stepSchema.parse({ ...newStep('saturation', 's', { amount: 0 }), matte });
  const grade = [
    step({ hue: { middle: 0.25, reach: 0.05 } }),
    { ...step({ hue: { middle: 0.75, reach: 0.05 } }), id: 't' },
  ];
  const program = compile(grade, 0);
  expect(program.ops).toHaveLength(1);
  const [out, left] = [evaluate(program, hued(0.25)), evaluate(program, hued(0.5))];
  expect(Math.max(...out) - Math.min(...out)).toBeLessThan(1e-9);
  expect(left).toEqual(hued(0.5));
  expect(() => step({ lightness: { low: 0.7, high: 0.2 } })).toThrow('high must not lie below low');
});
