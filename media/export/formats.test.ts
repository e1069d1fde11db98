import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { CODECS, DELIVERY_INFO, type DeliveryRequest } from '@inkavo/core/model/delivery';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { compile } from '@inkavo/core/program/compile';
import { through } from '@inkavo/core/program/evaluate';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { decodeFrame } from '../frames/rest';
import { make, sourceOf, TAGS_709, workFolder } from '../testClips';
import { encodableCodecs } from './encoders';
import { exportClip } from './exportClip';

const folder = workFolder();
const file = (name: string): string => join(folder, name);
const STEPS: Step[] = [
  newStep('range', 'r', { contrast: 1.15, black: -0.02 }),
  newStep('saturation', 's', { amount: 1.2 }),
];
const FRAMES = 45;

/**
 * Minimum signal-to-noise ratio (dB) of R'G'B' after encoding at quality 12, against the exact evaluator on the same
 * frame.
 */
const PSNR = { h264: 38, h265: 38, h265x8: 38, av1: 38, vc3: 40, ffv1: 44 } as const;

beforeAll(() => {
  make(
    file('clip.mov'),
    `gradients=size=640x360:rate=30:duration=1.5:nb_colors=6:seed=11:speed=0.02,format=yuv420p10le`,
    [
      '-c:v',
      'libx265',
      '-preset',
      'ultrafast',
      '-x265-params',
      'log-level=error:crf=6',
      '-pix_fmt',
      'yuv420p10le',
      ...TAGS_709,
      '-c:a',
      'aac',
    ],
    ['-f', 'lavfi', '-i', 'sine=frequency=500:duration=1.5:sample_rate=48000'],
  );
});

async function deliver(name: string, delivery: DeliveryRequest, steps: Step[] = STEPS) {
  const source = await sourceOf(file('clip.mov'));
  const output = file(name);
  await exportClip({ source, steps, delivery, inFrame: 0, outFrame: FRAMES - 1, output });
  return sourceOf(output);
}

/** Time in seconds, from the first frame, of the end of the last sound sample. */
function soundEnds(path: string): number {
  const said = execFileSync('ffprobe', [
    '-v',
    'error',
    '-select_streams',
    'a:0',
    '-show_entries',
    'packet=pts_time,duration_time',
    '-of',
    'csv=p=0',
    path,
  ]).toString();
  const [at, length] = said.trim().split('\n').at(-1)!.split(',').map(Number);
  return at + length;
}

test('everything that is offered can be encoded here, each codec tried', async () => {
  const found = await encodableCodecs();
  for (const codec of ['h264', 'h265', 'h265x8', 'vc3', 'ffv1'] as const) expect(found.has(codec)).toBe(true);
});

describe.each(CODECS)('%s', (codec) => {
  test('frames, length, size, tags, sound, and the pixels of the exact evaluator', async () => {
    if (!(await encodableCodecs()).has(codec)) return;
    const { extension, depth } = DELIVERY_INFO[codec];
    const made = await deliver(`${codec}.${extension}`, { codec, quality: 12 });
    expect(made.facts).toMatchObject({
      ...{ frames: FRAMES, width: 640, height: 360, depth: depth ?? 10, range: 'limited', matrix: 'bt709' },
      tags: { matrix: 'bt709', primaries: 'bt709', transfer: 'bt709' },
    });
    expect(made.facts.durationSeconds).toBeCloseTo(1.5, 3);
    expect(made.facts.frameRate.num / made.facts.frameRate.den).toBeCloseTo(30, 6);
    expect(Math.abs(soundEnds(made.path) - 1.5)).toBeLessThan(1 / 30);

    const source = await sourceOf(file('clip.mov'));
    for (const n of [0, 22, FRAMES - 1]) {
      const exact = pictureToRgb(undefined, await decodeFrame(source, n));
      const evaluate = through(compile(STEPS, n / 30).ops);
      const got = pictureToRgb(undefined, await decodeFrame(made, n));
      let sum = 0;
      const rgb: [number, number, number] = [0, 0, 0];
      for (let i = 0; i < exact.length; i += 3) {
        rgb[0] = exact[i];
        rgb[1] = exact[i + 1];
        rgb[2] = exact[i + 2];
        evaluate(rgb);
        for (let c = 0; c < 3; c += 1) sum += (Math.min(1, Math.max(0, rgb[c])) - got[i + c]) ** 2;
      }
      expect(-10 * Math.log10(sum / exact.length)).toBeGreaterThan(PSNR[codec]);
    }
  });
});

