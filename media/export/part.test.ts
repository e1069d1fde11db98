import { LUMA } from '@inkavo/core/colour/ycbcr';
import type { Step } from '@inkavo/core/model/grade';
import { newStep } from '@inkavo/core/model/grade';
import type { Baked } from '@inkavo/core/program/baked';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { RowGrader } from '@inkavo/core/program/cpu/rowGrader';
import { sampleView } from '@inkavo/core/program/cpu/sampleView';
import { partOf, rimOf } from '@inkavo/core/program/part';
import { PLACES, randomSteps } from '@inkavo/core/steps/randomSteps';
import { bakedFor, fill, formatOf, furthest, roomOf, setUp } from './testRows';
import { pictureBytes, planesOver } from '@inkavo/core/program/cpu/planar';

const format = formatOf({ width: 320, height: 180, depth: 16, chroma: '444' });
const weights = LUMA[format.matrix];
const WHOLE = { x: 0, y: 0, width: 1, height: 1 };
const picture = planesOver(new ArrayBuffer(pictureBytes(format)), format);
fill(picture);
const source = { rgb: pictureToRgb(undefined, picture), width: format.width, height: format.height, part: WHOLE };

/** A rectangle of pixels as a part of the frame. */
const partAt = (x: number, y: number, width: number, height: number) => ({
  x: x / format.width,
  y: y / format.height,
  width: width / format.width,
  height: height / format.height,
});

function plain(baked: Baked, code: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(code.length);
  const row = (of: Float32Array, y: number): Float32Array => of.subarray(3 * y * width, 3 * (y + 1) * width);
  const grader = new RowGrader(baked, width, height, weights, (y, line) => line.set(row(code, y)));
  for (let y = 0; y < height; y += 1) grader.grade(y, row(out, y));
  return out;
}

const cut = (of: Float32Array, from: number, x: number, y: number, width: number, height: number): Float32Array => {
  const out = new Float32Array(3 * width * height);
  for (let row = 0; row < height; row += 1) {
    const start = 3 * ((y + row) * from + x);
    out.set(of.subarray(start, start + 3 * width), 3 * row * width);
  }
  return out;
};

/** Both backends on a part of the frame, and their result there for the whole frame. */
function parts(steps: Step[]) {
  const baked = bakedFor(steps, format);
  const whole = plain(baked, source.rgb, format.width, format.height);
  const [x, y, width, height] = [101, 37, 120, 61];
  const rim = rimOf(baked.ops, format.width);
  const [w, h] = [width + 2 * rim, height + 2 * rim];
  const part = partAt(x - rim, y - rim, w, h);
  const seen = partOf(baked, part);
  const code = sampleView(source, part, w, h);
  const { kernel } = setUp(format, format, roomOf(seen, w));
  kernel.setGrade(seen);
  const out = new Float32Array(code.length);
  kernel.rgb(code, out, w, h, weights);
  const inner = (of: Float32Array): Float32Array => cut(of, w, rim, rim, width, height);
  return {
    ...{ rim, kernel: inner(out), plain: inner(plain(seen, code, w, h)) },
    whole: cut(whole, format.width, x, y, width, height),
    entering: cut(source.rgb, format.width, x, y, width, height),
  };
}

const KINDS = ['water', 'haze', 'corners', 'range', 'saturation'];
const CASES = KINDS.flatMap((kind, k) => PLACES.map((place, i) => [kind, place, 10 * k + i] as const));
test.each(CASES)('%s %s: a part of the frame is what it is in the whole frame', (kind, place, seed) => {
  const seen = parts(randomSteps(kind, 500 + seed, place));
  expect(furthest(seen.plain, seen.whole)).toBeLessThan(2e-5);
  expect(furthest(seen.kernel, seen.whole)).toBeLessThan(4e-5);
});

test('steps that look at neighbours see what lies around the part', () => {
  const steps = [
    newStep('range', 'r', { contrast: 1.2 }),
    newStep('sharpen', 's', { amount: 1.5, radius: 0.002 }),
    newStep('sharpen', 't', { amount: 0.8, radius: 0.0015 }),
  ];
  const seen = parts(steps);
  expect(seen.rim).toBe(4);
  expect(furthest(seen.whole, seen.entering)).toBeGreaterThan(0.05);
  expect(furthest(seen.plain, seen.whole)).toBeLessThan(2e-5);
  expect(furthest(seen.kernel, seen.whole)).toBeLessThan(4e-5);
});

