import { newStep, type Step } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import { downsample } from '@inkavo/core/fields/smallPicture';
import { cellSums, cellSumsBytes } from '@inkavo/core/program/cpu/cellSums';
import { FixedKernel, fixedKernelBytes } from '@inkavo/core/program/cpu/fixedKernel';
import { gradePicture } from '@inkavo/core/program/cpu/gradePicture';
import { pictureBytes, planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { shapeSchema, type Shape } from '@inkavo/core/regions/shape';
import { STEP_KINDS } from '@inkavo/core/steps';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { PLACES, randomSteps } from '@inkavo/core/steps/randomSteps';
import { kernelModule } from '../kernelFile';
import { apart, bakedFor, fill, formatOf, roomOf } from './testRows';

const LUT = 'fixed';
provideLut(LUT, 'LUT_1D_SIZE 3\n0 0 0\n0.5 0.6 0.5\n1 1 0.9\n');

const STEEP = 'steep';
provideLut(STEEP, 'LUT_1D_SIZE 5\n0 0 1\n0.1 0.6 0.9\n0.8 0.65 0.4\n0.9 0.9 0.1\n1 1 0\n');

/**
 * Grades the test picture with a program in 16-bit lanes, and with the plain backend; undefined if the program cannot
 * run in them.
 */
function both(steps: Step[], input: PlanarFormat, output: PlanarFormat, size = 33) {
  const baked = bakedFor(steps, input, 0.4, size);
  const capacity = roomOf(baked, input.width);
  const inAt = Math.ceil(fixedKernelBytes(capacity) / 64) * 64;
  const outAt = inAt + Math.ceil(pictureBytes(input) / 64) * 64;
  const pages = Math.ceil((outAt + pictureBytes(output)) / 65536);
  const memory = new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true });
  const kernel = new FixedKernel(kernelModule()!, memory, 0, capacity, input, output);
  if (!kernel.takes(baked)) return undefined;
  const source = planesOver(memory.buffer, input, inAt);
  fill(source);
  kernel.setGrade(baked);
  kernel.picture(inAt, outAt);
  const plain = planesOver(new ArrayBuffer(pictureBytes(output)), output);
  gradePicture(baked, source, plain);
  return { ...apart(planesOver(memory.buffer, output, outAt), plain), kernel, baked };
}

const shape = (kind: Shape['kind'], key: object, part: object = {}): Shape =>
  shapeSchema.parse({ id: kind, kind, keys: [{ seconds: 0, ...key }], ...part });
const OVAL = shape('ellipse', { x: 0.4, y: 0.3, width: 0.5, height: 0.3, turn: 20, feather: 0.15 });
const BOARD = shape('rectangle', { x: 0.7, y: 0.2, width: 0.3, height: 0.2, feather: 0.02 });
const SKY = shape('gradient', { x: 0.5, y: 0.2, turn: 80, feather: 0.4 });
const bright = { matte: { lightness: { low: 0.4, high: 1, soft: 0.2 } } };
const grey = newStep('range', 'r', { contrast: 1.1, black: -0.02 });
const dive = newStep('water', 'w', { depth: 9, distance: 1, veilRed: 0.15, veilGreen: 0.5, veilBlue: 0.45 });
const region = (id: string, part: object): Step => newStep('region', id, part as Record<string, unknown>);
const within = (id: string, step: Step): Step => ({ ...step, id: `${step.id}-${id}`, region: id });

const GRADES: Record<string, Step[]> = {
  'a table and two regions, one with a matte': [
    region('oval', { shapes: [OVAL] }),
    region('sky', { shapes: [SKY], ...bright, join: 'either' }),
    newStep('convert', 'c', { profile: PROFILES[1] }),
    grey,
    within('oval', newStep('saturation', 's', { amount: 1.6 })),
    within('sky', newStep('range', 'r', { exposure: -0.7 })),
  ],
  'a region alone': [region('board', { shapes: [BOARD] }), within('board', grey)],
  'all but a region': [region('board', { shapes: [BOARD], inverted: true, ...bright }), within('board', grey)],
  'water first': [dive, grey],
  'water for the bright, between tables, and in a region': [
    region('oval', { shapes: [OVAL, { ...BOARD, mode: 'subtract' }] }),
    grey,
    { ...dive, strength: 0.5, matte: { lightness: { low: 0.3, high: 1, soft: 0.2 }, inverted: false } },
    newStep('saturation', 's', { amount: 1.3 }),
    within('oval', newStep('haze', 'h', { amount: 0.6 })),
  ],
};

