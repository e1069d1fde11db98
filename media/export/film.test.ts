import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { deliverySchema, type DeliveryRequest } from '@inkavo/core/model/delivery';
import { placeShots } from '@inkavo/core/model/film';
import { newStep, type Step } from '@inkavo/core/model/grade';
import type { Retime } from '@inkavo/core/model/retime';
import { decodeFrame } from '../frames/rest';
import { make, sourceOf, TAGS_709, workFolder } from '../testClips';
import { makeFilm, type FilmShot } from './film';
import { levels } from './filmSound';

const folder = workFolder();
const file = (name: string): string => join(folder, name);
const LOSSLESS: DeliveryRequest = { codec: 'ffv1' };
const FRAMES = 30;

/** A flat clip whose luma counts its frames from `from` on, with its own tone. */
function counted(
  name: string,
  from: number,
  { size = '160x90', rate = 30, tone = 440, volume = 0.2, more = [] as string[] } = {},
) {
  const seconds = FRAMES / rate;
  return make(
    file(name),
    `color=gray:size=${size}:rate=${rate}:duration=${seconds},format=yuv420p,geq=lum='${from}+N':cb=128:cr=128`,
    ['-c:v', 'ffv1', ...TAGS_709, '-c:a', 'flac', ...more],
    ['-f', 'lavfi', '-i', `sine=frequency=${tone}:duration=${seconds}:sample_rate=48000,volume=${volume}`],
  );
}

async function shot(path: string, part: Partial<FilmShot> = {}): Promise<FilmShot> {
  const source = await sourceOf(path);
  return { source, steps: [], inFrame: 0, outFrame: source.facts.frames - 1, ...part };
}

async function film(
  name: string,
  shots: FilmShot[],
  request: DeliveryRequest,
  { dissolve = 0, levelled = false } = {},
) {
  const output = file(name);
  const delivery = deliverySchema.parse(request);
  const { frames, damaged } = await makeFilm({ shots, delivery, dissolve, levelled, output, work: file('work') });
  expect(damaged).toEqual([]);
  const source = await sourceOf(output);
  expect(source.facts.frames).toBe(frames);
  expect(readdirSync(file('work'))).toEqual([]);
  return source;
}

/** Luma at the centre of every frame. */
async function lumas(source: Awaited<ReturnType<typeof sourceOf>>): Promise<number[]> {
  const { width, height, frames } = source.facts;
  const found = [];
  for (let n = 0; n < frames; n += 1)
    found.push((await decodeFrame(source, n)).y[(height >> 1) * width + (width >> 1)]);
  return found;
}

/** Root mean square of a file's sound between two times, both channels. */
function loudness(path: string, from: number, to: number): number {
  const raw = execFileSync(
    'ffmpeg',
    ['-loglevel', 'error', '-i', path, '-map', '0:a:0', '-f', 'f32le', '-ar', '48000', '-ac', '1', '-'],
    { maxBuffer: 1 << 28 },
  );
  const samples = new Float32Array(new Uint8Array(raw).buffer).slice(Math.round(from * 48000), Math.round(to * 48000));
  return Math.sqrt(samples.reduce((sum, v) => sum + v * v, 0) / samples.length);
}
const soundSeconds = (path: string): number => {
  const raw = execFileSync(
    'ffmpeg',
    ['-loglevel', 'error', '-i', path, '-map', '0:a:0', '-f', 's16le', '-ar', '48000', '-ac', '1', '-'],
    { maxBuffer: 1 << 28 },
  );
  return raw.length / 2 / 48000;
};

const range = (from: number, count: number): number[] => Array.from({ length: count }, (_, i) => from + i);

let a: string;
let b: string;
beforeAll(() => {
  a = counted('a.mkv', 40);
  b = counted('b.mkv', 120, { tone: 660 });
});

