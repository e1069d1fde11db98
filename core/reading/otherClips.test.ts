import type { Vec3 } from '../colour/matrix';
import type { Correction } from './correction';
import type { ClipClass } from './estimate';
import { GRID_CELLS } from './grid';
import {
  convertedOthers,
  curveWithOthers,
  likelihoodsWithOthers,
  readOtherClips,
  whiteWithOthers,
  withSameWhite,
  type OtherClip,
} from './otherClips';
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
const NEUTRAL: Vec3 = [0, 0, 0];
/** Gains that correct a white of about 4000 K. */
const WARM: Vec3 = [0.3, 0, -0.5];
/** Another clip with this likelihood of being flat; the rest of it haze. */
const flatOne = (flat: number): OtherClip => ({
  likely: { water: 0, haze: 1 - flat, flat, white: 0, good: 0 },
  curve: curve(0.2, 0.5),
  gain: NEUTRAL,
  grids: [],
});
const said = (...flat: number[]): OtherClip[] => flat.map(flatOne);
/** Another clip of standard video with this likelihood of a wrong white. */
const whiteOne = (white: number, gain: Vec3): OtherClip => ({
  likely: { water: 0, haze: 0.05, flat: 0.05, white, good: 0.9 - white },
  curve: curve(0, 0),
  gain,
  grids: [],
});
const sum = (of: Readonly<Record<ClipClass, number>>): number => Object.values(of).reduce((a, b) => a + b, 0);

test('without others nothing changes', () => {
  expect(likelihoodsWithOthers(own, NEUTRAL, [])).toEqual(own);
  expect(curveWithOthers(curve(0.1, 0.3), [])).toEqual(curve(0.1, 0.3));
  expect(whiteWithOthers(curve(0.1, 0.3), [])).toEqual(curve(0.1, 0.3));
});

test('others that are flat make it likelier, others that are not less likely; what is left keeps its proportions', () => {
  const [flat, not] = [
    likelihoodsWithOthers(own, NEUTRAL, said(0.9, 0.8)),
    likelihoodsWithOthers(own, NEUTRAL, said(0.03, 0.02)),
  ];
  expect(flat.flat).toBeGreaterThan(0.6);
  expect(not.flat).toBeLessThan(0.25);
  for (const all of [flat, not]) {
    expect(sum(all)).toBeCloseTo(1, 12);
    expect(all.haze / all.water).toBeCloseTo(own.haze / own.water, 9);
  }
  // Several of them are stronger evidence, up to the likelihood for a clip that was recorded differently.
  const [one, four] = [
    likelihoodsWithOthers(own, NEUTRAL, said(0.9)),
    likelihoodsWithOthers(own, NEUTRAL, said(0.9, 0.9, 0.9, 0.9)),
  ];
  expect(one.flat).toBeLessThan(four.flat);
});

test('a clip that is surely not flat is not made flat by the others', () => {
  const clear = { water: 0, haze: 0.01, flat: 0.005, white: 0.005, good: 0.98 };
  expect(likelihoodsWithOthers(clear, NEUTRAL, said(0.99, 0.99, 0.99, 0.99, 0.99)).flat).toBeLessThan(0.08);
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
  expect(flat.likely.flat).toBeGreaterThan(full.likely.flat);
  expect(flat.curve.black).toBeGreaterThan(0.1);
  expect(flat.curve.black).toBeLessThan(0.21);
});

describe('white', () => {
  const doubtful: Record<ClipClass, number> = { water: 0.01, haze: 0.04, flat: 0.05, white: 0.35, good: 0.55 };
  const [wrong, right] = [0, 1].map((k) =>
    [0, 1, 2, 3].map(() => (k === 0 ? whiteOne(0.8, WARM) : whiteOne(0.05, NEUTRAL))),
  );
  const near: Vec3 = [0.26, 0, -0.45];

  test('others with the same wrong white make it likelier, others without one less likely', () => {
    expect(likelihoodsWithOthers(doubtful, near, wrong).white).toBeGreaterThan(0.7);
    expect(likelihoodsWithOthers(doubtful, [0.03, 0, -0.02], right).white).toBeLessThan(0.15);
    for (const others of [wrong, right]) expect(sum(likelihoodsWithOthers(doubtful, near, others))).toBeCloseTo(1, 12);
  });

  test('where its own colours are far from theirs, they say nothing', () => {
    const { white, good } = likelihoodsWithOthers(doubtful, near, right);
    expect(white / good).toBeCloseTo(doubtful.white / doubtful.good, 1);
    const blue = { ...curve(0, 0), gain: [-0.2, 0, 0.5] as Vec3 };
    whiteWithOthers(blue, wrong).gain.forEach((g, c) => expect(g).toBeCloseTo(blue.gain[c], 2));
    expect(withSameWhite(blue.gain, wrong)).toBe(0);
  });

  test('its colour is a mean of those that agree; how bright it becomes stays its own', () => {
    const before = { ...curve(0, 0), gain: near };
    const { gain } = whiteWithOthers(before, wrong);
    expect(gain[0] - gain[1]).toBeGreaterThan(0.27);
    expect(gain[0] - gain[1]).toBeLessThan(0.3);
    const level = ([r, g, b]: Readonly<Vec3>): number =>
      0.2126 * Math.exp(-r) + 0.7152 * Math.exp(-g) + 0.0722 * Math.exp(-b);
    expect(level(gain)).toBeCloseTo(level(near), 3);
    expect(withSameWhite(near, wrong)).toBe(4);
    expect(withSameWhite(near, right)).toBe(0);
    // One with a different wrong white is not counted.
    expect(withSameWhite(near, [...wrong, whiteOne(0.8, [-0.2, 0, 0.5])])).toBe(4);
  });
});

test('others that are flat are looked at again once they are converted, and only these', () => {
  const grid = new Float32Array(3 * GRID_CELLS).map((_, i) => 0.2 + 0.4 * (((i * 7919) % 1000) / 1000) ** 1.5);
  const others = [
    { ...flatOne(0.9), grids: [grid] },
    { ...flatOne(0.1), grids: [grid] },
  ];
  const before = grid.slice();
  const seen = convertedOthers(others, (cells) => cells.map((v) => (v - 0.2) / 0.4));
  expect(seen).toHaveLength(1);
  expect(seen[0].likely.flat).toBe(0);
  expect(sum(seen[0].likely)).toBeCloseTo(1, 6);
  expect(grid).toEqual(before);
});
