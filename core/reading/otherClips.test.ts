import { readOtherClips, curveWithOthers, likelihoodsWithOthers } from './otherClips';
import type { Correction } from './correction';
import type { ClipClass } from './estimate';
import { GRID_CELLS } from './grid';
import { sightOf } from './recognise';

const curve = (black: number, widen: number): Correction => ({
  black,
  widen,
  open: 2,
  veil: [0, 0, 0],
  air: null,
  gain: [0.1, 0, -0.1],
  saturation: 0.2,
});
const own: Record<ClipClass, number> = { water: 0.02, haze: 0.5, flat: 0.38, white: 0.06, good: 0.04 };
const said = (...flat: number[]) => flat.map((f) => ({ flat: f, curve: curve(0.2, 0.5) }));
const sum = (of: Readonly<Record<ClipClass, number>>): number => Object.values(of).reduce((a, b) => a + b, 0);

test('without others nothing changes', () => {
  expect(likelihoodsWithOthers(own, [])).toEqual(own);
  expect(curveWithOthers(curve(0.1, 0.3), [])).toEqual(curve(0.1, 0.3));
});

test('others that are flat make it likelier, others that are not less likely; what is left keeps its proportions', () => {
  const [flat, not] = [likelihoodsWithOthers(own, said(0.9, 0.8)), likelihoodsWithOthers(own, said(0.03, 0.02))];
  expect(flat.flat).toBeGreaterThan(0.6);
  expect(not.flat).toBeLessThan(0.25);
  for (const all of [flat, not]) {
    expect(sum(all)).toBeCloseTo(1, 12);
    expect(all.haze / all.water).toBeCloseTo(own.haze / own.water, 9);
  }
  // More of them say it more surely, up to what is likely for one that was recorded otherwise.
  const [one, four] = [likelihoodsWithOthers(own, said(0.9)), likelihoodsWithOthers(own, said(0.9, 0.9, 0.9, 0.9))];
  expect(one.flat).toBeLessThan(four.flat);
});

test('a clip that is surely not flat is not made flat by the others', () => {
  const clear = { water: 0, haze: 0.01, flat: 0.005, white: 0.005, good: 0.98 };
  expect(likelihoodsWithOthers(clear, said(0.99, 0.99, 0.99, 0.99, 0.99)).flat).toBeLessThan(0.08);
});

test('levels and curve are a mean in which its own count most, and others as much as they are flat', () => {
  const near = curveWithOthers(curve(0.1, 0.3), said(1));
  expect(near.black).toBeCloseTo(0.12, 12);
  expect(near.widen).toBeCloseTo(0.34, 12);
  expect(near.gain).toEqual([0.1, 0, -0.1]);
  expect(curveWithOthers(curve(0.1, 0.3), said(0))).toEqual(curve(0.1, 0.3));
});

test('a flat picture of another clip is told from a full one', () => {
  const picture = (low: number, high: number) =>
    sightOf(
      [new Float32Array(3 * GRID_CELLS).map((_, i) => low + (high - low) * (((i * 7919) % 1000) / 1000) ** 1.5)],
      8,
    );
  const [flat, full] = readOtherClips([picture(0.2, 0.66), picture(0, 1)]);
  expect(flat.flat).toBeGreaterThan(full.flat);
  expect(flat.curve.black).toBeGreaterThan(0.1);
  expect(flat.curve.black).toBeLessThan(0.21);
});
