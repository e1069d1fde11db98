import type { Vec3 } from '../colour/matrix';
import { rgbToYcbcr } from '../colour/ycbcr';
import { pickNeutral } from '../steps/balance/pick';
import { newStep, type Step } from '../model/grade';
import {
  castReadings,
  clippingReading,
  isUnflattened,
  keepsOpenWater,
  rangeReading,
  saturationReading,
} from './readings';
import { meanOfArea, sampleArea } from './sampleArea';
import { fileEnds, measure } from './statistics';
import { rowOf, traceWaveform, valueOfHeight } from './trace';

const W = 96;
const H = 54;
/** A picture from a function of column and row. */
function picture(f: (x: number, y: number) => Vec3): Float32Array {
  const out = new Float32Array(W * H * 3);
  for (let y = 0; y < H; y += 1) for (let x = 0; x < W; x += 1) out.set(f(x, y), (y * W + x) * 3);
  return out;
}
const NO_ENDS = { low: -Infinity, high: Infinity };

test('a vertical edge in the picture stands at the same column of the waveform', () => {
  const edge = 37;
  const trace = traceWaveform(
    picture((x) => (x < edge ? [0.2, 0.2, 0.2] : [0.8, 0.8, 0.8])),
    W,
    H,
    W,
    200,
  );
  const at = (x: number, v: number) => trace.counts.luma[rowOf(v, 200) * W + x];
  expect(at(edge - 1, 0.2)).toBe(H);
  expect(at(edge - 1, 0.8)).toBe(0);
  expect(at(edge, 0.8)).toBe(H);
});

test('SMPTE RP 219: 75 % bars stand on their levels', () => {
  const bars: Vec3[] = [
    [0.75, 0.75, 0.75],
    [0.75, 0.75, 0],
    [0, 0.75, 0.75],
    [0, 0.75, 0],
    [0.75, 0, 0.75],
    [0.75, 0, 0],
    [0, 0, 0.75],
  ];
  const rows = 1220;
  const trace = traceWaveform(
    picture((x) => bars[Math.min(6, Math.floor((x * 7) / W))]),
    W,
    H,
    W,
    rows,
  );
  bars.forEach((rgb, i) => {
    const column = Math.floor(((i + 0.5) * W) / 7);
    const [luma] = rgbToYcbcr(rgb, 'bt709');
    const row = Array.from({ length: rows }, (_, y) => y).find((y) => trace.counts.luma[y * W + column] > 0)!;
    expect(Math.abs(valueOfHeight((row + 0.5) / rows) - luma)).toBeLessThan(1 / 255);
    expect(trace.counts.red[rowOf(rgb[0], rows) * W + column]).toBe(H);
  });
});

test('percentiles of a ramp, exact to the digits shown', () => {
  const { luma, chroma } = measure(
    picture((x) => [x / (W - 1), x / (W - 1), x / (W - 1)]),
    picture(() => [0.5, 0.5, 0.5]),
    NO_ENDS,
  );
  // Half a column of the ramp is the finest resolvable difference.
  expect(Math.abs(luma.mid - 0.5)).toBeLessThanOrEqual(0.5 / (W - 1));
  expect(luma.low).toBeLessThan(0.006);
  expect(luma.high).toBeGreaterThan(0.994);
  expect(chroma.mean).toBeLessThan(1e-3);
});

test('clipping is split into what the file lost and what the grade loses', () => {
  const code = picture((x) => (x < W / 4 ? [1.08, 1.08, 1.08] : [0.3 + x / 400, 0.4, 0.5]));
  const graded = code.map((v) => v * 1.6);
  const ends = fileEnds(code);
  expect(ends.high).toBeLessThan(1.08);
  const s = measure(graded, code, ends);
  expect(s.lostInFile).toBeCloseTo(0.25, 2);
  expect(s.lostByGrade).toBe(0);
  expect(clippingReading(s).text).toBe('25.0 % of the frame lost in the file, nothing by the grade.');
  const worse = measure(
    code.map((v) => v * 2.3),
    code,
    ends,
  );
  expect(worse.lostByGrade).toBeGreaterThan(0.5);
  expect(clippingReading(worse).mend).toBe('range');
});

test('values beyond white are the file’s own, not lost by a grade that leaves them; pushed further out of another channel, they are', () => {
  const code = picture((x) => (x < W / 2 ? [1.05 + x / 1000, 0.7, 0.5 + x / W] : [0.5, 0.4 + x / 400, 0.3]));
  const untouched = measure(code, code, NO_ENDS);
  expect(untouched).toMatchObject({ lostInFile: 0, lostByGrade: 0, outOfRange: 0.5, pressed: 0 });
  expect(clippingReading(untouched).text).toBe('50.0 % beyond black or white in the file, not lost.');
  const brighter = code.map((v, i) => (i % 3 === 1 ? v * 1.5 : v));
  expect(measure(brighter, code, NO_ENDS).lostByGrade).toBeGreaterThanOrEqual(0.5);
  // Brought back into range, nothing is lost and nothing is out of range.
  const back = measure(
    code.map((v) => v * 0.9),
    code,
    NO_ENDS,
  );
  expect([back.lostByGrade, back.outOfRange]).toEqual([0, 0]);
});

