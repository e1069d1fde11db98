import fc from 'fast-check';
import { ciede2000 } from '../colour/difference';
import { encodedToLab } from '../colour/lab';
import type { Vec3 } from '../colour/matrix';
import { newStep, type Step } from '../model/grade';
import { PROFILES } from '../model/profile';
import { bake, lookUp, type Table } from './bake';
import { changesOverTime, compile, tableOf } from './compile';
import { compileBefore, evaluate } from './evaluate';
import { copyPicture, gradePicture, pictureToRgb } from './cpu/gradePicture';
import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from './cpu/planar';
import { planesKey } from './plan';

const grade: Step[] = [
  newStep('convert', 'c', { profile: PROFILES[1], rollOff: 0.85 }),
  newStep('balance', 'b', { kelvin: 5200, duv: 0.006 }),
  newStep('range', 'r', { black: -0.03, contrast: 1.15, mid: 0.02, soft: 0.06 }),
  newStep('saturation', 's', { amount: 1.2, weak: 0.3 }),
];

test('no steps, neutral steps, steps that are off or without strength: no pass at all', () => {
  const idle = [newStep('range', 'r'), { ...grade[2], on: false }, { ...grade[3], strength: 0 }];
  expect(compile([], 0).ops).toHaveLength(0);
  expect(compile(idle, 0).ops).toHaveLength(0);
});

test('strength mixes in the encoded domain', () => {
  const full = evaluate(compile([grade[2]], 0), [0.3, 0.3, 0.3]);
  const half = evaluate(compile([{ ...grade[2], strength: 0.5 }], 0), [0.3, 0.3, 0.3]);
  expect(half[0]).toBeCloseTo((full[0] + 0.3) / 2, 12);
});

test('a keyframed number is taken at its time', () => {
  const keys = [
    { seconds: 0, value: 0, ease: 'linear' },
    { seconds: 2, value: 0.2, ease: 'linear' },
  ];
  const step: Step = { ...grade[2], params: { ...newStep('range', 'x').params, black: { keys } } };
  const at = (seconds: number) => evaluate(compile([step], seconds), [0, 0, 0])[0];
  expect(changesOverTime([step])).toBe(true);
  expect(at(1)).toBeCloseTo(0.1, 12);
  expect(at(9)).toBeCloseTo(0.2, 12);
});

test('what enters a step is linear light after the steps before it', () => {
  const rgb: Vec3 = [0.5, 0.5, 0.5];
  compileBefore(grade, 'b', 0)(rgb);
  const alone = evaluate(compile([grade[0]], 0), [0.5, 0.5, 0.5]);
  expect(rgb[0]).toBeLessThan(alone[0]);
});

test('a table of an affine function is exact everywhere in its domain', () => {
  const table = bake(
    { kind: 'table', domain: [-2 / 27, 30 / 27], evaluate: (c) => c.forEach((v, i) => (c[i] = 0.2 + 0.5 * v)) },
    9,
  );
  fc.assert(
    fc.property(fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -0.07, max: 1.11, noNaN: true }))), (c) => {
      const out: Vec3 = [0, 0, 0];
      lookUp(table, c[0], c[1], c[2], out);
      return out.every((v, i) => Math.abs(v - (0.2 + 0.5 * c[i])) < 1e-6);
    }),
  );
});

/** Mean and 99th percentile of CIEDE2000 between a table and the exact evaluator, over the code-value cube. */
function bakeError(steps: Step[], size: number): { mean: number; high: number } {
  const program = compile(steps, 0);
  const table = bake(tableOf(program), size);
  const errors: number[] = [];
  const hold = (c: Vec3): Vec3 => c.map((v) => Math.min(1, Math.max(0, v))) as Vec3;
  const out: Vec3 = [0, 0, 0];
  for (let r = 0; r <= 1; r += 0.043) {
    for (let g = 0; g <= 1; g += 0.043) {
      for (let b = 0; b <= 1; b += 0.043) {
        lookUp(table, r, g, b, out);
        errors.push(ciede2000(encodedToLab(hold(out)), encodedToLab(evaluate(program, [r, g, b], true))));
      }
    }
  }
  errors.sort((a, b) => a - b);
  return { mean: errors.reduce((a, e) => a + e, 0) / errors.length, high: errors[Math.floor(errors.length * 0.99)] };
}

