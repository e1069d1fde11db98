import { rmSync, truncateSync } from 'node:fs';
import { join } from 'node:path';
import { make, QUICK_H264, sourceOf, workFolder } from '../testClips';
import { clipFrames, type ReadPicture } from './clipFrames';

const folder = workFolder();
afterAll(() => rmSync(folder, { recursive: true }));

/** Long enough that seeking three frames is faster than decoding all of it. */
const LONG = 'testsrc2=size=1280x720:rate=25:duration=16';
const made = (name: string, keyEvery: number, more: string[] = []): string =>
  make(join(folder, name), LONG, [...QUICK_H264, '-g', String(keyEvery), '-sc_threshold', '0', ...more]);
const framesOf = (pictures: readonly ReadPicture[]): number[] => pictures.map((p) => p.frame);

test.each([
  ['an MP4 file', made('plain.mp4', 24), 24],
  ['a transport stream', made('card.ts', 24), 24],
  ['a variable frame rate', made('vary.mkv', 20, ['-vf', "select='not(between(n,90,99))'", '-fps_mode', 'vfr']), 20],
])('of a long clip frames are sought, keyframes where there are any: %s', async (_what, path, keyEvery) => {
  const source = await sourceOf(path);
  const told: number[] = [];
  const stretch = { inFrame: 30, outFrame: 389, count: 3 };
  const pictures = await clipFrames(source, stretch, { onProgress: (done, of) => told.push(done / of) });
  expect(told).toEqual([1 / 3, 2 / 3, 1]);
  const found = framesOf(pictures);
  found.forEach((frame, k) => {
    expect(Math.abs(frame - (30 + 120 * k))).toBeLessThanOrEqual(keyEvery / 2 + (k ? 0 : keyEvery));
    expect(frame).toBeGreaterThanOrEqual(30);
  });
  // Each has the stated frame number.
  for (const { frame, seconds, picture } of pictures) {
    expect(seconds).toBeCloseTo(frame / 25, 9);
    const [alone] = await clipFrames(source, { inFrame: frame, outFrame: frame, count: 1 });
    expect(picture.y).toEqual(alone.picture.y);
    expect(picture.cb).toEqual(alone.picture.cb);
  }
});

test('where keyframes are too far apart to be of use, all is decoded, evenly', async () => {
  const source = await sourceOf(made('one key.mp4', 1000));
  expect(source.keys).toEqual([0]);
  expect(framesOf(await clipFrames(source, { inFrame: 10, outFrame: 399, count: 3 }))).toEqual([10, 140, 270]);
});

test('a proxy of many keyframes is sought in, too', async () => {
  const source = await sourceOf(made('proxied.mp4', 24));
  const tall = { ...source, facts: { ...source.facts, frames: 4800 } };
  // Small, so that it is encoded quickly: pictures are scaled to their size.
  const proxy = make(join(folder, 'proxy.mp4'), 'testsrc2=size=96x54:rate=25:duration=192', [
    ...[...QUICK_H264, '-g', '12', '-sc_threshold', '0', '-bf', '0'],
  ]);
  const pictures = await clipFrames(tall, { proxy, inFrame: 100, outFrame: 4799, count: 3 });
  const found = framesOf(pictures);
  expect(found.every((frame) => frame % 12 === 0)).toBe(true);
  found.forEach((frame, k) => expect(Math.abs(frame - (100 + 1566 * k))).toBeLessThanOrEqual(12));
  for (const { frame, picture } of pictures) {
    const [alone] = await clipFrames(tall, { proxy, inFrame: frame, outFrame: frame, count: 1 });
    expect(picture.y).toEqual(alone.picture.y);
  }
});

test('a file that is damaged gives the frames that it has; one that is asked to stop gives none', async () => {
  const path = made('cut off.mkv', 24);
  const source = await sourceOf(path);
  truncateSync(path, Math.round(source.facts.bitrate * 10 * 0.125));
  const pictures = await clipFrames(source, { inFrame: 0, outFrame: 399, count: 3 });
  expect(framesOf(pictures)).toEqual([0, 144]);
  await expect(
    clipFrames(source, { inFrame: 0, outFrame: 399, count: 3 }, { signal: AbortSignal.abort() }),
  ).rejects.toThrow();
});