test('soft ends that leave most of the frame on the last code values press it flat; a plain bright frame is not', () => {
  const grey = (f: (x: number) => number) => picture((x) => [f(x), f(x), f(x)]);
  const ramp = (x: number) => x / W;
  // Two stops up, and soft ends that hold all of it below white.
  const soft = (v: number) => (v > 0.88 ? 0.88 + (0.12 * (v - 0.88)) / (0.12 + v - 0.88) : v);
  const pressed = measure(
    grey((x) => soft(4 * ramp(x))),
    grey(ramp),
    NO_ENDS,
  );
  expect(pressed.lostByGrade).toBe(0);
  // 4x > 1.56 reaches the last four code values of soft(): x from 0.39 on.
  expect(pressed.pressed).toBeGreaterThan(0.5);
  expect(clippingReading(pressed)).toMatchObject({ text: expect.stringContaining('pressed flat'), mend: 'range' });
  const bright = grey((x) => 0.98 + 0.02 * ramp(x));
  expect(measure(bright, bright, NO_ENDS).pressed).toBe(0);
});

test('a file that does not pile up has lost nothing', () => {
  expect(fileEnds(picture((x, y) => [(x + y / H) / W, (y + x / W) / H, 0.2 + 0.6 * ((x * H + y) / (W * H))]))).toEqual(
    NO_ENDS,
  );
});

test('readings are sentences with numbers, and name the step that mends', () => {
  const flat = measure(
    picture((x) => [0.3 + (x / W) * 0.25, 0.3 + (x / W) * 0.25, 0.3 + (x / W) * 0.25]),
    picture(() => [0.4, 0.4, 0.4]),
    NO_ENDS,
  );
  expect(rangeReading(flat, false)).toMatchObject({
    text: 'Shadows at 30 %, highlights at 55 %: flat.',
    mend: 'convert',
  });
  expect(castReadings(flat).every((r) => /neutral within/.test(r.text))).toBe(true);
  expect(saturationReading(flat).mend).toBe('saturation');
  const green = measure(
    picture((x) => [0.2 * (x / W), x / W, 0.6 * (x / W)]),
    picture(() => [0.4, 0.4, 0.4]),
    NO_ENDS,
  );
  expect(castReadings(green)[0]).toMatchObject({ mend: 'balance' });
  expect(castReadings(green)[0].text).toMatch(/^Highlights: green \d+ % above red\.$/);
  expect(castReadings(green, true)[0]).toEqual({ mark: 'highlights', text: castReadings(green)[0].text });
});

test('open water is kept by a water step that acts and was not told to keep none', () => {
  const water = (params: Record<string, unknown>): Step => newStep('water', 'w', params);
  expect(keepsOpenWater([water({})])).toBe(false);
  expect(keepsOpenWater([water({ depth: 6 })])).toBe(true);
  expect(keepsOpenWater([water({ depth: 6, keepWater: 0 })])).toBe(false);
  expect(keepsOpenWater([{ ...water({ depth: 6 }), on: false }])).toBe(false);
});

test('what was converted, or seen through water or haze, is not called flat: its range is left to set', () => {
  const bunched = measure(
    picture((x) => [0.3 + (x / W) * 0.25, 0.3 + (x / W) * 0.25, 0.3 + (x / W) * 0.25]),
    picture(() => [0.4, 0.4, 0.4]),
    NO_ENDS,
  );
  const read = (...steps: Step[]) => rangeReading(bunched, isUnflattened(steps)).mend;
  const water = newStep('water', 'w', { depth: 6 });
  expect(read(newStep('convert', 'c'), newStep('range', 'r', { contrast: 1.2 }))).toBe('convert');
  expect(read(newStep('convert', 'c'), water)).toBe('range');
  expect(read({ ...water, on: false })).toBe('convert');
  expect(rangeReading(bunched, true).text).toBe('Shadows at 30 %, highlights at 55 %: room at both ends.');
});

test('an area is read in its own pixels', () => {
  const values = picture((x) => (x < W / 2 ? [0.1, 0.2, 0.3] : [0.9, 0.8, 0.7]));
  meanOfArea(values, W, H, { x: 0.5, y: 0, width: 0.5, height: 1 }).forEach((v, i) =>
    expect(v).toBeCloseTo([0.9, 0.8, 0.7][i], 5),
  );
  const sample = sampleArea(values, W, H, { x: 0, y: 0, width: 0.01, height: 0.01 }, () => undefined, {
    low: 0.15,
    high: 2,
  });
  expect(sample).toMatchObject({ clipped: 1 });
  expect(sample.linear.length % 3).toBe(0);
});

test('an area over two things side by side is not taken for one colour', () => {
  const values = picture((x) => (x < W / 2 ? [0.6, 0.3, 0.3] : [0.3, 0.3, 0.6]));
  const sample = sampleArea(values, W, H, { x: 0.25, y: 0.25, width: 0.5, height: 0.5 }, () => undefined, NO_ENDS);
  expect(pickNeutral(sample)).toMatchObject({ ok: false, reason: 'mixed' });
});