/** Grades of eight steps of different kinds. */
const EIGHT_STEPS: [string, Step[]][] = [
  [
    'standard clip, gentle',
    [
      ...grade.slice(1),
      newStep('channels', 'c1', { redTop: 0.03, blueBottom: 0.01 }),
      newStep('curves', 'u1', {
        all: [
          { x: 0, y: 0 },
          { x: 0.4, y: 0.37 },
          { x: 1, y: 1 },
        ],
      }),
      newStep('bands', 'a1', { shadowsCb: 0.01, highlightsCr: 0.01 }),
      newStep('hues', 'h1', { turnAll: 0.01 }),
      newStep('range', 'z1', { contrast: 1.05 }),
    ],
  ],
  [
    'standard clip, strong',
    [
      newStep('balance', 'b', { kelvin: 4300 }),
      newStep('range', 'r', { contrast: 1.4, soft: 0.1, mid: 0.05 }),
      newStep('saturation', 's', { amount: 1.5, weak: 0.5 }),
      newStep('channels', 'c', { greenMiddle: 0.03, redBottom: -0.02 }),
      newStep('bands', 'a', { midtonesSaturation: 1.2, shadowsLevel: -0.03 }),
      newStep('curves', 'u', {
        all: [
          { x: 0, y: 0.02 },
          { x: 0.25, y: 0.2 },
          { x: 0.75, y: 0.82 },
          { x: 1, y: 0.98 },
        ],
      }),
      newStep('range', 'e', { exposure: 0.3 }),
      newStep('hues', 'h', { saturationOverLightness: [1, 1.1, 1, 0.95, 0.9] }),
    ],
  ],
  [
    'flat profile',
    [
      newStep('convert', 'c', { profile: PROFILES[2], rollOff: 0.8 }),
      newStep('balance', 'b', { kelvin: 9600, duv: 0.006 }),
      newStep('range', 'r', { black: -0.03, soft: 0.04 }),
      newStep('saturation', 's', { amount: 1.2 }),
      newStep('channels', 'n', { blueTop: -0.03 }),
      newStep('bands', 'a', { shadowsCr: 0.01 }),
      newStep('curves', 'u', {
        red: [
          { x: 0, y: 0 },
          { x: 0.5, y: 0.52 },
          { x: 1, y: 1 },
        ],
      }),
      newStep('hues', 'h', { turnAll: -0.01 }),
    ],
  ],
  [
    'plain gamma, warm',
    [
      newStep('convert', 'c', { profile: PROFILES[5] }),
      newStep('balance', 'b', { method: 'recorded', recorded: 4300, should: 5500 }),
      newStep('range', 'r', { level1: -0.02, level3: 0.03 }),
      newStep('saturation', 's', { weak: 0.4 }),
      newStep('channels', 'n', { redTop: 0.05 }),
      newStep('bands', 'a', { overallCb: -0.01 }),
      newStep('curves', 'u', {
        blue: [
          { x: 0, y: 0.01 },
          { x: 1, y: 0.97 },
        ],
      }),
      newStep('range', 'q', { soft: 0.08 }),
    ],
  ],
  [
    'black and white',
    [
      newStep('balance', 'b', { kelvin: 5200 }),
      newStep('range', 'r', { contrast: 1.3 }),
      newStep('saturation', 's', { amount: 0 }),
      newStep('channels', 'n', { redTop: 0.02 }),
      newStep('bands', 'a', { shadowsCb: 0.02, highlightsCb: -0.02 }),
      newStep('curves', 'u', {
        all: [
          { x: 0, y: 0 },
          { x: 0.3, y: 0.26 },
          { x: 1, y: 1 },
        ],
      }),
      newStep('range', 'q', { soft: 0.05 }),
      newStep('range', 'w', { mid: 0.02 }),
    ],
  ],
  [
    'green water, by gains',
    [
      newStep('balance', 'b', { method: 'gains', red: 2.2, green: 0.8, blue: 1.1 }),
      newStep('range', 'r', { black: -0.08, soft: 0.06 }),
      newStep('saturation', 's', { amount: 1.15 }),
      newStep('channels', 'n', { redMiddle: 0.03 }),
      newStep('bands', 'a', { highlightsCr: 0.01 }),
      newStep('curves', 'u', {
        all: [
          { x: 0, y: 0 },
          { x: 0.5, y: 0.54 },
          { x: 1, y: 1 },
        ],
      }),
      newStep('hues', 'h', { turnAll: 0.01 }),
      newStep('range', 'q', { contrast: 1.05 }),
    ],
  ],
];

test.each(EIGHT_STEPS)('baked against exact over the code-value cube, eight steps: %s', (name, steps) => {
  expect(steps).toHaveLength(8);
  const [rough, fine] = [bakeError(steps, 33), bakeError(steps, 65)];
  console.log(
    `${name}: CIEDE2000 to the exact evaluator 33³ mean ${rough.mean.toFixed(3)}, 99 % ${rough.high.toFixed(3)}; 65³ mean ${fine.mean.toFixed(3)}, 99 % ${fine.high.toFixed(3)}`,
  );
  expect(rough.mean).toBeLessThanOrEqual(0.15);
  expect(rough.high).toBeLessThanOrEqual(0.8);
  expect(fine.mean).toBeLessThanOrEqual(0.05);
  expect(fine.high).toBeLessThanOrEqual(0.3);
});