test('straight cuts: every frame of every clip from in to out, exact to the frame, and as much sound', async () => {
  const made = await film(
    'cut.mkv',
    [await shot(a, { inFrame: 5, outFrame: 14 }), await shot(b), await shot(a, { inFrame: 20 })],
    LOSSLESS,
  );
  expect(await lumas(made)).toEqual([...range(45, 10), ...range(120, 30), ...range(60, 10)]);
  expect(made.facts).toMatchObject({ width: 160, height: 90, variableRate: false, matrix: 'bt709', range: 'limited' });
  expect(soundSeconds(made.path)).toBeCloseTo(50 / 30, 3);
});

test('a dissolve: both clips mixed in equal steps, the film shorter by as much', async () => {
  const made = await film('dissolve.mkv', [await shot(a), await shot(b)], LOSSLESS, { dissolve: 0.2 });
  const mix = range(1, 6).map((i) => {
    const [from, to] = [40 + 24 + i - 1, 120 + i - 1];
    return Math.round(from + ((to - from) * i) / 7);
  });
  expect(await lumas(made)).toEqual([...range(40, 24), ...mix, ...range(126, 24)]);
  expect(soundSeconds(made.path)).toBeCloseTo(54 / 30, 3);
});

test('at ten bits too', async () => {
  // The encoder does not accept smaller pictures.
  const [large, other] = [counted('a10.mkv', 40, { size: '320x180' }), counted('b10.mkv', 120, { size: '320x180' })];
  const made = await film('ten.mov', [await shot(large), await shot(other)], { codec: 'vc3' }, { dissolve: 0.2 });
  const seen = await lumas(made);
  expect(made.facts).toMatchObject({ depth: 10, chroma: '422', frames: 54 });
  [...range(40, 24), 72].forEach((v, n) => expect(Math.abs(seen[n] / 4 - v)).toBeLessThan(1.5));
});

test('other sizes and rates are brought to those of the film; steps are applied; each clip at its own speed', async () => {
  const c = counted('c.mkv', 60, { size: '90x160', rate: 60 });
  const brighter: Step[] = [newStep('range', 'r', { white: 0.2 })];
  const slow: Retime = { factor: 0.5, rate: null, between: 'nearest', sound: 'follows' };
  const made = await film(
    'mixed.mkv',
    [await shot(a, { steps: brighter }), await shot(c), await shot(b, { outFrame: 9, retime: slow })],
    {
      ...LOSSLESS,
      fit: 'bars',
    },
  );
  expect(made.facts).toMatchObject({ width: 160, height: 90, frames: 30 + 15 + 20 });
  expect(made.facts.frameRate).toEqual({ num: 30, den: 1 });
  const seen = await lumas(made);
  expect(seen[0]).toBeGreaterThan(42);
  // Every second frame of the clip with twice the rate, then each of the slow clip's frames twice.
  range(0, 14).forEach((n) => expect(Math.abs(seen[30 + n] - (60 + 2 * n))).toBeLessThanOrEqual(1));
  range(0, 20).forEach((n) => expect(Math.abs(seen[45 + n] - (120 + (n >> 1)))).toBeLessThanOrEqual(1));
  // Bars beside the portrait clip.
  const { y } = await decodeFrame(made, 35);
  expect(y[45 * 160 + 4]).toBe(16);
});

test('upright for a phone', async () => {
  const made = await film('phone.mp4', [await shot(a), await shot(b)], { codec: 'h264', aspect: '9:16' });
  expect(made.facts).toMatchObject({ width: 50, height: 90, frames: 60 });
});

test('cut to a wide shape, with bars that keep the film’s size: above and below black, between them the clips', async () => {
  const upright = counted('upright.mkv', 60, { size: '90x160' });
  const wide = { ...LOSSLESS, aspect: '2:1', fit: 'inside' } as const;
  const made = await film('wide.mkv', [await shot(a), await shot(upright)], wide);
  expect(made.facts).toMatchObject({ width: 160, height: 90 });
  for (const frame of [3, 40]) {
    const { y } = await decodeFrame(made, frame);
    const rows = range(0, 90).map((row) => y[row * 160 + 80]);
    // Chroma has half the rows: bars begin and end on even ones.
    expect(rows.flatMap((v, row) => (v === 16 ? [row] : []))).toEqual([...range(0, 4), ...range(84, 6)]);
  }
});

