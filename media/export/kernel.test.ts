import fc from 'fast-check';
import { newStep } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import { bake, type Table } from '@inkavo/core/program/bake';
import { compile, tableOf } from '@inkavo/core/program/compile';
import { gradePicture } from '@inkavo/core/program/cpu/gradePicture';
import {
  Kernel,
  kernelScratchBytes,
  kernelTableBytes,
  kernelTakes,
  writeKernelTable,
} from '@inkavo/core/program/cpu/kernel';
import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { kernelModule } from '../kernelFile';

const align = (n: number): number => Math.ceil(n / 64) * 64;

/** A picture through the kernel, and through the plain backend. */
function both(
  table: Table,
  input: PlanarFormat,
  output: PlanarFormat,
  fill: (i: number, max: number) => number,
): { kernel: PlanarPicture; plain: PlanarPicture } {
  const [tableAt, inAt] = [0, align(kernelTableBytes(table.size))];
  const outAt = inAt + align(pictureBytes(input));
  const scratch = outAt + align(pictureBytes(output));
  const pages = Math.ceil((scratch + kernelScratchBytes(input.width)) / 65536);
  const memory = new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true });
  writeKernelTable(table, new Int16Array(memory.buffer, tableAt, table.data.length));
  const source = planesOver(memory.buffer, input, inAt);
  const max = 2 ** input.depth - 1;
  for (const plane of [source.y, source.cb, source.cr])
    for (let i = 0; i < plane.length; i += 1) plane[i] = fill(i, max);
  new Kernel(kernelModule()!, memory, input, output, scratch).grade(tableAt, table.size, inAt, outAt);
  const plain = planesOver(new ArrayBuffer(pictureBytes(output)), output);
  gradePicture(table, source, plain);
  return { kernel: planesOver(memory.buffer, output, outAt), plain };
}

/** The maximum difference between two pictures, and the share of samples that differ by more than 1. */
function worst(a: PlanarPicture, b: PlanarPicture): { most: number; shareOff: number } {
  let most = 0;
  let off = 0;
  let n = 0;
  for (const plane of ['y', 'cb', 'cr'] as const) {
    a[plane].forEach((v, i) => {
      const d = Math.abs(v - b[plane][i]);
      most = Math.max(most, d);
      off += d > 1 ? 1 : 0;
      n += 1;
    });
  }
  return { most, shareOff: off / n };
}

const formatOf = (part: Partial<PlanarFormat>): PlanarFormat => ({
  width: 64,
  height: 34,
  depth: 8,
  chroma: '420',
  range: 'limited',
  matrix: 'bt709',
  chromaSite: 'left',
  ...part,
});
const gentle = [newStep('range', 'r', { contrast: 1.1, black: -0.02 }), newStep('saturation', 's', { amount: 1.2 })];
const strong = [
  newStep('convert', 'c', { profile: PROFILES[1] }),
  newStep('balance', 'b', { kelvin: 5000 }),
  newStep('range', 'r', { black: -0.1, contrast: 1.2 }),
];
const bakedTable = (steps: typeof gentle, size: number): Table => bake(tableOf(compile(steps, 0)), size);
const noise = (i: number, max: number): number => (i * 7919 + (i >> 3) * 104729) % (max + 1);

test('the kernel is built', () => expect(kernelModule()).not.toBeNull());

describe.each([33, 65])('a table of %i nodes', (size) => {
  test.each([
    ['8 to 8 bit', {}, {}],
    ['10 to 10 bit', { depth: 10 }, { depth: 10 }],
    ['8 to 10 bit', {}, { depth: 10 }],
    ['full range BT.601 to limited BT.709', { range: 'full', matrix: 'bt601' }, {}],
    ['10 bit BT.2020', { depth: 10, matrix: 'bt2020' }, { depth: 10 }],
    ['odd height, width no multiple of eight', { width: 38, height: 21 }, { width: 38, height: 21 }],
  ] as const)('%s: noise over all code values within one code value of the plain backend', (_name, a, b) => {
    for (const steps of [gentle, strong]) {
      const input = formatOf(a as Partial<PlanarFormat>);
      const { kernel, plain } = both(
        bakedTable(steps, size),
        input,
        { ...formatOf(b as Partial<PlanarFormat>) },
        noise,
      );
      // The finer table leaves one bit less for the position between nodes, which is visible with steep log curves at
      // ten bits.
      const { most, shareOff } = worst(kernel, plain);
      expect(most).toBeLessThanOrEqual(size === 65 ? 2 : 1);
      expect(shareOff).toBeLessThan(0.001);
    }
  });
});

test('any colour at any place in any block, within one code value', () => {
  const table = bakedTable(gentle, 33);
  const format = formatOf({ width: 16, height: 2, depth: 10 });
  fc.assert(
    fc.property(fc.array(fc.nat(1023), { minLength: 64, maxLength: 64 }), (codes) => {
      const { kernel, plain } = both(table, format, format, (i) => codes[i % 64]);
      return worst(kernel, plain).most <= 1;
    }),
    { numRuns: 60 },
  );
});

test('where a log profile is steepest, one sample in ten thousand is two or three code values away, none more', () => {
  const format = formatOf({ width: 1024, height: 256, depth: 10 });
  let seed = 1;
  const random = (_i: number, max: number): number => ((seed = (seed * 48271) % 2147483647) >> 8) % (max + 1);
  const { kernel, plain } = both(bakedTable(strong, 33), format, format, random);
  const { most, shareOff } = worst(kernel, plain);
  console.log(`noise through a log profile: ${(shareOff * 100).toFixed(4)} % more than 1 apart, at most ${most}`);
  expect(most).toBeLessThanOrEqual(3);
  expect(shareOff).toBeLessThan(1e-4);
});

test('ten to eight bits is dithered: a slow ramp keeps its mean, and no step is wider than without', () => {
  const identity = bake({ kind: 'table', domain: [-2 / 27, 30 / 27], evaluate: () => undefined }, 33);
  const wide = formatOf({ width: 512, height: 64, depth: 10 });
  const { kernel } = both(identity, wide, { ...wide, depth: 8 }, (i) => (i < 512 * 64 ? 400 + ((i % 512) >> 5) : 512));
  for (let x = 0; x < 512; x += 32) {
    let sum = 0;
    for (let y = 0; y < 64; y += 1) for (let k = 0; k < 32; k += 1) sum += kernel.y[y * 512 + x + k];
    expect(Math.abs(sum / (64 * 32) - (400 + (x >> 5)) / 4)).toBeLessThan(0.08);
  }
});

test('what the kernel does not take is told', () => {
  const f = formatOf({});
  expect(kernelTakes(f, f, 33)).toBe(true);
  expect([
    kernelTakes({ ...f, chroma: '422' }, f, 33),
    kernelTakes({ ...f, width: 65 }, f, 33),
    kernelTakes(f, f, 17),
    kernelTakes({ ...f, chromaSite: 'center' }, f, 33),
  ]).toEqual([false, false, false, false]);
});
