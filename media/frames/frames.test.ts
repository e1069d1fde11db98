import { carry } from '@inkavo/core/colour/proxyCodes';
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { newStep } from '@inkavo/core/model/grade';
import { bake, lookUp, type Table } from '@inkavo/core/program/bake';
import { compile, tableOf } from '@inkavo/core/program/compile';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { measure } from '@inkavo/core/scopes/statistics';
import { frameSums, make, sourceOf, TAGS_709, workFolder } from '../testClips';
import { makeProxy } from './makeProxy';
import { proxySize } from './proxy';
import { makeStrip } from './strip';
import { decodeFrame, originalIndex, restFrame } from './rest';
import { encodePng16 } from './still';

const folder = workFolder();
const file = (name: string): string => join(folder, name);
const PATTERN = 'testsrc2=size=640x360:rate=30:duration=2';
const H264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '30', '-bf', '2', ...TAGS_709, '-pix_fmt', 'yuv420p'];

test('every frame that is asked for is that frame', async () => {
  const path = make(file('count.mp4'), PATTERN, H264);
  const source = await sourceOf(path);
  const raw = execFileSync('ffmpeg', ['-loglevel', 'error', '-i', path, '-f', 'rawvideo', '-'], { maxBuffer: 1 << 28 });
  const bytes = 640 * 360 * 1.5;
  for (const n of [0, 1, 29, 30, 31, 59]) {
    const { y } = await decodeFrame(source, n);
    expect(Buffer.compare(Buffer.from(y), raw.subarray(n * bytes, n * bytes + 640 * 360))).toBe(0);
  }
});

test('a frame at rest at full size holds the original’s luma times 2^8, and chroma as the CPU backend reads it', async () => {
  const source = await sourceOf(
    make(file('soft.mp4'), 'gradients=size=640x360:rate=30:duration=0.2:nb_colors=6:seed=3,gblur=4', H264),
  );
  const [whole, rest] = [await decodeFrame(source, 2), await restFrame(source, 2, 640)];
  expect(rest.format).toMatchObject({ width: 640, depth: 16, chroma: '444' });
  rest.y.forEach((v, i) => {
    if (Math.abs(v - whole.y[i] * 256) > 1) throw new Error(`luma ${i}: ${v} is not ${whole.y[i] * 256}`);
  });
  const [a, b] = [pictureToRgb(undefined, whole), pictureToRgb(undefined, rest)];
  const off = a.reduce((n, v, i) => n + (Math.abs(v - b[i]) > 1 / 255 ? 1 : 0), 0);
  expect(off / a.length).toBe(0);
});

test('a scaled frame at rest keeps super-whites and means', async () => {
  const source = await sourceOf(
    make(file('super.mkv'), 'color=gray:size=640x360:rate=30:duration=0.2,format=yuv420p,geq=lum=250:cb=120:cr=140', [
      '-c:v',
      'ffv1',
      ...TAGS_709,
    ]),
  );
  const rest = await restFrame(source, 0, 320);
  expect(rest.format.height).toBe(180);
  for (const v of rest.y) if (Math.abs(v - 250 * 256) > 2) throw new Error(String(v));
  for (const v of rest.cb) if (Math.abs(v - 120 * 256) > 2) throw new Error(String(v));
});

test('a part of a frame at rest is that part of the whole one; smaller, it keeps its means', async () => {
  const source = await sourceOf(make(file('part.mp4'), 'testsrc2=size=640x360:rate=30:duration=0.2', H264));
  const part = { x: 100, y: 62, width: 200, height: 120 };
  const whole = await restFrame(source, 3, 640);
  const cut = await restFrame(source, 3, 640, undefined, part);
  expect(cut.format).toMatchObject({ width: 200, height: 120 });
  let [luma, chroma] = [0, 0];
  for (let y = 0; y < 120; y += 1)
    for (let x = 0; x < 200; x += 1) {
      const [i, j] = [y * 200 + x, (y + part.y) * 640 + x + part.x];
      luma = Math.max(luma, Math.abs(cut.y[i] - whole.y[j]));
      // At the edges chroma has no neighbours for interpolation.
      if (x > 1 && x < 198 && y > 1 && y < 118) chroma = Math.max(chroma, Math.abs(cut.cb[i] - whole.cb[j]));
    }
  expect([luma, chroma]).toEqual([0, 0]);
  const half = await restFrame(source, 3, 100, undefined, part);
  expect(half.format).toMatchObject({ width: 100, height: 60 });
  const mean = (plane: ArrayLike<number>): number => Array.from(plane).reduce((a, b) => a + b, 0) / plane.length;
  expect(Math.abs(mean(half.y) - mean(cut.y))).toBeLessThan(40);
});

test('variable rate: frame n of the even timeline is the one shown then', () => {
  const source = {
    path: '',
    times: [0, 0.04, 0.08, 0.28, 0.32],
    facts: { variableRate: true, frameRate: { num: 25, den: 1 } },
  };
  const index = (n: number) => originalIndex(source as never, n);
  expect([0, 1, 2, 3, 6, 7, 8, 99].map(index)).toEqual([0, 1, 2, 2, 2, 3, 4, 4]);
});

