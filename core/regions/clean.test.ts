import { cleaned } from './clean';
import { gaussianMean } from '../fields/filters';
import { newStep, type Step } from '../model/grade';
import { bakeFor, pictureToRgb } from '../program/cpu/gradePicture';
import { pictureBytes, planesOver, type PlanarPicture } from '../program/cpu/planar';
import { compile } from '../program/compile';
import { fitInTable } from '../formats/gradeLut';
import { regionSchema } from './region';

const [WIDTH, HEIGHT] = [512, 288];
/** Diameter in pixels of the specks that are cleaned away. */
const SIZE = 12;

/** A bright field to the right of a dark one; `spots` are round and of the other tone: x, y, diameter. */
function picture(spots: readonly (readonly [x: number, y: number, size: number])[] = []): PlanarPicture {
  const format = {
    width: WIDTH,
    height: HEIGHT,
    depth: 8,
    chroma: '444',
    range: 'full',
    matrix: 'bt709',
    chromaSite: 'left',
  } as const;
  const out = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  out.y.forEach((_, i) => {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    const other = spots.some(([u, v, size]) => Math.hypot(x - u, y - v) < size / 2);
    out.y[i] = x >= WIDTH / 2 !== other ? 200 : 40;
  });
  out.cb.fill(128);
  out.cr.fill(128);
  return out;
}

const grade = (clean: number): Step[] => [
  newStep('region', 'bright', regionSchema.parse({ matte: { lightness: { low: 0.5, high: 1, soft: 0.02 } }, clean })),
  { ...newStep('range', 'darker', { exposure: -1 }), region: 'bright' },
];

/** The share of the step that each pixel received, from the change of its luma. */
function amounts(of: PlanarPicture, clean: number): (x: number, y: number) => number {
  const out = pictureToRgb(bakeFor(compile(grade(clean), 0), of, 33), of);
  const all = pictureToRgb(bakeFor(compile([newStep('range', 'darker', { exposure: -1 })], 0), of, 33), of);
  const before = pictureToRgb(undefined, of);
  return (x, y) => {
    const i = 3 * (y * WIDTH + x);
    return (out[i] - before[i]) / (all[i] - before[i]);
  };
}

test('what is as its neighbourhood stays; what is lonely goes; beside a straight edge nothing changes', () => {
  for (const v of [0, 0.1, 0.4, 0.5, 0.8, 1]) expect(cleaned(v, v)).toBeCloseTo(v, 9);
  expect(cleaned(1, 0.05)).toBeCloseTo(0.05, 9);
  expect(cleaned(0, 0.95)).toBeCloseTo(0.95, 9);
  expect([cleaned(1, 0.5), cleaned(0, 0.5), cleaned(1, 0.9), cleaned(0, 0.1)]).toEqual([1, 0, 1, 0]);
});

test('a Gaussian mean: of an even plane itself, of a step its half at the edge, of a point the normal weights', () => {
  expect(
    Math.max(...gaussianMean(new Float32Array(60).fill(0.3), 10, 6, 2).map((v) => Math.abs(v - 0.3))),
  ).toBeLessThan(1e-6);
  const point = new Float32Array(41 * 41);
  point[20 * 41 + 20] = 1;
  const spread = gaussianMean(point, 41, 41, 3);
  // The normal distribution's density: 1 / (2π · 3²) at its centre.
  expect(spread[20 * 41 + 20] * (2 * Math.PI * 9)).toBeCloseTo(1, 2);
  expect(spread[20 * 41 + 23] / spread[20 * 41 + 20]).toBeCloseTo(Math.exp(-0.5), 5);
});

test('specks and holes up to the size go, larger things and the edge stay', () => {
  const spots = [
    [80, 80, SIZE],
    [80, 200, 5 * SIZE],
    [400, 80, SIZE],
    [400, 200, 5 * SIZE],
  ] as const;
  const shown = picture(spots);
  const raw = amounts(shown, 0);
  const clean = amounts(shown, SIZE / WIDTH);
  expect(spots.map(([x, y]) => Math.abs(Math.round(raw(x, y))))).toEqual([1, 1, 0, 0]);
  expect(clean(80, 80)).toBeLessThan(0.1);
  expect(clean(400, 80)).toBeGreaterThan(0.9);
  expect(clean(80, 200)).toBeGreaterThan(0.95);
  expect(clean(400, 200)).toBeLessThan(0.05);
  const edge = (of: typeof raw): number[] =>
    [-6, -2, -1, 0, 1, 5].map((d) => Math.abs(Number(of(WIDTH / 2 + d, 140).toFixed(2))));
  expect(edge(raw)).toEqual([0, 0, 0, 1, 1, 1]);
  // The neighbourhood is known by cells: the pixel beside the edge may deviate slightly.
  edge(clean).forEach((v, i) => expect(Math.abs(v - edge(raw)[i])).toBeLessThan(0.1));
});

test('single pixels of noise go at the smallest size', () => {
  const shown = picture();
  for (let i = 0; i < shown.y.length; i += 97) shown.y[i] = 240 - shown.y[i];
  const [raw, clean] = [amounts(shown, 0), amounts(shown, 0.002)];
  let [before, after] = [0, 0];
  for (let y = 20; y < HEIGHT - 20; y += 1)
    for (let x = 20; x < WIDTH - 20; x += 1) {
      if (Math.abs(x - WIDTH / 2) < 8) continue;
      const truth = x >= WIDTH / 2 ? 1 : 0;
      before = Math.max(before, Math.abs(raw(x, y) - truth));
      after = Math.max(after, Math.abs(clean(x, y) - truth));
    }
  expect(before).toBeGreaterThan(0.9);
  expect(after).toBeLessThan(0.35);
});

test('it depends on the place: a table cannot hold it, and says which step', () => {
  expect(fitInTable(grade(0)).lost).toEqual([]);
  expect(fitInTable(grade(0.01)).lost).toEqual(['Range']);
  expect(regionSchema.safeParse({ clean: 0.2 }).success).toBe(false);
});
