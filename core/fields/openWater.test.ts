import { bt709 } from '../colour/transfer';
import type { Vec3 } from '../colour/matrix';
import type { LinearPicture } from './map';
import { openWaterMap } from './openWater';
import { sampledCells } from './samples';

/** A picture of linear light as a function of position; both coordinates are shares. */
function picture(width: number, height: number, light: (u: number, v: number, i: number) => Vec3): LinearPicture {
  const rgb = new Float32Array(3 * width * height);
  for (let i = 0; i < width * height; i += 1)
    rgb.set(light(((i % width) + 0.5) / width, (Math.floor(i / width) + 0.5) / height, i), 3 * i);
  return { width, height, rgb };
}

/** Uniform numbers −1–1, the same for a position whatever the picture's size. */
const grain = (u: number, v: number): number => {
  const s = Math.sin(Math.floor(u * 64) * 127.1 + Math.floor(v * 36) * 311.7) * 43758.5453;
  return 2 * (s - Math.floor(s)) - 1;
};

/** Blue water, brighter towards the surface. */
const water = (v: number): Vec3 => [0.02, 0.16, 0.3].map((c) => c * 2 ** (1.2 * (0.5 - v))) as Vec3;
/** Ground in it: of all levels, with little red. */
const ground = (u: number, v: number): Vec3 =>
  [0.02, 0.12, 0.16].map((c, k) => c * 2 ** (1.4 * grain(u, v) + 0.5 * grain(v, u + 0.1 * k))) as Vec3;

/** Mean of a map between two shares of the height. */
function meanOver(map: Float32Array, width: number, from: number, to: number): number {
  const height = map.length / width;
  const some = map.subarray(Math.round(from * height) * width, Math.round(to * height) * width);
  return some.reduce((sum, v) => sum + v, 0) / some.length;
}

test('above ground that fills the lower half the water is open, and the ground is not; green water too', () => {
  for (const tint of [(c: Vec3): Vec3 => c, ([r, g, b]: Vec3): Vec3 => [r, b, g]]) {
    const map = openWaterMap(picture(192, 108, (u, v) => tint(v < 0.5 ? water(v) : ground(u, v))));
    expect(meanOver(map, 192, 0, 0.42)).toBeGreaterThan(0.8);
    expect(meanOver(map, 192, 0.58, 1)).toBeLessThan(0.1);
  }
});

test('ground that fills the frame is no open water, and neither is what is drawn with a full range of colours', () => {
  expect(meanOver(openWaterMap(picture(192, 108, ground)), 192, 0, 1)).toBeLessThan(0.05);
  const colours = picture(192, 108, (u, v) => [0, 1, 2].map((k) => 0.3 * (1 + grain(u + 0.2 * k, v))) as Vec3);
  expect(meanOver(openWaterMap(colours), 192, 0, 1)).toBeLessThan(0.05);
});

test('things that drift in the water leave it open', () => {
  const drifting = picture(192, 108, (u, v, i) =>
    v < 0.5 ? (water(v).map((c) => (i % 97 ? c : 1.6 * c)) as Vec3) : ground(u, v),
  );
  expect(meanOver(openWaterMap(drifting), 192, 0, 0.42)).toBeGreaterThan(0.7);
});

test('a change of exposure by a stop changes little', () => {
  const light = (u: number, v: number): Vec3 => (v < 0.5 ? water(v) : ground(u, v));
  const brighter = picture(192, 108, (u, v) => light(u, v).map((c) => 2 * c) as Vec3);
  const [a, b] = [picture(192, 108, light), brighter].map(openWaterMap);
  expect(a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0)).toBeLessThan(0.35);
});

test.each([
  [256, 144],
  [144, 256],
  [40, 23],
])('a map of %i × %i cells lies between 0 and 1, and reads those cells that it says', (width, height) => {
  const rgb = picture(width, height, (u, v) => (v < 0.4 ? water(v) : ground(u, v))).rgb;
  const some = new Float32Array(rgb.length).fill(NaN);
  for (const i of sampledCells(width, height)) some.set(rgb.subarray(3 * i, 3 * i + 3), 3 * i);
  const map = openWaterMap({ width, height, rgb });
  expect(openWaterMap({ width, height, rgb: some })).toEqual(map);
  expect(Math.min(...map)).toBeGreaterThanOrEqual(0);
  expect(Math.max(...map)).toBeLessThanOrEqual(1);
});

test('black and white frames, and what lies below black, give numbers', () => {
  for (const level of [-0.1, 0, 1, bt709.decode(1.2)])
    for (const v of openWaterMap(picture(64, 36, () => [level, level, level]))) expect(Number.isFinite(v)).toBe(true);
});
