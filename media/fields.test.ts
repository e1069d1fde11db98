import { join } from 'node:path';
import { probe } from './codec';
import { exportClip } from './export/exportClip';
import { makeProxy } from './frames/makeProxy';
import { decodeFrame, decodeFrames, restFrame } from './frames/rest';
import { clipFrames } from './reading/clipFrames';
import { pictureBytes } from '@inkavo/core/program/cpu/planar';
import { frameSums, make, sourceOf, TAGS_709, workFolder } from './testClips';

const folder = workFolder();
const file = (name: string): string => join(folder, name);
const [WIDTH, HEIGHT, FRAMES] = [320, 240, 30];

/** Waves that move by 5 pixels from field to field, at fifty fields a second. */
const level = (x: number, y: number, field: number): number =>
  Math.round(120 + 70 * Math.sin((x - 5 * field) / 9) * Math.sin(y / 13));
const waves = (rate: number, byField: number): string =>
  `color=gray:size=${WIDTH}x${HEIGHT}:rate=${rate}:duration=${FRAMES / 25},format=yuv420p,` +
  `geq=lum='round(120+70*sin((X-5*${byField}*N)/9)*sin(Y/13))':cb=128:cr=128`;
const X264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '4', '-g', '10', ...TAGS_709];
const FIELDS = [...X264, '-flags', '+ilme+ildct'];

const topFirst = (): string =>
  make(file('top.mts'), waves(50, 1), ['-vf', 'tinterlace=interleave_top,fieldorder=tff', ...FIELDS]);
const bottomFirst = (): string =>
  make(file('bottom.mov'), waves(50, 1), [
    ...['-vf', 'tinterlace=interleave_bottom,fieldorder=bff', ...FIELDS],
    ...['-x264-params', 'bff=1'],
  ]);
/** Progressive frames tagged as interlaced (segmented frames), as some cameras write them. */
const whole = (): string => make(file('whole.mp4'), waves(25, 2), FIELDS);

/** Mean difference of a frame's luma from the waves at the time of a field. */
function offFrom(luma: ArrayLike<number>, field: number): number {
  let sum = 0;
  // The outermost lines have neighbours on only one side.
  for (let y = 4; y < HEIGHT - 4; y += 1)
    for (let x = 0; x < WIDTH; x += 1) sum += Math.abs(luma[y * WIDTH + x] - level(x, y, field));
  return sum / ((HEIGHT - 8) * WIDTH);
}

test.each([
  ['the top one first', topFirst, 'topFirst'],
  ['the bottom one first', bottomFirst, 'bottomFirst'],
])('interlaced frames, %s, are deinterlaced to the time of their first field', async (_name, made, fields) => {
  const source = await sourceOf(made());
  expect(source.facts).toMatchObject({ fields, frames: FRAMES, frameRate: { num: 25, den: 1 } });
  for (const n of [0, 1, 13, FRAMES - 1]) {
    const { y } = await decodeFrame(source, n);
    expect(offFrom(y, 2 * n)).toBeLessThan(n % (FRAMES - 1) ? 1.5 : 4);
    // Woven, every other line is displaced by 5 pixels.
    const woven = await decodeFrame({ ...source, facts: { ...source.facts, fields: 'progressive' } }, n);
    expect(offFrom(woven.y, 2 * n)).toBeGreaterThan(6);
  }
});

test('a deinterlaced frame is the same at rest, among others, on its way to a reading and in an export', async () => {
  const source = await sourceOf(topFirst());
  const output = file('out.mkv');
  await exportClip({ source, steps: [], delivery: { codec: 'ffv1', quality: 18 }, inFrame: 7, outFrame: 20, output });
  const exported = await sourceOf(output);
  expect(exported.facts).toMatchObject({ frames: 14, fields: 'progressive' });
  const { format, frames } = await decodeFrames(source, [11, 12, 13]);
  for (const [k, n] of [11, 12, 13].entries()) {
    const { y } = await decodeFrame(source, n);
    expect(Buffer.compare(Buffer.from(y), Buffer.from((await decodeFrame(exported, n - 7)).y))).toBe(0);
    expect(Buffer.compare(Buffer.from(y), Buffer.from(frames, k * pictureBytes(format), y.length))).toBe(0);
  }
  const rest = await restFrame(source, 12, WIDTH);
  expect(
    offFrom(
      Array.from(rest.y, (v) => v / 256),
      24,
    ),
  ).toBeLessThan(1.5);
  const [read] = await clipFrames(source, { inFrame: 12, outFrame: 12, count: 1 });
  expect(offFrom(read.picture.y, 24)).toBeLessThan(1.5);
  const proxy = file('proxy.mp4');
  await makeProxy(source, proxy);
  const played = await sourceOf(proxy);
  expect(played.facts.frames).toBe(FRAMES);
  const [shown] = await clipFrames(source, { proxy, inFrame: 12, outFrame: 12, count: 1 });
  expect(offFrom(shown.picture.y, 24)).toBeLessThan(3);
});

test('progressive frames that are tagged as interlaced are left as they are, bit for bit', async () => {
  const path = whole();
  const { facts } = await probe(path);
  expect(facts).toMatchObject({ fields: 'progressive', tags: { fields: 'tt' } });
  const source = await sourceOf(path);
  const output = file('whole.mkv');
  await exportClip({
    ...{ source, steps: [], delivery: { codec: 'ffv1', quality: 18 } as const },
    ...{ inFrame: 0, outFrame: FRAMES - 1, output },
  });
  expect(frameSums(output)).toEqual(frameSums(path));
});

test('where nothing moves, the tag is believed', async () => {
  const still = make(file('still.mp4'), `color=gray:size=${WIDTH}x${HEIGHT}:rate=25:duration=1,format=yuv420p`, FIELDS);
  expect((await probe(still)).facts.fields).toBe('topFirst');
});
