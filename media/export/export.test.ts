import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { newStep, type Step } from '@inkavo/core/model/grade';
import type { DeliveryRequest } from '@inkavo/core/model/delivery';
import { bake } from '@inkavo/core/program/bake';
import { compile, tableOf } from '@inkavo/core/program/compile';
import { gradePicture } from '@inkavo/core/program/cpu/gradePicture';
import { pictureBytes, planesOver } from '@inkavo/core/program/cpu/planar';
import { planarFormatOf, probe } from '../codec';
import { decodeFrame } from '../frames/rest';
import { frameSums, make, sourceOf, TAGS_709, turn, workFolder } from '../testClips';
import { exportClip } from './exportClip';

const folder = workFolder();
const file = (name: string): string => join(folder, name);
const LOSSLESS: DeliveryRequest = { codec: 'ffv1', quality: 18 };
// Noise over all code values, so that super-whites and sub-blacks can be lost.
const NOISE = 'color=gray:size=322x182:rate=30:duration=1,format=yuv420p,noise=alls=100:allf=t';
const steps: Step[] = [newStep('range', 'r', { contrast: 1.2 }), newStep('saturation', 's', { amount: 1.3 })];

async function deliver(
  from: string,
  to: string,
  delivery: DeliveryRequest,
  list: Step[] = [],
  part: { inFrame?: number; outFrame?: number } = {},
): Promise<number> {
  const source = await sourceOf(from);
  return exportClip({
    source,
    steps: list,
    delivery,
    inFrame: 0,
    outFrame: source.facts.frames - 1,
    ...part,
    output: to,
  });
}

describe('a standard clip without steps, exported to FFV1, is the original: all frames', () => {
  test.each([
    ['8 bit 4:2:0', ['-c:v', 'libx264', '-preset', 'ultrafast', '-qp', '0', '-pix_fmt', 'yuv420p', ...TAGS_709]],
    [
      '10 bit 4:2:0',
      [
        '-c:v',
        'libx265',
        '-preset',
        'ultrafast',
        '-x265-params',
        'log-level=error:lossless=1',
        '-pix_fmt',
        'yuv420p10le',
        ...TAGS_709,
      ],
    ],
    [
      '8 bit 4:2:0, full range',
      ['-c:v', 'libx264', '-preset', 'ultrafast', '-qp', '0', '-pix_fmt', 'yuvj420p', '-colorspace', 'bt709'],
    ],
    [
      '10 bit 4:2:2, full range, wide',
      ['-c:v', 'ffv1', '-pix_fmt', 'yuv422p10le', '-color_range', 'pc', '-colorspace', 'bt2020nc'],
    ],
  ])('%s', async (name, args) => {
    const from = make(file(`${name.replace(/\W/g, '')}.mkv`), NOISE, args);
    const to = file(`${name.replace(/\W/g, '')}-out.mkv`);
    expect(await deliver(from, to, LOSSLESS)).toBe(30);
    expect(frameSums(to)).toEqual(frameSums(from));
    const [a, b] = [await probe(from), await probe(to)];
    expect(b.facts.tags).toEqual(a.facts.tags);
    expect(b.facts.range).toBe(a.facts.range);
  });
});

test('an exported frame is the frame that the plain backend makes, within one code value', async () => {
  const from = make(file('in.mkv'), NOISE, ['-c:v', 'ffv1', '-pix_fmt', 'yuv420p', ...TAGS_709]);
  await deliver(from, file('graded.mkv'), LOSSLESS, steps);
  const source = await sourceOf(from);
  const pass = tableOf(compile(steps, 0));
  const format = { ...planarFormatOf(source.facts) };
  const expected = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  gradePicture(bake(pass, 65), await decodeFrame(source, 7), expected);
  const got = await decodeFrame(await sourceOf(file('graded.mkv')), 7);
  for (const plane of ['y', 'cb', 'cr'] as const) {
    let apart = 0;
    got[plane].forEach((v, i) => (apart = Math.max(apart, Math.abs(v - expected[plane][i]))));
    expect(apart).toBeLessThanOrEqual(1);
  }
});