test('the proxy: small, even, short groups, the same number of frames, super-whites kept', async () => {
  const path = make(
    file('big.mkv'),
    'color=gray:size=1922x1080:rate=30:duration=0.5,format=yuv420p,geq=lum=250:cb=128:cr=128',
    ['-c:v', 'ffv1', ...TAGS_709],
  );
  const source = await sourceOf(path);
  await makeProxy(source, file('proxy.mp4'));
  await makeStrip(source, file('strip.jpg'), { proxy: file('proxy.mp4') });
  const proxy = await sourceOf(file('proxy.mp4'));
  expect(proxySize(source)).toEqual({ width: 960, height: 538 });
  expect(proxy.facts).toMatchObject({ width: 960, height: 538, frames: 15, range: 'full' });
  const { y } = await decodeFrame(proxy, 7);
  expect(Math.abs(y[1000] - carry([250, 128, 128])[0])).toBeLessThanOrEqual(1);
  expect(readFileSync(file('strip.jpg')).subarray(0, 2)).toEqual(Buffer.from([0xff, 0xd8]));
});

test('signal statistics agree with the media library', async () => {
  const path = make(file('stats.mkv'), 'testsrc2=size=320x180:rate=30:duration=0.1', [
    '-c:v',
    'ffv1',
    '-pix_fmt',
    'yuv444p',
    ...TAGS_709,
  ]);
  const told = execFileSync('ffprobe', [
    '-v',
    'error',
    '-f',
    'lavfi',
    '-i',
    `movie=${path},signalstats`,
    '-show_entries',
    'frame_tags=lavfi.signalstats.YMIN,lavfi.signalstats.YMAX,lavfi.signalstats.YAVG',
    '-of',
    'csv=p=0',
    '-read_intervals',
    '%+#1',
  ])
    .toString()
    .trim()
    .split('\n')[0]
    .split(',')
    .map(Number);
  const code = pictureToRgb(undefined, await decodeFrame(await sourceOf(path), 0));
  const { luma } = measure(code, code, { low: -Infinity, high: Infinity });
  const [min, average, max] = [told[0], told[1], told[2]].sort((a, b) => a - b);
  expect(luma.low * 219 + 16).toBeGreaterThanOrEqual(min - 0.5);
  expect(luma.high * 219 + 16).toBeLessThanOrEqual(max + 0.5);
  let sum = 0;
  for (let o = 0; o < code.length; o += 3) sum += 0.2126 * code[o] + 0.7152 * code[o + 1] + 0.0722 * code[o + 2];
  expect((sum / (code.length / 3)) * 219 + 16).toBeCloseTo(average, 0);
});

/** A table in the text format of the media library's own filter. */
function cubeText({ size, data }: Table): string {
  const lines = [`LUT_3D_SIZE ${size}`];
  for (let o = 0; o < data.length; o += 4)
    lines.push([data[o], data[o + 1], data[o + 2]].map((v) => v.toFixed(7)).join(' '));
  return `${lines.join('\n')}\n`;
}

test('a table is applied as the media library’s own filter applies it', () => {
  const steps = [
    newStep('range', 'r', { contrast: 1.3, mid: 0.05, soft: 0.1 }),
    newStep('saturation', 's', { amount: 1.4, weak: 0.3 }),
  ];
  const table = bake({ ...tableOf(compile(steps, 0)), domain: [0, 1] }, 17);
  writeFileSync(file('grade.cube'), cubeText(table));
  // Planes of float green, blue and red, in the library's order.
  const [width, height] = [64, 48];
  const count = width * height;
  const value = (i: number, c: number): number => ((i * [7, 131, 17][c]) % 1009) / 1008;
  const planes = Float32Array.from({ length: 3 * count }, (_, k) => value(k % count, [1, 2, 0][Math.floor(k / count)]));
  writeFileSync(file('planes.raw'), Buffer.from(planes.buffer));
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'gbrpf32le'];
  const chain = `lut3d=file=${file('grade.cube')}:interp=tetrahedral`;
  const out = execFileSync('ffmpeg', [
    '-loglevel',
    'error',
    ...raw,
    '-s',
    `${width}x${height}`,
    '-i',
    file('planes.raw'),
    '-vf',
    chain,
    ...raw,
    '-',
  ]);
  const theirs = new Float32Array(new Uint8Array(out).buffer);
  let worst = 0;
  const own: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < count; i += 1) {
    lookUp(table, value(i, 0), value(i, 1), value(i, 2), own);
    [2, 0, 1].forEach((plane, c) => (worst = Math.max(worst, Math.abs(theirs[plane * count + i] - own[c]))));
  }
  console.log(`largest difference to the media library's table filter: ${worst.toExponential(1)}`);
  expect(worst).toBeLessThan(1e-4);
});

test('a still of 16 bits comes back as it was', async () => {
  const rgb = Float32Array.from({ length: 48 * 3 }, (_, i) => (i % 97) / 96);
  writeFileSync(file('still.png'), await encodePng16(rgb, 8, 6));
  const raw = execFileSync('ffmpeg', [
    '-loglevel',
    'error',
    '-i',
    file('still.png'),
    '-pix_fmt',
    'rgb48le',
    '-f',
    'rawvideo',
    '-',
  ]);
  rgb.forEach((v, i) => expect(raw.readUInt16LE(i * 2)).toBe(Math.round(v * 65535)));
  expect(frameSums(file('still.png'))).toHaveLength(1);
});