test('a quiet clip is brought near the others, no further than 6 dB; a silent one stays silent', async () => {
  const quiet = counted('quiet.mkv', 40, { volume: 0.05 });
  const mute = counted('mute.mkv', 40, { more: ['-an'] });
  const shots = [await shot(a), await shot(quiet), await shot(mute), await shot(b)];
  const made = await film('level.mkv', shots, LOSSLESS, { levelled: true });
  const [loud, soft, none] = [0, 1, 2].map((k) => loudness(made.path, k + 0.2, k + 0.8));
  expect(20 * Math.log10(soft / loud)).toBeGreaterThan(-6.7);
  expect(20 * Math.log10(soft / loud)).toBeLessThan(-5.3);
  expect(none).toBe(0);
});

test('of a damaged clip the last frame stands for what cannot be decoded, and it is told', async () => {
  const whole = make(file('whole.mp4'), 'testsrc2=size=320x180:rate=30:duration=4', [
    ...['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '10', ...TAGS_709],
  ]);
  const bytes = readFileSync(whole);
  bytes.fill(0, Math.floor(bytes.length * 0.4), Math.floor(bytes.length * 0.6));
  writeFileSync(file('damaged.mp4'), bytes);
  const shots = [await shot(a), await shot(file('damaged.mp4'))];
  const output = file('with-damage.mkv');
  const base = { delivery: deliverySchema.parse(LOSSLESS), dissolve: 0, levelled: false, work: file('work') };
  const made = await makeFilm({ ...base, shots, output });
  const of = shots[1].outFrame + 1;
  expect(made).toMatchObject({ frames: 30 + of, damaged: [{ shot: 1, of }] });
  expect(made.damaged[0].decoded).toBeLessThan(of);
  expect((await sourceOf(output)).facts.frames).toBe(30 + of);
});

test('levels: towards the middle, within 6 dB, never into clipping', () => {
  const db = (g: number): number => 20 * Math.log10(g);
  const found = levels([
    { loudness: -20, peak: 0.1 },
    { loudness: -40, peak: 0.1 },
    { loudness: -26, peak: 0.8 },
    undefined,
  ]);
  expect(found.map((g) => Math.round(db(g) * 10) / 10)).toEqual([-6, 6, 0, 0]);
  expect(
    levels([
      { loudness: -30, peak: 0.8 },
      { loudness: -20, peak: 0.1 },
      { loudness: -20, peak: 0.1 },
    ])[0],
  ).toBeLessThan(1.12);
});

test('where shots stand: a dissolve takes no more than half of a clip', () => {
  const facts = { width: 16, height: 16, frameRate: { num: 25, den: 1 } };
  const shots = [9, 99, 3].map((outFrame) => ({ facts, inFrame: 0, outFrame }));
  expect(placeShots(shots, { num: 25, den: 1 }, 1)).toEqual([
    { start: 0, frames: 10, dissolve: 0 },
    { start: 5, frames: 100, dissolve: 5 },
    { start: 103, frames: 4, dissolve: 2 },
  ]);
});

test('stopped, or with an original that is gone: no file, nothing left, within two seconds', async () => {
  const output = file('stopped.mkv');
  const long = make(file('long.mp4'), 'testsrc2=size=1280x720:rate=30:duration=20', [
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    ...TAGS_709,
  ]);
  const controller = new AbortController();
  const base = { delivery: deliverySchema.parse(LOSSLESS), dissolve: 0.5, levelled: true, output, work: file('work') };
  const making = makeFilm({ ...base, shots: [await shot(long), await shot(long)], signal: controller.signal });
  await new Promise((r) => setTimeout(r, 1200));
  const asked = Date.now();
  controller.abort();
  await expect(making).rejects.toThrow();
  expect(Date.now() - asked).toBeLessThan(2000);
  const gone = await shot(a);
  await expect(
    makeFilm({ ...base, shots: [await shot(b), { ...gone, source: { ...gone.source, path: file('none.mkv') } }] }),
  ).rejects.toThrow();
  expect([existsSync(output), existsSync(`${output}.part`)]).toEqual([false, false]);
  expect(readdirSync(file('work'))).toEqual([]);
});
