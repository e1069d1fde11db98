import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import { gradePicture, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { pictureBytes, planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { RowKernel } from '@inkavo/core/program/cpu/rowKernel';
import { rowKernelBytes } from '@inkavo/core/program/cpu/rowCapacity';
import { shapeSchema } from '@inkavo/core/regions/shape';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { LUMA } from '@inkavo/core/colour/ycbcr';
import { repositoryRoot } from '../root';
import { apart, bakedFor, bothRows, fill, formatOf, furthest, roomOf, setUp } from './testRows';

const grey = newStep('range', 'r', { contrast: 1.1, black: -0.02 });
const open = { veilRed: 0.15, veilGreen: 0.5, veilBlue: 0.45 };
const dive = newStep('water', 'w', { depth: 9, distance: 1, ...open, waterTint: 0.4 });
const ellipse = shapeSchema.parse({
  id: 'e',
  kind: 'ellipse',
  keys: [{ seconds: 0, x: 0.4, y: 0.3, width: 0.5, height: 0.3, turn: 20, feather: 0.15 }],
});
const path = shapeSchema.parse({
  id: 'p',
  kind: 'path',
  mode: 'subtract',
  keys: [
    {
      seconds: 0,
      x: 0.5,
      y: 0.3,
      points: [
        [-0.5, -0.5],
        [0.5, -0.4],
        [0.1, 0.5],
      ].map(([x, y]) => ({ x, y })),
    },
  ],
});
const gradient = shapeSchema.parse({
  id: 'g',
  kind: 'gradient',
  keys: [{ seconds: 0, x: 0.5, y: 0.2, turn: 80, feather: 0.4 }],
});
const bright = { matte: { lightness: { low: 0.4, high: 1, soft: 0.2 } } };
const oval = newStep('region', 'oval', { shapes: [ellipse, path], ...bright, join: 'either' });
const sky = newStep('region', 'sky', { shapes: [gradient], ...bright, inverted: true });
const where = (region: string, step: Step): Step => ({ ...step, id: `${step.id} ${region}`.replace(' ', '-'), region });
provideLut('curves', 'LUT_1D_SIZE 5\n0 0 1\n0.1 0.6 0.9\n0.8 0.65 0.4\n0.9 0.9 0.1\n1 1 0\n');
const GRADES: Record<string, Step[]> = {
  'two regions, one of them with a matte': [
    oval,
    sky,
    grey,
    where('oval', newStep('saturation', 's', { amount: 1.6 })),
    where('sky', newStep('range', 'r', { exposure: -0.7 })),
  ],
  'water in a region, and what acts in another after it': [oval, sky, where('sky', dive), where('oval', grey)],
  'steep curves from a file, by half': [grey, { ...newStep('lut', 'l', { lut: 'curves' }), strength: 0.5 }],
  'one table': [newStep('convert', 'c', { profile: PROFILES[1] }), grey, newStep('saturation', 's', { amount: 1.3 })],
  water: [dive, grey],
  haze: [newStep('haze', 'h', { amount: 0.9, near: 0.1 }), grey],
  'water by halves, for the bright, after a table': [
    grey,
    { ...dive, strength: 0.5, matte: { lightness: { low: 0.3, high: 1, soft: 0.2 }, inverted: false } },
    newStep('saturation', 's', { amount: 1.4 }),
    newStep('haze', 'h', { amount: 0.5 }),
  ],
};

describe.each(Object.entries(GRADES))('%s', (_name, steps) => {
  test.each([
    ['8 bit', {}, {}],
    ['10 to 8 bit, dithered', { depth: 10 }, {}],
    ['chroma between columns', { chromaSite: 'center' }, { chromaSite: 'center' }],
    ['10 bit 4:2:2, full range, wide', { depth: 10, chroma: '422', range: 'full', matrix: 'bt2020' }, { depth: 10 }],
    ['16 bit 4:4:4 to 12 bit', { depth: 16, chroma: '444' }, { depth: 12, chroma: '444' }],
    ['an odd size', { width: 61, height: 29 }, { width: 61, height: 29 }],
    ['a tiny one', { width: 3, height: 2 }, { width: 3, height: 2 }],
  ] as const)('%s: as the plain backend does it', (_format, a, b) => {
    const [input, output] = [formatOf(a as Partial<PlanarFormat>), formatOf(b as Partial<PlanarFormat>)];
    const baked = bakedFor(steps, input);
    const { kernel, source, target } = setUp(input, output, roomOf(baked, input.width));
    kernel.setGrade(baked);
    kernel.picture(source, target);
    const plain = planesOver(new ArrayBuffer(pictureBytes(output)), output);
    gradePicture(baked, source, plain);
    const { most, share } = apart(target, plain);
    // Single against double precision: values between two code values may be rounded either way.
    expect(most).toBeLessThanOrEqual(1);
    expect(share).toBeLessThan(output.depth > 10 ? 0.03 : 0.005);
  });

  test('rows of floats stay within 2e-5 of the plain backend', () => {
    const { kernel, plain, code } = bothRows(steps);
    expect(furthest(kernel, plain)).toBeLessThan(2e-5);
    expect(plain.some((v, i) => Math.abs(v - code[i]) > 0.02)).toBe(true);
  });
});

const sharp = (radius: number, amount = 1.2): Step =>
  newStep('sharpen', `s${10 * radius}`, { amount, radius: radius / 1920 });
const NEIGHBOURS: Record<string, Step[]> = {
  'sharpened between two tables': [grey, sharp(1.4), newStep('saturation', 's', { amount: 1.3 })],
  'sharpened first, and again at the end': [sharp(0.8), dive, sharp(3, 0.6)],
  'sharpened in a region by colour without specks, by halves': [
    newStep('region', 'oval', { shapes: [ellipse], ...bright, clean: 0.02, join: 'either' }),
    grey,
    { ...where('oval', sharp(2)), strength: 0.6 },
    where('oval', newStep('saturation', 's', { amount: 1.6 })),
  ],
};

describe.each(Object.entries(NEIGHBOURS))('%s', (_name, steps) => {
  test.each([
    ['8 bit', { width: 1400 }, { width: 1400 }],
    [
      '10 bit 4:2:2 to 8 bit, an odd size',
      { width: 1401, height: 25, depth: 10, chroma: '422' },
      { width: 1401, height: 25 },
    ],
    ['fewer rows than neighbours', { width: 1400, height: 4 }, { width: 1400, height: 4 }],
  ] as const)('%s: as the plain backend does it', (_format, a, b) => {
    const [input, output] = [formatOf(a as Partial<PlanarFormat>), formatOf(b)];
    const baked = bakedFor(steps, input);
    const { kernel, source, target } = setUp(input, output, roomOf(baked, input.width));
    kernel.setGrade(baked);
    const plain = planesOver(new ArrayBuffer(pictureBytes(output)), output);
    // The second picture must not keep rows of the first.
    for (let round = 0; round < 2; round += 1) {
      if (round) source.y.reverse();
      kernel.picture(source, target);
      gradePicture(baked, source, plain);
      const { most, share } = apart(target, plain);
      expect(most).toBeLessThanOrEqual(1);
      expect(share).toBeLessThan(0.005);
    }
  });

  test('rows of floats stay within 2e-5 of the plain backend', () => {
    const { kernel, plain } = bothRows(steps, 0, { width: 1400, height: 24 });
    expect(furthest(kernel, plain)).toBeLessThan(2e-5);
  });
});

test.each(['two regions, one of them with a matte', 'water in a region, and what acts in another after it'])(
  'one kernel, pictures of several widths, the same planes: %s',
  (name) => {
    const sizes = [1400, 700, 1401, 90].map((width) => formatOf({ width, height: 30, depth: 16, chroma: '444' }));
    const baked = bakedFor(GRADES[name], sizes[0]);
    const { kernel } = setUp(sizes[2], sizes[2], roomOf(baked, 1401));
    kernel.setGrade(baked);
    for (const format of sizes) {
      const { width, height } = format;
      const source = planesOver(new ArrayBuffer(pictureBytes(format)), format);
      fill(source);
      const plain = pictureToRgb(baked, source);
      const out = new Float32Array(plain.length);
      kernel.rgb(pictureToRgb(undefined, source), out, width, height, LUMA[format.matrix]);
      expect(furthest(out, plain)).toBeLessThan(2e-5);
    }
  },
);

test.each(Object.entries(GRADES))(
  'over a memory of its own, not shared, the kernel gives the same: %s',
  (_name, steps) => {
    const format = formatOf({ depth: 16, chroma: '444' });
    const baked = bakedFor(steps, format);
    const capacity = roomOf(baked, format.width);
    const own = readFileSync(join(repositoryRoot(), 'core/program/cpu/wasm/kernel.own.wasm'));
    const pages = Math.ceil((rowKernelBytes(capacity) + 64) / 65536);
    const memory = new WebAssembly.Memory({ initial: pages, maximum: pages });
    expect(memory.buffer.constructor.name).toBe('ArrayBuffer');
    const kernels = [
      setUp(format, format, capacity).kernel,
      new RowKernel(new WebAssembly.Module(own), memory, 0, capacity),
    ];
    const { source } = setUp(format, format, capacity);
    const code = pictureToRgb(undefined, source);
    const rows = kernels.map((kernel) => {
      kernel.setGrade(baked);
      const out = new Float32Array(code.length);
      kernel.rgb(code, out, format.width, format.height, LUMA[format.matrix]);
      return out;
    });
    expect(rows[0]).toEqual(rows[1]);
  },
);

test('a program that is too large, and pictures of someone else, are refused', () => {
  const format = formatOf({});
  const baked = bakedFor(GRADES.water, format);
  const { kernel, source, target } = setUp(format, format, {
    width: 70,
    tables: 1,
    points: 0,
    stencils: 0,
    spread: 0,
    maps: 0,
    size: 33,
    shaper: 0,
    shapes: 0,
  });
  expect(() => kernel.setGrade(baked)).toThrow('no room');
  const foreign = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  expect(() => kernel.picture(foreign, target)).toThrow('memory of the kernel');
  const small = planesOver(source.y.buffer, formatOf({ width: 64 }));
  expect(() => kernel.picture(source, small)).toThrow('as large as');
});
