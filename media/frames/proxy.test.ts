import { execFileSync } from 'node:child_process';
import { copyFileSync, existsSync, readdirSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { carry, CHART, CHART_COLUMNS, CHART_ROWS } from '@inkavo/core/colour/proxyCodes';
import { probe } from '../codec';
import { clipFrames } from '../reading/clipFrames';
import { lumaFrames } from '../reading/lumaFrames';
import { make, sourceOf, TAGS_709, workFolder } from '../testClips';
import type { ProxyPart } from '@inkavo/core/model/proxyParts';
import { makeProxy, partAt, partsMade, partsOf } from './makeProxy';
import { makeChart } from './proxy';

const folder = workFolder();
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const file = (name: string): string => join(folder, name);

/** A proxy's first frame as stored: planes of 4:2:0. */
const stored = (path: string): Buffer =>
  execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-frames:v', '1', '-f', 'rawvideo', '-pix_fmt', 'yuvj420p', '-'], {
    maxBuffer: 1 << 26,
  });

test('the chart holds its colours, as large as a proxy and under the same label', async () => {
  await makeChart(file('chart.mp4'));
  const { facts } = await probe(file('chart.mp4'));
  const [width, height] = [960, 540];
  expect(facts).toMatchObject({ width, height, range: 'full', matrix: 'bt709', frames: 5 });
  const bytes = stored(file('chart.mp4'));
  CHART.forEach((codes, i) => {
    const x = Math.floor((((i % CHART_COLUMNS) + 0.5) * width) / CHART_COLUMNS);
    const y = Math.floor(((Math.floor(i / CHART_COLUMNS) + 0.5) * height) / CHART_ROWS);
    const at = (y >> 1) * (width / 2) + (x >> 1);
    const [luma, cb, cr] = [y * width + x, width * height + at, (width * height * 5) / 4 + at];
    carry(codes).forEach((v, c) => expect(Math.abs(bytes[[luma, cb, cr][c]] - v)).toBeLessThanOrEqual(1.5));
  });
});

test.each([
  ['limited range, beyond black and white', 1, 254, 'tv'],
  ['full range, from end to end', 0, 255, 'pc'],
])('a proxy carries all code values of a file in %s', async (_what, low, high, range) => {
  // A ramp of code values from left to right, the same in all rows.
  const ramp = `color=gray:size=320x64:rate=25:duration=1,format=yuv420p,geq=lum='${low}+X/319*${high - low}':cb=64:cr=190`;
  const tags = [...TAGS_709, '-color_range', range];
  make(file(`${range}.mp4`), ramp, ['-c:v', 'libx264', '-qp', '0', '-pix_fmt', 'yuv420p', ...tags]);
  const source = await sourceOf(file(`${range}.mp4`));
  const proxy = file(`${range}.proxy.mp4`);
  await makeProxy(source, proxy);

  const bytes = stored(proxy);
  // Nothing is clipped if the range tag is ignored: between reference black and white of limited range.
  const luma = bytes.subarray(0, 320 * 64);
  expect(Math.min(...luma)).toBeGreaterThanOrEqual(14);
  expect(Math.max(...luma)).toBeLessThanOrEqual(237);

  const wanted = (x: number): number => low + (x / 319) * (high - low);
  const [{ picture }] = await clipFrames(source, { proxy, inFrame: 0, outFrame: 0, count: 1 });
  const read = await lumaFrames(source, { proxy, first: 0, last: 0 });
  for (const x of [2, 40, 100, 160, 250, 317])
    for (const samples of [picture.y, read.luma]) expect(Math.abs(samples[32 * 320 + x] - wanted(x))).toBeLessThan(3);
  expect(Math.abs(picture.cb[16 * 160 + 80] - 64)).toBeLessThan(2);
  expect(Math.abs(picture.cr[16 * 160 + 80] - 190)).toBeLessThan(2);
  expect(picture.format.range).toBe(range === 'pc' ? 'full' : 'limited');
});