const formatOf = (part: Partial<PlanarFormat> = {}): PlanarFormat => ({
  width: 9,
  height: 7,
  depth: 8,
  chroma: '420',
  range: 'limited',
  matrix: 'bt709',
  chromaSite: 'left',
  ...part,
});
function pictureOf(format: PlanarFormat, fill: (i: number) => number): PlanarPicture {
  const picture = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  for (const plane of [picture.y, picture.cb, picture.cr]) plane.forEach((_, i) => (plane[i] = fill(i)));
  return picture;
}
const identity: Table = bake({ kind: 'table', domain: [-2 / 27, 30 / 27], evaluate: () => undefined }, 5);

describe.each(['420', '422', '444'] as const)('planar %s', (chroma) => {
  test.each([8, 10])('an identity table gives a flat field back to the code value, %i bit', (depth) => {
    const format = formatOf({ chroma, depth });
    const unit = 2 ** (depth - 8);
    const input = pictureOf(format, () => 130 * unit);
    const output = pictureOf(format, () => 0);
    gradePicture(identity, input, output);
    for (const plane of ['y', 'cb', 'cr'] as const)
      output[plane].forEach((v, i) => expect(Math.abs(v - input[plane][i])).toBeLessThanOrEqual(1));
  });

  test('copying without a grade keeps every bit, super-whites included', () => {
    const format = formatOf({ chroma });
    const input = pictureOf(format, (i) => (i * 29) % 256);
    const output = pictureOf(format, () => 0);
    copyPicture(input, output);
    expect(output.y).toEqual(input.y);
    expect(output.cr).toEqual(input.cr);
  });
});

test('a picture graded into another size is refused', () => {
  expect(() =>
    gradePicture(
      identity,
      pictureOf(formatOf(), () => 16),
      pictureOf(formatOf({ width: 8 }), () => 0),
    ),
  ).toThrow('as large as');
});

test.each(['left', 'center'] as const)(
  'chroma that rises evenly is read back evenly where it sits (%s)',
  (chromaSite) => {
    const format = formatOf({ width: 16, height: 8, chroma: '422', chromaSite });
    const picture = pictureOf(format, () => 128);
    const offset = chromaSite === 'left' ? 0 : 0.5;
    picture.cb.forEach((_, i) => (picture.cb[i] = 100 + 4 * ((i % 8) * 2 + offset)));
    const rgb = pictureToRgb(undefined, picture);
    const cbAt = (x: number) => (rgb[x * 3 + 2] - 112 / 219) / 1.8556;
    for (let x = 2; x < 14; x += 1) expect(cbAt(x) * 224 + 128).toBeCloseTo(100 + 4 * x, 3);
  },
);

test('a curve is no keyframe: a grade with curves does not change over time', () => {
  const points = [
    { x: 0, y: 0 },
    { x: 1, y: 0.9 },
  ];
  expect(changesOverTime([newStep('curves', 'c', { all: points })])).toBe(false);
  expect(changesOverTime([newStep('range', 'r', { black: { keys: [{ seconds: 0, value: 0.1 }] } })])).toBe(true);
});

test('planes are named by the steps up to the last one that reads the frame, and by all regions', () => {
  const shapes = [{ id: 'e', kind: 'ellipse', keys: [{ seconds: 0, x: 0.4, y: 0.3, width: 0.3, height: 0.2 }] }];
  const region = newStep('region', 'g', { shapes });
  const water = newStep('water', 'w', { depth: 8, distance: 2, veilRed: 0.1, veilGreen: 0.4, veilBlue: 0.45 });
  const [, balance, range, saturation] = grade;
  const steps: Step[] = [region, balance, water, { ...range, region: 'g' }, saturation];
  const key = planesKey(steps, 0);
  const changed = (id: string, params: object): string =>
    planesKey(
      steps.map((s) => (s.id === id ? { ...s, params: { ...s.params, ...params } } : s)),
      0,
    );
  // After the water step: not its concern.
  expect([changed('r', { contrast: 1.3 }), changed('s', { amount: 0.8 })]).toEqual([key, key]);
  const moved = [{ ...shapes[0], keys: [{ ...shapes[0].keys[0], x: 0.5 }] }];
  const others = [changed('b', { kelvin: 4000 }), changed('w', { depth: 9 }), changed('g', { shapes: moved })];
  expect(new Set([key, ...others, planesKey(steps, 1), planesKey(steps.toSpliced(2, 1), 0)]).size).toBe(6);
  // Noise reduction reads the frame as it enters there.
  const clean = newStep('region', 'g', { shapes, matte: { lightness: { low: 0.4, high: 1, soft: 0.2 } }, clean: 0.02 });
  const cleaning = [clean, ...steps.slice(1)];
  const darker = cleaning.map((s) => (s.id === 'w' ? { ...s, params: { ...s.params, depth: 9 } } : s));
  expect(planesKey(darker, 0)).not.toBe(planesKey(cleaning, 0));
});
