import { execFileSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { carry, CHART, CHART_COLUMNS, CHART_ROWS } from '@inkavo/core/colour/proxyCodes';
import { probe } from '../codec';
import { clipFrames } from '../reading/clipFrames';
import { lumaFrames } from '../reading/lumaFrames';
import { make, sourceOf, TAGS_709, workFolder } from '../testClips';
import { makeChart, makeProxy } from './proxy';

const folder = workFolder();
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const file = (name: string): string => join(folder, name);

/** A proxy's first frame as it is stored: planes of 4:2:0. */
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
  // So that nothing is clipped where the label isn't gone by: between reference black and white of limited range.
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