test('a dive through water: the kernel and the plain backend deliver the same frames, within one code value', async () => {
  const from = make(file('dive.mkv'), 'testsrc2=size=322x182:rate=30:duration=0.2', [
    '-c:v',
    'ffv1',
    '-pix_fmt',
    'yuv420p10le',
    ...TAGS_709,
  ]);
  const source = await sourceOf(from);
  const water = newStep('water', 'w', { depth: 6, veilRed: 0.1, veilGreen: 0.5, veilBlue: 0.4 });
  const job = { source, steps: [water, ...steps], delivery: LOSSLESS, inFrame: 0, outFrame: 5 };
  const frames = await Promise.all(
    [false, true].map(async (plain) => {
      const output = file(`dive-${plain}.mkv`);
      await exportClip({ ...job, plain, output });
      return decodeFrame(await sourceOf(output), 4);
    }),
  );
  const recorded = await decodeFrame(source, 4);
  for (const plane of ['y', 'cb', 'cr'] as const) {
    let apart = 0;
    frames[0][plane].forEach((v, i) => (apart = Math.max(apart, Math.abs(v - frames[1][plane][i]))));
    expect(apart).toBeLessThanOrEqual(1);
    expect(frames[0][plane].some((v, i) => Math.abs(v - recorded[plane][i]) > 20)).toBe(true);
  }
});

test.each([
  ['mp4', 'h264', '01:00:59;29', '01:01:00;08'],
  ['mov', 'vc3', '10:20:30:00', '10:20:30:07'],
  ['mkv', 'ffv1', '10:20:30:00', '10:20:30:07'],
] as const)(
  'the time code of a recording goes on in a part of it, in %s',
  async (ending, codec, recorded, expected) => {
    const from = make(file(`coded ${ending}.mov`), NOISE, [
      ...['-c:v', 'libx264', '-preset', 'ultrafast', ...TAGS_709],
      ...(recorded.includes(';') ? ['-r', '30000/1001'] : []),
      ...['-timecode', recorded],
    ]);
    expect((await probe(from)).facts.timecode).toBe(recorded);
    const output = file(`coded.${ending}`);
    await deliver(from, output, { codec, quality: 30 }, [], { inFrame: 7, outFrame: 12 });
    expect((await probe(output)).facts.timecode).toBe(expected);
  },
);

test('from in to out: the right frames and as much of the sound, copied', async () => {
  const from = make(
    file('sound.mp4'),
    NOISE,
    ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '10', ...TAGS_709, '-c:a', 'aac', '-shortest'],
    ['-f', 'lavfi', '-i', 'sine=frequency=330:duration=1'],
  );
  await deliver(from, file('part.mkv'), LOSSLESS, [], { inFrame: 7, outFrame: 21 });
  expect(frameSums(file('part.mkv'))).toEqual(frameSums(from).slice(7, 22));
  const { facts } = await probe(file('part.mkv'));
  expect(facts.audio).toMatchObject({ codec: 'aac' });
  const stamps = (stream: string): number[] =>
    execFileSync('ffprobe', [
      '-v',
      'error',
      '-select_streams',
      stream,
      '-show_entries',
      'packet=pts_time',
      '-of',
      'csv=p=0',
      file('part.mkv'),
    ])
      .toString()
      .trim()
      .split('\n')
      .map(Number);
  const [picture, sound] = [stamps('v'), stamps('a')];
  expect(picture[0]).toBe(0);
  expect(sound[0]).toBeLessThan(0.03);
  expect(sound.at(-1)).toBeGreaterThan(0.45);
  expect(sound.at(-1)).toBeLessThan(0.5);
});

test.each([
  ['h264', 8, 'h264', 'mp4'],
  ['h265', 10, 'hevc', 'mp4'],
] as const)('%s: %i bit, BT.709 tags, limited range', async (codec, depth, name, extension) => {
  const from = make(file(`src-${codec}.mkv`), NOISE, ['-c:v', 'ffv1', '-pix_fmt', 'yuv420p', ...TAGS_709]);
  await deliver(from, file(`${codec}.${extension}`), { codec, quality: 20 }, steps);
  const { facts } = await probe(file(`${codec}.${extension}`));
  expect(facts).toMatchObject({
    codec: name,
    depth,
    range: 'limited',
    frames: 30,
    tags: { matrix: 'bt709', primaries: 'bt709', transfer: 'bt709' },
  });
});

test('numbers that change over the clip change from frame to frame, also from a moment at which they do nothing', async () => {
  const from = make(file('grey.mkv'), 'color=0x808080:size=64x48:rate=10:duration=1', [
    '-c:v',
    'ffv1',
    '-pix_fmt',
    'yuv420p',
    ...TAGS_709,
  ]);
  const keys = [
    { seconds: 0, value: 0, ease: 'linear' },
    { seconds: 0.9, value: 0.3, ease: 'linear' },
  ];
  const keyed: Step = { ...newStep('range', 'k'), params: { ...newStep('range', 'k').params, mid: { keys } } };
  await deliver(from, file('rising.mkv'), LOSSLESS, [keyed]);
  const source = await sourceOf(file('rising.mkv'));
  const levels = await Promise.all([0, 3, 6, 9].map(async (n) => (await decodeFrame(source, n)).y[500]));
  expect(levels[0]).toBe((await decodeFrame(await sourceOf(from), 0)).y[500]);
  expect(levels).toEqual([...levels].sort((a, b) => a - b));
  expect(levels[3] - levels[0]).toBeGreaterThan(50);
});

