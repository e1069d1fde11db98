import type { Correction } from '@inkavo/core/reading/correction';
import { anchorsOf, correctionOf, OUTPUTS, type Dependence } from '@inkavo/core/reading/correction';
import { gridOf } from '@inkavo/core/reading/grid';
import { compile } from '@inkavo/core/program/compile';
import { evaluate } from '@inkavo/core/program/evaluate';
import { asSteps, stepsOf } from '@inkavo/core/reading/stepsOf';
import { chromaLoss, correctWithSlopes, difference, NUMBERS } from './slopes';

const plain: Correction = {
  black: 0.1,
  widen: 0.3,
  open: 2.3,
  veil: [0.02, 0.05, 0.04],
  air: null,
  gain: [0.5, 0.1, 0.3],
  saturation: 0.15,
};
const code = [0.5, 0.42, 0.6];
const truth = [0.42, 0.5, 0.33];
const H = 1e-4;

const resultOf = (c: Correction): number[] => {
  const out = [0, 0, 0];
  correctWithSlopes(code, 0, c, 0, out, new Float64Array(3 * NUMBERS));
  return out;
};
/** A correction as numbers, and back. */
const numbersOf = (c: Correction): number[] => [c.black, c.widen, c.open, ...c.veil, ...c.gain, c.saturation];
const fromNumbers = (n: number[]): Correction => ({
  black: n[0],
  widen: n[1],
  open: n[2],
  veil: [n[3], n[4], n[5]],
  air: null,
  gain: [n[6], n[7], n[8]],
  saturation: n[9],
});

test.each([
  ['a flat recording', plain],
  ['standard video', { ...plain, black: 0, widen: 0, open: 0 }],
  ['a veil denser than the light', { ...plain, veil: [0.2, 0.3, 0.25] as [number, number, number] }],
])('slopes of a correction are those of small changes: %s', (_name, correction) => {
  const slopes = new Float64Array(3 * NUMBERS);
  const out = [0, 0, 0];
  correctWithSlopes(code, 0, correction, 0, out, slopes);
  const by = [0, 0, 0];
  const base = difference(out, truth, 0, by);
  numbersOf(correction).forEach((v, p) => {
    if (p === 2 && v === 0) return;
    const moved = numbersOf(correction);
    moved[p] += H;
    const next = resultOf(fromNumbers(moved));
    for (let c = 0; c < 3; c += 1) expect((next[c] - out[c]) / H).toBeCloseTo(slopes[c * NUMBERS + p], 1);
    const slope = [0, 1, 2].reduce((s, c) => s + by[c] * slopes[c * NUMBERS + p], 0);
    expect((difference(next, truth, 0, [0, 0, 0]) - base) / H).toBeCloseTo(slope, 1);
  });
});

test('the slope of chroma as a whole is that of small changes', () => {
  const out = Float64Array.from([0.5, 0.4, 0.3, 0.2, 0.5, 0.6]);
  const wanted = Float64Array.from([0.7, 0.3, 0.2, 0.1, 0.5, 0.8]);
  const by = new Float64Array(6);
  const base = chromaLoss(out, wanted, by);
  out.forEach((_, i) => {
    const moved = out.slice();
    moved[i] += H;
    expect((chromaLoss(moved, wanted, new Float64Array(6)) - base) / H).toBeCloseTo(by[i], 3);
  });
});

test('how a correction depends on outputs is said truly', () => {
  const grid = gridOf({
    width: 64,
    height: 36,
    cells: [64, 36],
    code: new Float32Array(64 * 36 * 3).map((_, i) => 0.2 + (0.6 * ((i * 7919) % 997)) / 997),
    luma: new Float32Array(64 * 36),
  });
  const anchors = anchorsOf(grid);
  const outputs = Array.from({ length: OUTPUTS }, (_, i) => 0.3 - 0.07 * i);
  for (const fault of ['water', 'haze', 'flat', 'white'] as const) {
    const slopes: Dependence[] = [];
    const base = correctionOf(fault, outputs, anchors, slopes);
    const read = (c: Correction, of: string): number =>
      /\d$/.test(of)
        ? (c[of.slice(0, -1) as 'veil' | 'gain' | 'air'] ?? [0, 0, 0])[Number(of.at(-1))]
        : (c[of as 'black'] as number);
    for (const of of new Set(slopes.map((s) => s.of)))
      for (let k = 0; k < OUTPUTS; k += 1) {
        const moved = outputs.slice();
        moved[k] += H;
        const slope = slopes.filter((s) => s.of === of && s.output === k).reduce((s, d) => s + d.slope, 0);
        expect((read(correctionOf(fault, moved, anchors), of) - read(base, of)) / H).toBeCloseTo(slope, 3);
      }
  }
});

test('steps do what the correction says that they were made from', () => {
  const white: Correction = {
    ...plain,
    black: 0,
    widen: 0,
    open: 0,
    veil: [0, 0, 0],
    gain: [0.4, 0, -0.3],
    saturation: 0.2,
  };
  const flat: Correction = { ...plain, veil: [0, 0, 0], gain: [0.2, 0.2, 0.2] };
  const context = { hazeShare: 0, done: 1, frames: [], others: 0, dive: null, seconds: 1 };
  for (const [fault, correction, near] of [
    // Adaptation to the light's white replaces the gains.
    ['white', white, 0.06],
    ['flat', flat, 0.01],
  ] as const) {
    const steps = asSteps(stepsOf(fault, correction, 0, context));
    const got = evaluate(compile(steps, 0), [0.45, 0.42, 0.4], false, []);
    const out = [0, 0, 0];
    correctWithSlopes([0.45, 0.42, 0.4], 0, correction, 0, out, new Float64Array(3 * NUMBERS));
    got.forEach((v, c) => expect(Math.abs(v - out[c])).toBeLessThan(near));
  }
});
