import { converter } from 'culori';
import fc from 'fast-check';
import { decode709, encode709 } from './transferTables';
import { ACESCCT, BETA, bt1886, bt709, gamma, hlg, logCamera, pq, srgb, type Transfer } from './transfer';

const ALL: [string, Transfer, number, number][] = [
  ['BT.709', bt709, -0.5, 8],
  ['sRGB', srgb, -0.5, 8],
  ['gamma 2.2', gamma(2.2), -0.5, 8],
  ['BT.1886', bt1886, -0.5, 8],
  ['HLG', hlg, -0.5, 3],
  ['PQ', pq, 0, 1],
  ['ACEScct', logCamera(ACESCCT), -0.1, 200],
];

describe('every transfer function', () => {
  test.each(ALL)('%s: decode undoes encode', (_name, t, lo, hi) => {
    fc.assert(
      fc.property(fc.double({ min: lo, max: hi, noNaN: true }), (l) => {
        expect(Math.abs(t.decode(t.encode(l)) - l)).toBeLessThan(1e-9 * Math.max(1, Math.abs(l) * 100));
      }),
    );
  });
  test.each(ALL)('%s: rises', (_name, t, lo, hi) => {
    let last = -Infinity;
    for (let i = 0; i <= 2000; i += 1) {
      const v = t.encode(lo + ((hi - lo) * i) / 2000);
      expect(v).toBeGreaterThan(last);
      last = v;
    }
  });
});

test('BT.709-6 item 1.2: the curve as printed, to its three digits', () => {
  const printed = (l: number) => (l < 0.018 ? 4.5 * l : 1.099 * l ** 0.45 - 0.099);
  for (let l = 0; l <= 1; l += 0.001) expect(Math.abs(bt709.encode(l) - printed(l))).toBeLessThan(4e-4);
  expect(bt709.encode(1)).toBeCloseTo(1, 12);
  expect(bt709.encode(-0.18)).toBe(-bt709.encode(0.18));
});

test('BT.709: no step and no break in slope where its two parts meet', () => {
  const at = 0.018053968510807;
  const e = 1e-7;
  const slope = (l: number) => (bt709.encode(l + e) - bt709.encode(l - e)) / (2 * e);
  expect(bt709.encode(at + 1e-9)).toBeCloseTo(bt709.encode(at - 1e-9), 7);
  expect(slope(at - 1e-5)).toBeCloseTo(slope(at + 1e-5), 2);
});

test('BT.2100 HLG: published points (table 5), BT.2408 table 1 for 18 % grey at 38 %', () => {
  expect(hlg.encode(1 / 12)).toBeCloseTo(0.5, 9);
  expect(hlg.encode(1)).toBeCloseTo(1, 6);
  // Reference white sits at 75 %; 18 % of it at 38 %.
  expect(hlg.encode(0.18 * hlg.decode(0.75))).toBeCloseTo(0.38, 2);
});

test('BT.2100 PQ: published points (BT.2408: 203 cd/m² at 58 %)', () => {
  expect(pq.encode(0.01)).toBeCloseTo(0.5081, 4);
  expect(pq.encode(0.0203)).toBeCloseTo(0.5807, 4);
  expect(pq.encode(0.1)).toBeCloseTo(0.7518, 4);
  expect(pq.encode(1)).toBeCloseTo(1, 9);
});

test('ACEScct (S-2016-001) through the log-camera form: published points', () => {
  const t = logCamera(ACESCCT);
  expect(t.encode(0.18)).toBeCloseTo(0.4135884, 6);
  expect(t.encode(0)).toBeCloseTo(0.0729055, 6);
  expect(t.encode(1)).toBeCloseTo(0.5547945, 6);
  expect(t.encode(0.0078125)).toBeCloseTo(0.1552511, 6);
});

test('sRGB equals culori', () => {
  const toLinear = converter('lrgb');
  for (let v = 0; v <= 1; v += 0.01) {
    expect(srgb.decode(v)).toBeCloseTo(toLinear({ mode: 'rgb', r: v, g: v, b: v }).r, 9);
  }
});

test('a log curve without sense is refused with a reason', () => {
  expect(() => logCamera({ ...ACESCCT, base: 1 })).toThrow('no value at its break');
  expect(() => logCamera({ ...ACESCCT, logSideSlope: -1 })).toThrow('does not rise');
});

test('the tables of BT.709 agree with the function to 1e-10, also beyond their ends', () => {
  let [worst, at] = [0, 0];
  const look = (v: number): void => {
    const off = Math.max(Math.abs(decode709(v) - bt709.decode(v)), Math.abs(encode709(v) - bt709.encode(v)));
    if (!(off <= worst)) [worst, at] = [off, v];
  };
  for (let i = -9000; i <= 36_000; i += 1) look(i / 2000 + 1e-5);
  // The end of the linear segment, from both sides.
  for (const end of [BETA, 4.5 * BETA, -BETA, 4.5 * -BETA])
    for (const e of [-1e-9, -1e-17, 0, 1e-17, 1e-9]) look(end + e);
  expect({ at, small: worst < 1e-10 }).toEqual({ at, small: true });
  expect([decode709(NaN), encode709(NaN)]).toEqual([NaN, NaN]);
});