test('between samples a view is interpolated; beyond the frame its edge goes on; one to one nothing is copied or rounded', () => {
  const ramp = {
    rgb: Float32Array.from({ length: 12 }, (_, i) => Math.floor(i / 3)),
    width: 4,
    height: 1,
    part: WHOLE,
  };
  expect(sampleView(ramp, WHOLE, 4, 1)).toBe(ramp.rgb);
  const reds = (view: Float32Array): number[] => Array.from(view).filter((_, i) => i % 3 === 0);
  expect(reds(sampleView(ramp, { ...WHOLE, x: 0.25, width: 0.5 }, 4, 1))).toEqual([0.75, 1.25, 1.75, 2.25]);
  expect(reds(sampleView(ramp, { ...WHOLE, x: -0.5, width: 2 }, 8, 1))).toEqual([0, 0, 0, 1, 2, 3, 3, 3]);
  // A finer picture of the right half.
  const finer = { ...ramp, part: { ...WHOLE, x: 0.5, width: 0.5 } };
  expect(reds(sampleView(finer, { ...WHOLE, x: 0.75, width: 0.25 }, 2, 1))).toEqual([2, 3]);
});

test('bytes are the floats rounded and held; how much of an op was chosen is told', () => {
  const [step, ...more] = randomSteps('range', 77, 'in a shape or by lightness, inverted');
  const baked = bakedFor([step, ...more], format);
  const { width, height } = format;
  const { kernel } = setUp(format, format, roomOf(baked, width));
  kernel.setGrade(baked);
  const floats = new Float32Array(source.rgb.length);
  const bytes = new Uint8ClampedArray(4 * width * height);
  const op = baked.ops.findIndex((o) => o.mix);
  const amounts = new Float32Array(width * height).fill(9);
  kernel.rgb(source.rgb, floats, width, height, weights, { op, amounts });
  kernel.rgb(source.rgb, bytes, width, height, weights);
  const rounded = new Uint8ClampedArray(bytes.length).fill(255);
  floats.forEach((v, i) => (rounded[4 * Math.floor(i / 3) + (i % 3)] = 255 * v));
  const off = bytes.reduce((n, v, i) => n + Number(v !== rounded[i]), 0);
  // Halves are rounded up there, to even here.
  expect(furthest(bytes, rounded)).toBeLessThanOrEqual(1);
  expect(off / bytes.length).toBeLessThan(1e-4);
  // Blended again by hand, with the op's own table everywhere.
  const everywhere = { ...baked, ops: baked.ops.map((o) => ({ ...o, mix: undefined })) } as Baked;
  const full = plain(everywhere, source.rgb, width, height);
  const mixed = source.rgb.map((v, i) => v + amounts[Math.floor(i / 3)] * (full[i] - v));
  expect(baked.ops).toHaveLength(1);
  expect(new Set(amounts).size).toBeGreaterThan(100);
  expect(furthest(mixed, floats)).toBeLessThan(1e-5);
});

test('ops in two goes are the same to the last bit: what enters the later ones, and the luma of the file', () => {
  const [region, ...range] = randomSteps('range', 92, 'in a shape');
  const open = { veilRed: 0.15, veilGreen: 0.5, veilBlue: 0.45 };
  const steps = [
    region,
    newStep('water', 'w', { depth: 9, distance: 1, ...open }),
    ...range,
    newStep('haze', 'h', { amount: 0.8, near: 0.1 }),
    newStep('saturation', 's', { amount: 1.3 }),
  ];
  const baked = bakedFor(steps, format);
  const { width, height } = format;
  const { kernel } = setUp(format, format, roomOf(baked, width));
  const run = (from: number, to: number, input: Float32Array): Float32Array => {
    kernel.setGrade({ ...baked, ops: baked.ops.slice(from, to) });
    const out = new Float32Array(input.length);
    kernel.rgb(input, out, width, height, weights, undefined, from > 0 ? source.rgb : undefined);
    return out;
  };
  const whole = run(0, baked.ops.length, source.rgb);
  expect(baked.ops.length).toBeGreaterThan(2);
  for (let k = 1; k < baked.ops.length; k += 1)
    expect(furthest(run(k, baked.ops.length, run(0, k, source.rgb)), whole)).toBe(0);
});