test('smaller, cut upright, at another rate, without sound', async () => {
  const made = await deliver('phone.mp4', {
    ...{ codec: 'h264', aspect: '9:16', lines: 120, rate: { num: 25, den: 1 }, sound: 'off', effort: 'even' },
  });
  expect(made.facts).toMatchObject({ width: 120, height: 214, audio: null, frameRate: { num: 25, den: 1 } });
  expect(Math.abs(made.facts.frames - 37.5)).toBeLessThanOrEqual(1);
});

test('a cut lies where it is wanted: its pixels are those of that part', async () => {
  const left = await deliver('left.mkv', { codec: 'ffv1', aspect: '1:1', place: 0 }, []);
  const right = await deliver('right.mkv', { codec: 'ffv1', aspect: '1:1', place: 1 }, []);
  const whole = (await decodeFrame(await sourceOf(file('clip.mov')), 7)).y;
  const [a, b] = [(await decodeFrame(left, 7)).y, (await decodeFrame(right, 7)).y];
  for (const [x, y] of [
    [0, 0],
    [359, 359],
    [120, 77],
  ]) {
    expect(a[y * 360 + x]).toBe(whole[y * 640 + x]);
    expect(b[y * 360 + x]).toBe(whole[y * 640 + 280 + x]);
  }
});

test('between bars the picture is whole and the bars are black', async () => {
  const made = await deliver('bars.mkv', { codec: 'ffv1', aspect: '1:1', fit: 'bars' }, []);
  expect(made.facts).toMatchObject({ width: 640, height: 640 });
  const [y, whole] = [(await decodeFrame(made, 3)).y, (await decodeFrame(await sourceOf(file('clip.mov')), 3)).y];
  expect([y[0], y[639 * 640 + 639]]).toEqual([64, 64]);
  expect(y[(140 + 100) * 640 + 50]).toBe(whole[100 * 640 + 50]);
});

test('cut to a wide shape, with bars that keep the size: the part is untouched, the bars are black', async () => {
  const made = await deliver('wide.mkv', { codec: 'ffv1', aspect: '2.39:1', fit: 'inside' }, []);
  expect(made.facts).toMatchObject({ width: 640, height: 360 });
  const [y, whole] = [(await decodeFrame(made, 3)).y, (await decodeFrame(await sourceOf(file('clip.mov')), 3)).y];
  // 640 / 2.39 = 268 lines: rows 46 to 313.
  for (const [row, barred] of [
    ...([20, 45, 314, 340].map((r) => [r, true]) as [number, boolean][]),
    ...([46, 100, 200, 313].map((r) => [r, false]) as [number, boolean][]),
  ])
    expect([...y.subarray(row * 640, row * 640 + 640)]).toEqual(
      barred ? Array(640).fill(64) : [...whole.subarray(row * 640, row * 640 + 640)],
    );
});

test('a mean bitrate is kept within a fifth', async () => {
  make(file('noise.mp4'), 'testsrc2=size=640x360:rate=30:duration=6,noise=alls=30:allf=t', [
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-crf',
    '12',
    '-pix_fmt',
    'yuv420p',
    ...TAGS_709,
  ]);
  const source = await sourceOf(file('noise.mp4'));
  const output = file('rate.mp4');
  await exportClip({ source, steps: [], delivery: { codec: 'h264', megabits: 4 }, inFrame: 0, outFrame: 179, output });
  expect(Math.abs((await sourceOf(output)).facts.bitrate / 4e6 - 1)).toBeLessThan(0.2);
});