/** Frame n has luma 30 + 3 n everywhere; a tone begins after a second. */
const NUMBERED = "color=gray:size=160x90:rate=25:duration=2.4,format=yuv420p,geq=lum='30+3*N':cb=128:cr=128";
const TONE = ['-f', 'lavfi', '-i', "aevalsrc='0.5*sin(2*PI*1000*t)*gt(t,1)':s=48000:d=3"];
const X264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '4', '-g', '10', '-x264-params', 'open-gop=1'];
const lumaOf = async (path: string): Promise<number[]> => {
  const source = await sourceOf(path);
  const { luma, frames, width, height } = await lumaFrames(source, { first: 0, last: source.facts.frames - 1 });
  return Array.from({ length: frames }, (_, n) => luma[n * width * height + width * 40 + 80]);
};
/** Duration of the sound in seconds. */
const soundOf = (path: string): number => samplesOf(path).length / 48000;
/** Time in seconds at which the tone begins. */
const toneOf = (path: string): number => samplesOf(path).findIndex((v) => Math.abs(v) > 4000) / 48000;
function samplesOf(path: string): Int16Array {
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-ac', '1', '-ar', '48000', '-f', 's16le', '-']);
  return new Int16Array(new Uint8Array(raw).buffer);
}

test.each([
  ['numbered.mp4', []],
  ['numbered.ts', []],
  ['varying.mkv', ['-vf', "select='not(eq(n,30)+eq(n,31))'", '-fps_mode', 'vfr']],
])('a long proxy is made in parts, frame by frame and with sound as in one go: %s', async (name, more) => {
  make(file(name), NUMBERED, [...X264, ...more], TONE);
  const source = await sourceOf(file(name));
  const [whole, parts] = [file(`${name}.whole.mp4`), file(`${name}.parts.mp4`)];
  await makeProxy(source, whole);
  const told: number[] = [];
  const begun: number[] = [];
  const made = await makeProxy(source, parts, {
    partFrames: 24,
    onProgress: (frames) => told.push(frames),
    // The user looks at frame 30: that part is made first, then the following ones.
    wanted: () => ({ frame: 30, waits: false }),
    onBegun: ({ first }) => begun.push(first),
    onMade: ({ first }) => copyFileSync(partAt(parts, first)!, file(`${name}.${first}.mp4`)),
  });
  expect(made).toBe(true);
  expect(begun).toEqual([24, 48, 0]);
  expect(told).toEqual(told.toSorted((a, b) => a - b));
  expect(told).toEqual(expect.arrayContaining([24, 36, 60]));
  const [one, other] = [await lumaOf(whole), await lumaOf(parts)];
  // Each part can be played: its frames, and synchronous sound.
  const played: number[][] = [];
  for (const first of [0, 24, 48]) played.push(await lumaOf(file(`${name}.${first}.mp4`)));
  played.flat().forEach((v, n) => expect(Math.abs(v - one[n])).toBeLessThanOrEqual(1));
  expect(played.map((p) => p.length)).toEqual([24, 24, 12]);
  // As long as the pictures, to a block of the encoder (1,024 samples).
  [0, 24, 48].forEach((first, k) => {
    const seconds = soundOf(file(`${name}.${first}.mp4`));
    expect(Math.abs(seconds - played[k].length / 25)).toBeLessThan(0.03);
  });
  for (const path of [whole, parts]) expect(Math.abs(soundOf(path) - 60 / 25)).toBeLessThan(0.03);
  expect(Math.abs(24 / 25 + toneOf(file(`${name}.24.mp4`)) - toneOf(whole))).toBeLessThan(0.003);
  expect(one).toHaveLength(60);
  expect(other).toHaveLength(60);
  one.forEach((v, n) => expect(Math.abs(v - other[n])).toBeLessThanOrEqual(1));
  expect(Math.abs(toneOf(parts) - toneOf(whole))).toBeLessThan(0.001);
});

