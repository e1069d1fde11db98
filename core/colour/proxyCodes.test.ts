import type { Vec3 } from './matrix';
import {
  AS_LABELLED,
  carry,
  CHART,
  CHART_COLUMNS,
  CHART_ROWS,
  chartOff,
  codesOf,
  fitShownCodes,
  shownToFile,
} from './proxyCodes';
import { codeScale, ycbcrToRgb, type MatrixName, type RangeName } from './ycbcr';

const clamp = (v: number): number => Math.min(255, Math.max(0, Math.round(v)));

/**
 * What a browser that interprets a video with this range and matrix shows for code values (ITU-R BT.709-6, BT.601-7; 8
 * bits).
 */
const shownAs =
  (range: RangeName, matrix: MatrixName) =>
  ([y, cb, cr]: Vec3): Vec3 => {
    const { yOffset, yScale, cOffset, cScale } = codeScale(8, range);
    const rgb = ycbcrToRgb([(y - yOffset) / yScale, (cb - cOffset) / cScale, (cr - cOffset) / cScale], matrix);
    return rgb.map((v) => clamp(255 * v)) as Vec3;
  };
const inProxy = (codes: Vec3): Vec3 => carry(codes).map(Math.round) as Vec3;
const PLACES: Vec3[] = [...CHART, [0, 128, 128], [255, 128, 128], [16, 128, 128], [235, 128, 128], [60, 110, 160]];

test('the chart has a colour for each of its places, all different', () => {
  expect(CHART).toHaveLength(CHART_COLUMNS * CHART_ROWS);
  expect(new Set(CHART.map(String)).size).toBe(CHART.length);
});

test.each([
  ['full', 'bt709'],
  ['limited', 'bt709'],
  ['full', 'bt601'],
  ['limited', 'bt601'],
] as const)('a browser that takes proxies for %s range and %s gives the file’s code values back', (range, matrix) => {
  const show = shownAs(range, matrix);
  const codes = fitShownCodes(CHART.map((c) => show(inProxy(c))))!;
  expect(codes === AS_LABELLED).toBe(range === 'full' && matrix === 'bt709');
  // Includes black and white of either range, which the chart does not reach.
  for (const place of PLACES)
    codesOf(codes, show(inProxy(place))).forEach((v, i) => expect(Math.abs(v - place[i])).toBeLessThan(2));
});

test('a browser’s coarse arithmetic is fitted, and what no affine map explains is refused', () => {
  // Blue a twentieth too weak, as one conversion library computes it; mid grey stays.
  const weak = CHART.map((c): Vec3 => {
    const [r, g, b] = shownAs('full', 'bt709')(inProxy(c));
    return [r, g, g + 0.95 * (b - g)];
  });
  expect(chartOff(weak, AS_LABELLED)).toBeGreaterThan(3);
  expect(chartOff(weak, fitShownCodes(weak)!)).toBeLessThan(1.5);

  const squared = CHART.map((c) => shownAs('full', 'bt709')(inProxy(c)).map((v) => (v * v) / 255) as Vec3);
  expect(fitShownCodes(squared)).toBeNull();
  expect(fitShownCodes(CHART.map((): Vec3 => [0, 0, 0]))).toBeNull();
});

test.each(['limited', 'full'] as const)('R′G′B′ of a file with %s range', (range) => {
  const factors = shownToFile(AS_LABELLED, { range, matrix: 'bt2020' });
  const { yOffset, yScale, cOffset, cScale } = codeScale(8, range);
  const wanted: Vec3 = [0.5, 0.3, 0.1];
  const [kr, kg, kb] = [0.2627, 0.678, 0.0593];
  const y = kr * wanted[0] + kg * wanted[1] + kb * wanted[2];
  const [u, v] = [(wanted[2] - y) / (2 * (1 - kb)), (wanted[0] - y) / (2 * (1 - kr))];
  const carried = carry([yOffset + y * yScale, cOffset + u * cScale, cOffset + v * cScale]);
  const full = ycbcrToRgb([carried[0] / 255, (carried[1] - 128) / 255, (carried[2] - 128) / 255], 'bt709');
  wanted.forEach((value, c) => {
    const [r, g, b, add] = factors.slice(4 * c, 4 * c + 4);
    expect(255 * (r * full[0] + g * full[1] + b * full[2]) + add).toBeCloseTo(value, 4);
  });
});