test('without steps super-whites and sub-blacks come through, also into another depth', async () => {
  for (const code of [250, 5]) {
    const from = make(
      file(`flat${code}.mkv`),
      `color=gray:size=128x72:rate=25:duration=0.4,format=yuv420p,geq=lum=${code}:cb=128:cr=128`,
      ['-c:v', 'ffv1', ...TAGS_709],
    );
    await deliver(from, file(`flat${code}.mp4`), { codec: 'h265', quality: 8 });
    const { y } = await decodeFrame(await sourceOf(file(`flat${code}.mp4`)), 3);
    expect(Math.abs(y[1000] - code * 4)).toBeLessThanOrEqual(4);
  }
});

test('an odd size loses its last column and row in 4:2:0, and keeps them in FFV1', async () => {
  const from = make(file('odd.mkv'), 'testsrc=size=131x75:rate=25:duration=0.4', [
    '-c:v',
    'ffv1',
    '-pix_fmt',
    'yuv420p',
    ...TAGS_709,
  ]);
  await deliver(from, file('odd.mp4'), { codec: 'h264', quality: 20 }, steps);
  await deliver(from, file('odd-out.mkv'), LOSSLESS, steps);
  expect((await probe(file('odd.mp4'))).facts).toMatchObject({ width: 130, height: 74 });
  expect((await probe(file('odd-out.mkv'))).facts).toMatchObject({ width: 131, height: 75 });
});

test('a rotated file comes out upright', async () => {
  make(file('up.mp4'), NOISE, ['-c:v', 'libx264', '-preset', 'ultrafast', ...TAGS_709]);
  turn(file('up.mp4'), file('turned.mp4'));
  await deliver(file('turned.mp4'), file('upright.mkv'), LOSSLESS);
  expect((await probe(file('upright.mkv'))).facts).toMatchObject({ width: 182, height: 322, rotation: 0 });
});

test('a file cut off in its middle is exported as far as it can be decoded', async () => {
  const from = make(file('whole.mkv'), 'testsrc2=size=320x180:rate=25:duration=3', [
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-g',
    '10',
    ...TAGS_709,
  ]);
  execFileSync('bash', ['-c', `head -c $(( $(stat -c %s "$1") / 2 )) "$1" > "$2"`, '-', from, file('cut.mkv')]);
  const frames = await deliver(file('cut.mkv'), file('cut-out.mkv'), LOSSLESS, steps);
  expect(frames).toBeGreaterThan(10);
  expect(frameSums(file('cut-out.mkv'))).toHaveLength(frames);
});

describe('when it does not work out', () => {
  const from = (): string =>
    make(file('slow.mkv'), 'testsrc2=size=1280x720:rate=30:duration=8', [
      '-c:v',
      'libx264',
      '-preset',
      'ultrafast',
      ...TAGS_709,
    ]);

  test('stopped in its middle: no file, no half file', async () => {
    const source = await sourceOf(from());
    const controller = new AbortController();
    const output = file('stopped.mkv');
    const work = exportClip({
      source,
      steps,
      delivery: LOSSLESS,
      inFrame: 0,
      outFrame: 239,
      output,
      signal: controller.signal,
      onProgress: (done) => done > 3 && controller.abort(),
    });
    await expect(work).rejects.toThrow('Stopped.');
    expect(readdirSync(folder).filter((f) => f.startsWith('stopped'))).toEqual([]);
  });

  test('a full disk is said, and no file is left', async () => {
    // /dev/full fails every write like a full disk.
    const source = await sourceOf(from());
    const output = file('full.mkv');
    execFileSync('ln', ['-s', '/dev/full', `${output}.part`]);
    const work = exportClip({ source, steps, delivery: LOSSLESS, inFrame: 0, outFrame: 239, output });
    await expect(work).rejects.toThrow('no room left');
    expect(existsSync(output)).toBe(false);
  });

  test('an original that is gone', async () => {
    const source = { ...(await sourceOf(from())), path: file('gone.mkv') };
    await expect(
      exportClip({ source, steps, delivery: LOSSLESS, inFrame: 0, outFrame: 9, output: file('none.mkv') }),
    ).rejects.toThrow('not there any more');
  });
});
