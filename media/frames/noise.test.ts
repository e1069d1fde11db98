import { execFileSync } from 'node:child_process';
import { appendFileSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fitInTable, gradeToLut } from '@inkavo/core/formats/gradeLut';
import { newStep, stepSchema, type Step } from '@inkavo/core/model/grade';
import { compile } from '@inkavo/core/program/compile';
import { asksSource, sourceNoise } from '@inkavo/core/program/source';
import { noiseKernelBytes } from '@inkavo/core/noise/noiseKernel';
import { NOISE_REACH, noiseLevelOf, reduceNoise, type NoiseAmounts } from '@inkavo/core/noise/reduce';
import { pictureBytes, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { pixelFormatName } from '../codec/formats';
import { QUIET } from '../codec/run';
import { gradeInto } from '../export/exportClip';
import { startCodec } from '../export/parts';
import { mostThreads } from '../export/ring';
import { make, QUICK_H264, sourceOf, TAGS_709, workFolder } from '../testClips';
import { levelOf, levelStack, noiseTask, quicklyDecoded, reducedOf } from './noise';
import { emptyPicture, joinedPictures, noisyScene } from './noisyScene';
import { decodeFrame, restFrame, restOf, type Source } from './rest';

const folder = workFolder();
const LIMITED = { range: 'limited', matrix: 'bt709', chromaSite: 'left' } as const;
const byKernel = (pictures: readonly PlanarPicture[], at: number, amounts: NoiseAmounts): PlanarPicture =>
  reducedOf({
    kind: 'noise',
    format: pictures[0].format,
    frames: joinedPictures(pictures),
    order: pictures.map((_, k) => k),
    at,
    amounts,
  });

/** Peak signal-to-noise ratio in decibels. */
function psnr(a: ArrayLike<number>, b: ArrayLike<number>, depth: number): number {
  let sum = 0;
  for (let i = 0; i < a.length; i += 1) sum += (a[i] - b[i]) ** 2;
  return 10 * Math.log10((2 ** depth - 1) ** 2 / (sum / a.length + 1e-12));
}

const WHOLE = { luma: 1, chroma: 1 };

test.each([
  ['420', 8, 221, 133],
  ['420', 10, 205, 119],
  ['422', 10, 190, 120],
  ['444', 12, 171, 130],
  ['420', 8, 96, 40],
] as const)('the kernel does what the plain backend does: %s, %i bits, %i × %i', (chroma, depth, width, height) => {
  const format = { ...LIMITED, chroma, depth, width, height };
  const { noisy } = noisyScene(format, 4);
  for (const [at, amounts] of [
    [2, WHOLE],
    [0, { luma: 1.6, chroma: 0 }],
    [4, { luma: 0, chroma: 2 }],
  ] as const) {
    const want = emptyPicture(format);
    reduceNoise(noisy, at, amounts, want);
    const got = byKernel(noisy, at, amounts);
    for (const plane of ['y', 'cb', 'cr'] as const) {
      let off = 0;
      want[plane].forEach((v, i) => {
        const d = Math.abs(v - got[plane][i]);
        if (d > 1) throw new Error(`${plane} ${i}: ${got[plane][i]} is not ${v}`);
        off += d;
      });
      expect(off / want[plane].length).toBeLessThan(0.001);
      const changed = want[plane].some((v, i) => v !== noisy[at][plane][i]);
      expect(changed).toBe((plane === 'y' ? amounts.luma : amounts.chroma) > 0);
    }
  }
});

test('noise goes, what moves stays: nearer the truth by over 4 dB at every strength, and nothing without noise is harmed', () => {
  const format = { ...LIMITED, chroma: '420', depth: 8, width: 384, height: 216 } as const;
  for (const deviation of [1.5, 4, 9]) {
    const { clean, noisy } = noisyScene(format, deviation);
    const out = byKernel(noisy, 2, WHOLE);
    const gains = (['y', 'cb', 'cr'] as const).map(
      (p) => psnr(out[p], clean[2][p], 8) - psnr(noisy[2][p], clean[2][p], 8),
    );
    console.log(`noise of ${deviation}: ${gains.map((g) => g.toFixed(1)).join(', ')} dB nearer`);
    // Averaging five frames gains 7.0 dB.
    for (const gain of gains) expect(gain).toBeGreaterThan(4);
  }
  const { clean } = noisyScene(format, 0);
  expect(psnr(byKernel(clean, 2, WHOLE).y, clean[2].y, 8)).toBeGreaterThan(50);
});

test('where the picture jumps from one scene to the next, each stays itself', () => {
  const format = { ...LIMITED, chroma: '420', depth: 8, width: 256, height: 144 } as const;
  const { noisy, clean } = noisyScene(format, 3);
  const other = emptyPicture(format);
  other.y.forEach((_, i) => (other.y[i] = 60 + ((i * 7919) % 120)));
  other.cb.fill(90);
  other.cr.fill(160);
  const out = byKernel([noisy[0], noisy[1], noisy[2], other, other], 2, WHOLE);
  expect(psnr(out.y, clean[2].y, 8)).toBeGreaterThan(psnr(noisy[2].y, clean[2].y, 8) + 2);
  const first = byKernel([other, other, noisy[2], other, other], 2, WHOLE);
  expect(psnr(first.y, noisy[2].y, 8)).toBeGreaterThan(48);
});

test.each([
  ['420', 8],
  ['422', 10],
] as const)('how strong noise is, the kernel says as the plain backend: %s, %i bits', (chroma, depth) => {
  const format = { ...LIMITED, chroma, depth, width: 221, height: 133 };
  const { noisy } = noisyScene(format, 4);
  const plain = noiseLevelOf(noisy, 2)!;
  const measured = levelOf({ format, frames: joinedPictures(noisy), order: [0, 1, 2, 3, 4], at: 2 })!;
  for (const plane of ['luma', 'chroma'] as const)
    measured[plane].forEach((v, i) => expect(Math.abs(v / plain[plane][i] - 1)).toBeLessThan(0.01));
  // Of five frames only the two adjacent ones are used.
  expect(levelOf({ format, frames: joinedPictures(noisy), order: [1, 2, 3], at: 1 })).toEqual(measured);
});

test('one frame alone, and a picture too small for blocks, stay as they are', () => {
  const format = { ...LIMITED, chroma: '420', depth: 10, width: 64, height: 48 } as const;
  const { noisy } = noisyScene(format, 4);
  expect(byKernel([noisy[0]], 0, WHOLE).y).toEqual(noisy[0].y);
  const small = noisyScene({ ...format, width: 40, height: 20 }, 4).noisy;
  expect(byKernel(small, 2, WHOLE).y).toEqual(small[2].y);
});

/** The bytes of a clip's frames as an export grades them, before any encoder. */
async function exported(source: Source, steps: Step[], inFrame: number, outFrame: number, plain = false) {
  const path = join(folder, 'graded.raw');
  const delivery = { codec: 'ffv1' } as const;
  await gradeInto({ source, steps, inFrame, outFrame, plain, delivery, alwaysGraded: true }, ({ format, pipe }) => {
    const raw = ['-f', 'rawvideo', '-pix_fmt', pixelFormatName(format), '-s', `${format.width}x${format.height}`];
    return startCodec('encoder', [...QUIET, '-y', ...raw, '-i', pipe, '-f', 'rawvideo', path]);
  });
  return readFileSync(path);
}

/** A lossless file of the frames shown at rest. */
async function seenAtRest(source: Source, inFrame: number, outFrame: number): Promise<Source> {
  const [raw, path] = [join(folder, 'reduced.raw'), join(folder, 'reduced.mkv')];
  rmSync(raw, { force: true });
  for (let n = inFrame; n <= outFrame; n += 1)
    appendFileSync(raw, new Uint8Array(reducedOf(await noiseTask(source, n, WHOLE)).y.buffer));
  const { width, height } = source.facts;
  const input = ['-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-s', `${width}x${height}`, '-r', '30', '-i', raw];
  execFileSync('ffmpeg', [...QUIET, '-y', ...input, ...LOSSLESS, path]);
  return sourceOf(path);
}

const MOVING = 'testsrc2=size=352x200:rate=30:duration=0.8,noise=alls=14:allf=t:all_seed=5';
const LOSSLESS = ['-c:v', 'ffv1', ...TAGS_709, '-pix_fmt', 'yuv420p'];
const CAMERA = ['-c:v', 'libx264', '-crf', '16', '-g', '12', '-bf', '2', ...TAGS_709, '-pix_fmt', 'yuv420p'];
const VARIABLE = [...CAMERA, '-fps_mode', 'vfr', '-video_track_timescale', '90000'];
const DROPPED = `${MOVING},select='not(eq(mod(n\\,5)\\,3))'`;

test.each([
  ['from the first frame', 'a.mkv', MOVING, LOSSLESS, 0, 9, false],
  ['from the middle', 'b.mp4', MOVING, CAMERA, 7, 16, false],
  ['to the last frame', 'c.mp4', MOVING, CAMERA, 14, 23, false],
  ['of one frame', 'd.mp4', MOVING, CAMERA, 9, 9, false],
  ['at a variable rate', 'e.mp4', DROPPED, VARIABLE, 5, 11, false],
  ['by the plain backend', 'f.mkv', MOVING, LOSSLESS, 3, 5, true],
])(
  'an export %s has the very frames that are seen at rest',
  async (_name, file, input, codec, inFrame, outFrame, plain) => {
    const source = await sourceOf(make(join(folder, file), input, codec));
    expect(source.facts.variableRate).toBe(codec === VARIABLE);
    const got = await exported(source, [newStep('noise', 'n', { amount: 1 })], inFrame, outFrame, plain);
    const rest = await seenAtRest(source, inFrame, outFrame);
    const want = await exported(rest, [], 0, outFrame - inFrame, plain);
    expect(want.length).toBe(got.length);
    const off = got.reduce((n, v, i) => n + (v === want[i] ? 0 : 1), 0);
    // The plain backend rounds its last digit differently from the kernel, which computes frames at rest.
    expect(off / got.length).toBeLessThan(plain ? 0.001 : 1e-9);
    const recorded = await exported(source, [], inFrame, outFrame, plain);
    expect(got.reduce((n, v, i) => n + (v === recorded[i] ? 0 : 1), 0) / got.length).toBeGreaterThan(0.3);
  },
);

test('a decoded picture is scaled as the file is', async () => {
  const source = await sourceOf(make(join(folder, 'scaled.mp4'), MOVING, CAMERA));
  const whole = await decodeFrame(source, 4);
  for (const [width, part] of [
    [352, undefined],
    [176, undefined],
    [64, { x: 40, y: 20, width: 64, height: 48 }],
  ] as const) {
    const [a, b] = [
      await restFrame(source, 4, width, undefined, part),
      await restOf(whole, source.facts, width, undefined, part),
    ];
    expect(b.format).toEqual(a.format);
    expect(Buffer.compare(Buffer.from(a.y.buffer), Buffer.from(b.y.buffer))).toBe(0);
  }
});

test('at the ends of a clip there are fewer neighbours', async () => {
  const source = await sourceOf(make(join(folder, 'ends.mkv'), MOVING, LOSSLESS));
  const last = source.facts.frames - 1;
  for (const [frame, order, at] of [
    [0, [0, 1, 2], 0],
    [1, [0, 1, 2, 3], 1],
    [last, [0, 1, 2], NOISE_REACH],
  ] as const)
    expect(await noiseTask(source, frame, WHOLE)).toMatchObject({ order, at });
});

test('a frame that is quickly decoded lies right behind where decoding begins, with one on either side', async () => {
  // Whole pictures are the 1st, 9th and 17th of 24.
  const keyed = [...QUICK_H264, '-bf', '0', '-g', '8', '-keyint_min', '8', '-sc_threshold', '0'];
  const source = await sourceOf(make(join(folder, 'keyed.mp4'), MOVING, keyed));
  const near = await Promise.all([0, 7, 9, 23].map((frame) => quicklyDecoded(source, frame)));
  expect(near).toEqual([2, 2, 10, 18]);
  const one = await sourceOf(make(join(folder, 'one.mkv'), MOVING, [...LOSSLESS, '-frames:v', '1']));
  expect(await quicklyDecoded(one, 0)).toBe(0);
  expect(levelOf(await levelStack(one, 0))).toBeNull();
});

test('frames of 8K leave room for fewer threads, the largest that are taken for none', () => {
  const threads = (width: number, height: number, depth: number): number => {
    const format = { ...LIMITED, chroma: '420', depth, width, height } as const;
    const bytes = pictureBytes(format);
    const sizes = { inputBytes: bytes, outputBytes: bytes, ownBytes: bytes + noiseKernelBytes(format) };
    return mostThreads({ lead: 2, count: 9, reach: NOISE_REACH }, sizes);
  };
  expect([threads(3840, 2160, 10) > 8, threads(8192, 4608, 10), threads(16_384, 8192, 10)]).toEqual([true, 5, 0]);
});

test('a step of this kind is no part of the program, no table holds it, and it has no place', () => {
  const steps = [
    newStep('range', 'range', { exposure: 0.4 }),
    { ...newStep('noise', 'n', { amount: 1.5 }), strength: 0.5 },
  ];
  expect(compile(steps, 0).ops).toEqual(
    compile(steps.slice(0, 1), 0).ops.map((op) => expect.objectContaining({ kind: op.kind })),
  );
  expect(fitInTable(steps).lost).toEqual(['Noise']);
  expect(() => gradeToLut(steps, 17, 'x')).toThrow('Noise depends on other frames, which');
  expect(sourceNoise(steps, 0)).toEqual({ luma: 0.75, chroma: 0.75 });
  expect(sourceNoise([{ ...steps[1], on: false }], 0)).toBeUndefined();
  expect([steps, [newStep('noise', 'n')], steps.slice(0, 1)].map(asksSource)).toEqual([true, false, false]);
  const keyed = newStep('noise', 'k', {
    colour: 0.5,
    amount: {
      keys: [
        { seconds: 0, value: 0 },
        { seconds: 2, value: 2 },
      ],
    },
  });
  expect(asksSource([keyed])).toBe(true);
  // A negligible amount is none; other amounts can be part of a URL.
  expect([1e-8, 0.1234567].map((amount) => sourceNoise([newStep('noise', 'n', { amount })], 0))).toEqual([
    undefined,
    { luma: 0.123, chroma: 0.123 },
  ]);
  expect([0, 1].map((t) => sourceNoise([keyed], t))).toEqual([undefined, { luma: 1, chroma: 0.5 }]);
  expect(stepSchema.safeParse({ ...steps[1], region: 'sky' }).error?.issues[0].message).toMatch(/whole frame/);
});
