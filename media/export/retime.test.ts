import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { newStep, type Step } from '@inkavo/core/model/grade';
import type { DeliveryRequest } from '@inkavo/core/model/delivery';
import { retimeSchema, type Retime } from '@inkavo/core/model/retime';
import { probe } from '../codec';
import { frameSums, make, sourceOf, TAGS_709, workFolder } from '../testClips';
import { exportClip } from './exportClip';

const folder = workFolder();
const LOSSLESS: DeliveryRequest = { codec: 'ffv1', quality: 18 };
const FRAMES = 60;
const steps: Step[] = [newStep('range', 'r', { contrast: 1.1 })];
let from: string;
beforeAll(() => {
  // A second at 60 frames, all different, with a tone.
  from = make(
    join(folder, 'fast.mkv'),
    `testsrc2=size=160x90:rate=60:duration=1,format=yuv420p`,
    ['-c:v', 'ffv1', '-c:a', 'flac', '-shortest', ...TAGS_709],
    ['-f', 'lavfi', '-i', 'sine=frequency=440:duration=1'],
  );
});

async function deliver(
  name: string,
  retime: Partial<Retime> | undefined,
  list = steps,
  delivery = LOSSLESS,
): Promise<string> {
  const output = join(folder, name);
  const source = await sourceOf(from);
  const made = retime && retimeSchema.parse({ factor: 1, ...retime });
  await exportClip({ source, steps: list, delivery, inFrame: 0, outFrame: FRAMES - 1, retime: made, output });
  return output;
}
const soundSeconds = (path: string): number =>
  Number(
    execFileSync('ffprobe', [
      ...['-v', 'error', '-select_streams', 'a:0', '-show_entries', 'packet=pts_time', '-of', 'csv=p=0', path],
    ])
      .toString()
      .trim()
      .split('\n')
      .at(-1)!
      .split(',')[0],
  );

test('every frame at half the rate: all are there, each once, in twice the time, and the sound lasts as long', async () => {
  const plain = frameSums(await deliver('plain.mkv', undefined));
  const slow = await deliver('slow.mkv', { factor: 0.5, rate: { num: 30, den: 1 } });
  expect(frameSums(slow)).toEqual(plain);
  const { facts } = await probe(slow);
  expect(facts).toMatchObject({ frames: FRAMES, frameRate: { num: 30, den: 1 }, variableRate: false });
  expect(facts.durationSeconds).toBeCloseTo(2, 2);
  expect(soundSeconds(slow)).toBeGreaterThan(1.8);
  expect(soundSeconds(slow)).toBeLessThan(2.1);
});

test('other factors: the nearest frame is taken, at the clip’s own rate', async () => {
  const plain = frameSums(await deliver('plain2.mkv', undefined));
  const half = frameSums(await deliver('half.mkv', { factor: 0.5 }));
  expect(half).toHaveLength(2 * FRAMES);
  expect(new Set(half)).toEqual(new Set(plain));
  half.forEach((sum, i) => expect(Math.abs(plain.indexOf(sum) - i / 2)).toBeLessThanOrEqual(1));
  const twice = frameSums(await deliver('twice.mkv', { factor: 2 }));
  expect(twice.length).toBeGreaterThanOrEqual(29);
  expect(twice.length).toBeLessThanOrEqual(31);
  twice.forEach((sum) => expect(plain).toContain(sum));
});

test('blended: between two frames stands neither; at 10 bit too', async () => {
  const plain = new Set(frameSums(await deliver('plain3.mkv', undefined)));
  const sums = frameSums(await deliver('blend.mkv', { factor: 0.5, between: 'blended' }));
  expect(Math.abs(sums.length - 2 * FRAMES)).toBeLessThanOrEqual(2);
  const own = sums.filter((s) => plain.has(s)).length;
  expect(own).toBeGreaterThan(0.3 * sums.length);
  expect(own).toBeLessThan(0.7 * sums.length);
  const ten = await deliver('ten.mp4', { factor: 0.4, between: 'blended' }, steps, { codec: 'h265', quality: 20 });
  expect((await probe(ten)).facts).toMatchObject({ depth: 10, frameRate: { num: 60, den: 1 } });
});

test('the sound goes when it is asked to, and follows a factor below a half', async () => {
  const mute = await probe(
    await deliver('mute.mp4', { factor: 0.5, sound: 'goes' }, steps, { codec: 'h264', quality: 20 }),
  );
  expect(mute.facts.audio).toBeNull();
  const slow = await deliver('slower.mp4', { factor: 0.2, rate: { num: 12, den: 1 } }, steps, {
    codec: 'h264',
    quality: 20,
  });
  expect((await probe(slow)).facts.durationSeconds).toBeCloseTo(5, 1);
  expect(soundSeconds(slow)).toBeGreaterThan(4.6);
});