const FORMATS: [string, Partial<PlanarFormat>, Partial<PlanarFormat>][] = [
  ['8 bit', {}, {}],
  ['10 to 8 bit, dithered', { depth: 10 }, {}],
  ['10 bit', { depth: 10 }, { depth: 10 }],
  ['full range, wide, odd height', { range: 'full', matrix: 'bt2020', height: 37 }, { height: 37 }],
];

describe.each(Object.entries(GRADES))('%s', (_name, steps) => {
  test.each(FORMATS)('%s: within a code value of the plain backend', (_format, a, b) => {
    const found = both(steps, formatOf(a), formatOf(b))!;
    expect(found.most).toBeLessThanOrEqual(1);
    expect(found.share).toBeLessThan(0.2);
  });
});

/** Ops that read neighbours need floats. */
const KINDS = STEP_KINDS.filter((k) => !k.ofSource && !k.spread && k.kind !== 'lut').map((k) => k.kind);
const SEEDS = [77, 78, 79];
test.each(KINDS.flatMap((kind) => PLACES.map((place) => [kind, place] as const)))(
  'random parameters within a code value: %s, %s',
  (kind, place) => {
    const format = formatOf({ depth: 10 });
    const found = SEEDS.map((seed) => both(randomSteps(kind, seed, place, LUT), format, format));
    if (place.includes('specks')) return expect(found.every((f) => f === undefined)).toBe(true);
    expect(found.some(Boolean)).toBe(true);
    for (const f of found) expect(f?.most ?? 0).toBeLessThanOrEqual(1);
  },
);

test('a table of 65 nodes, and the same kernel for one grade after another', () => {
  const format = formatOf({ depth: 10 });
  for (const steps of Object.values(GRADES)) expect(both(steps, format, format, 65)!.most).toBeLessThanOrEqual(1);
  const { kernel, baked } = both(GRADES['water first'], format, format)!;
  expect(() => kernel.setGrade({ ...baked, ops: [] })).toThrow(RangeError);
  // A file's own table, behind a selection by colour.
  const own = bakedFor([newStep('lut', 'l', { lut: STEEP })], format);
  expect(own.ops.some((op) => op.kind === 'table' && op.own)).toBe(true);
  expect(kernel.takes(own)).toBe(false);
});

test('light and back: a spatial step without effect leaves every grey as it is, black and white among them', () => {
  // With a map of 0 everywhere nothing is darkened.
  const format = formatOf({ depth: 10, width: 1024, height: 2 });
  const baked = bakedFor([newStep('corners', 'c', { amount: 0.5 })], format);
  const still = baked.planes.map((plane) =>
    plane && 'coefficients' in plane ? { ...plane, coefficients: plane.coefficients.map(() => 0) } : plane,
  );
  const capacity = roomOf(baked, format.width);
  const inAt = Math.ceil(fixedKernelBytes(capacity) / 64) * 64;
  const outAt = inAt + Math.ceil(pictureBytes(format) / 64) * 64;
  const pages = Math.ceil((outAt + pictureBytes(format)) / 65536);
  const memory = new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true });
  const kernel = new FixedKernel(kernelModule()!, memory, 0, capacity, format, format);
  const source = planesOver(memory.buffer, format, inAt);
  source.y.forEach((_, i) => (source.y[i] = i % 1024));
  for (const plane of [source.cb, source.cr]) plane.fill(512);
  kernel.setGrade({ ...baked, planes: still });
  kernel.picture(inAt, outAt);
  const { y } = planesOver(memory.buffer, format, outAt);
  // Values beyond black and white are clamped in an export.
  expect(Array.from(y)).toEqual(Array.from(source.y, (v) => Math.min(940, Math.max(64, v))));
});

test.each([
  ['10 bit', { depth: 10, width: 1920, height: 1080 }],
  ['4:2:2, an odd size', { chroma: '422', width: 701, height: 37 }],
  ['4:4:4, 16 bit', { chroma: '444', depth: 16, width: 640, height: 90 }],
] as const)('rows added up by the kernel make the same small picture: %s', (_name, part) => {
  const format = formatOf(part);
  const at = Math.ceil(pictureBytes(format) / 64) * 64 + 64;
  const pages = Math.ceil((at + cellSumsBytes(format.width)) / 65536);
  const memory = new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true });
  const picture = planesOver(memory.buffer, format, 0);
  fill(picture);
  expect(downsample(picture, cellSums(kernelModule()!, memory, at))).toEqual(downsample(picture));
});