test('a proxy that is broken off goes on from its parts', async () => {
  make(file('long.mp4'), NUMBERED, X264);
  const source = await sourceOf(file('long.mp4'));
  const path = file('long.proxy.mp4');
  expect(await makeProxy(source, path, { partFrames: 12, breaksOff: () => Promise.resolve(true) })).toBe(false);
  const [first] = readdirSync(partsOf(path));
  const made = statSync(join(partsOf(path), first)).mtimeMs;
  // Stopped in between: no part is incomplete.
  const stop = new AbortController();
  const stopped = makeProxy(source, path, {
    partFrames: 12,
    signal: stop.signal,
    onProgress: (frames) => frames >= 24 && stop.abort(),
  });
  await expect(stopped).rejects.toThrow();
  expect(existsSync(path)).toBe(false);
  const left = readdirSync(partsOf(path));
  expect(partsMade(path)).toEqual(left.map((_, k) => ({ first: 12 * k, count: 12 })));
  expect(statSync(join(partsOf(path), first)).mtimeMs).toBe(made);
  const told: number[] = [];
  await makeProxy(source, path, { partFrames: 12, onProgress: (frames) => told.push(frames) });
  expect(told[0]).toBe(12 * left.length);
  expect(await lumaOf(path)).toHaveLength(60);
});

test('where somebody waits, parts are short and one that is under way is given up; the whole is the same', async () => {
  make(file('waits.mp4'), NUMBERED, X264, TONE);
  const source = await sourceOf(file('waits.mp4'));
  const [whole, path] = [file('waits.whole.mp4'), file('waits.parts.mp4')];
  await makeProxy(source, whole);
  let wanted = { frame: 0, waits: false };
  const begun: ProxyPart[] = [];
  const made: ProxyPart[] = [];
  const isWhole = await makeProxy(source, path, {
    partFrames: 24,
    wanted: () => wanted,
    onBegun(part, breakOff) {
      begun.push(part);
      // Nothing of the first part is made yet, and it is abandoned; later nobody waits any more.
      if (begun.length > 1) return breakOff(0);
      wanted = { frame: 33, waits: true };
      breakOff(0.5);
    },
    onMade: (part) => made.push(part),
  });
  expect(isWhole).toBe(true);
  const first = { first: 0, count: 24 };
  const waitedFor = [30, 36, 42].map((frame) => ({ first: frame, count: 6 }));
  const rest = [{ first: 48, count: 12 }, first, { first: 24, count: 6 }];
  expect(begun).toEqual([first, ...waitedFor, ...rest]);
  expect(made).toEqual([...waitedFor, ...rest]);
  const [one, other] = [await lumaOf(whole), await lumaOf(path)];
  expect(other).toHaveLength(60);
  one.forEach((v, n) => expect(Math.abs(v - other[n])).toBeLessThanOrEqual(1));
  expect(Math.abs(toneOf(path) - toneOf(whole))).toBeLessThan(0.001);
  expect(Math.abs(soundOf(path) - 60 / 25)).toBeLessThan(0.03);
});

test('sound begins with the first frame, also where a recording’s picture begins later', async () => {
  make(file('plain.mp4'), NUMBERED, X264, TONE);
  const late = ['-itsoffset', '0.7', '-i', file('plain.mp4'), '-i', file('plain.mp4'), '-map', '0:v', '-map', '1:a'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...late, '-c', 'copy', file('late.mkv')]);
  const source = await sourceOf(file('late.mkv'));
  expect(source.facts.startSeconds).toBeGreaterThan(0.69);
  await makeProxy(source, file('late.proxy.mp4'));
  const parts = file('late.parts.mp4');
  await makeProxy(source, parts, {
    partFrames: 24,
    onMade({ first }) {
      if (first === 0) copyFileSync(partAt(parts, 0)!, file('late.0.mp4'));
    },
  });
  for (const name of ['late.proxy.mp4', 'late.parts.mp4', 'late.0.mp4'])
    expect(Math.abs(toneOf(file(name)) - 0.3)).toBeLessThan(0.03);
});
