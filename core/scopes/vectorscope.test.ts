import type { Vec3 } from '../colour/matrix';
import { ycbcrToRgb } from '../colour/ycbcr';
import { levelHistograms, zoneOf, zoneShares } from './levels';
import { hueReading, markReading, zoneReading } from './readings';
import { TRACE_HIGH, TRACE_LOW } from './trace';
import { barTargets, HUE_BINS, hueHistogram, padChroma, padPoint, PAD_REACH, traceVectorscope } from './vectorscope';

const flat = (rgb: Vec3, count = 100): Float32Array => Float32Array.from({ length: 3 * count }, (_, i) => rgb[i % 3]);

// SMPTE RP 219-1, table of 75 % bars: 10-bit Y', Cb and Cr.
const RP219: Record<string, [number, number, number]> = {
  yellow: [674, 176, 543],
  cyan: [581, 589, 176],
  green: [534, 253, 207],
  magenta: [251, 771, 817],
  red: [204, 435, 848],
  blue: [111, 848, 481],
};

test('the targets are those of SMPTE RP 219', () => {
  for (const { name, cb, cr } of barTargets()) {
    expect(Math.round(512 + 896 * cb)).toBe(RP219[name][1]);
    expect(Math.round(512 + 896 * cr)).toBe(RP219[name][2]);
  }
});

test.each(Object.entries(RP219))(
  'a %s bar falls into its target, within one 8-bit value, at every zoom',
  (name, codes) => {
    const size = 992;
    const rgb = ycbcrToRgb([(codes[0] - 64) / 876, (codes[1] - 512) / 896, (codes[2] - 512) / 896], 'bt709');
    for (const zoom of [1, 1.3]) {
      const at = traceVectorscope(flat(rgb), size, zoom).findIndex((n) => n === 100);
      const place = { x: ((at % size) + 0.5) / size, y: (Math.floor(at / size) + 0.5) / size };
      const chroma = padChroma(place, zoom);
      const target = barTargets().find((t) => t.name === name)!;
      expect(Math.hypot(chroma.cb - target.cb, chroma.cr - target.cr)).toBeLessThan(1 / 255);
    }
  },
);

test('a place and its colour belong together; grey is the middle; red is up, blue to the right', () => {
  const { x, y } = padPoint({ cb: 0.1, cr: -0.2 }, 2);
  expect(padChroma({ x, y }, 2)).toEqual({ cb: expect.closeTo(0.1, 12), cr: expect.closeTo(-0.2, 12) });
  expect(padPoint({ cb: 0, cr: 0 }, 4)).toEqual({ x: 0.5, y: 0.5 });
  expect(padPoint({ cb: PAD_REACH, cr: PAD_REACH }, 1)).toEqual({ x: 1, y: 0 });
  expect(traceVectorscope(flat([0.3, 0.3, 0.3]), 101, 1)[50 * 101 + 50]).toBe(100);
});

test('hues are counted by how much colour they have', () => {
  const bins = hueHistogram(flat(ycbcrToRgb([0.5, -0.002, 0.2], 'bt709')));
  expect(bins[HUE_BINS / 4]).toBe(1);
  expect(bins.filter((b) => b > 0)).toHaveLength(1);
  expect(hueHistogram(flat([0.5, 0.5, 0.5])).every((b) => b === 0 || b === 1)).toBe(true);
});

test('levels and zones: each value in its bin, what lies beyond at the ends', () => {
  const bins = 122;
  const { luma, red } = levelHistograms(flat([0.305, 0.305, 0.305], 10), bins);
  expect(luma[Math.floor(((0.305 - TRACE_LOW) / (TRACE_HIGH - TRACE_LOW)) * bins)]).toBe(10);
  expect(red.reduce((a, b) => a + b)).toBe(10);
  expect(levelHistograms(flat([3, 3, 3], 4), bins).green[bins - 1]).toBe(4);
  expect([-0.2, 0, 0.04, 0.06, 0.5, 0.96, 1.3].map(zoneOf)).toEqual([0, 0, 0, 1, 5, 10, 10]);
  expect(zoneShares(flat([0.5, 0.5, 0.5]))[5]).toBe(1);
});

describe('readings of the pad and of the zones', () => {
  const at = (cb: number, cr: number, share = 1) => ({ cb, cr, share });
  test('a mark says how far from neutral it stands, and towards which bar', () => {
    for (const { name, cb, cr } of barTargets())
      expect(markReading('midtones', at(cb / 2, cr / 2)).text).toMatch(
        new RegExp(`^Midtones: [\\d.]+ % towards ${name}.$`),
      );
    expect(markReading('shadows', at(0.05, 0)).text).toBe('Shadows: 10.0 % towards blue.');
    expect(markReading('highlights', at(0.001, 0.001)).text).toBe('Highlights: neutral within 1 %.');
    expect(markReading('highlights', at(0, 0, 0)).text).toBe('Highlights: none of this frame lies there.');
  });
  test('hues: the strongest one, and skin against its line', () => {
    const hues = (turns: number[]) => {
      const bins = new Float32Array(HUE_BINS);
      turns.forEach((t) => (bins[Math.floor(t * HUE_BINS)] += 1 / turns.length));
      return bins;
    };
    // Blue is on the right of the scope, skin at 123°.
    expect(hueReading(hues([0.99, 0.98, 0.97])).text).toBe('100 % of the colour around blue.');
    expect(hueReading(hues([0.342, 0.342, 0.99])).text).toBe(
      '67 % of the colour around red. Skin hues lie on the skin line.',
    );
    expect(hueReading(hues([0.342 + 0.02])).text).toMatch(/Skin hues lie [678]° from the skin line towards yellow/);
    expect(hueReading(new Float32Array(HUE_BINS)).text).toBe('This frame has no colour.');
  });
  test('zones: the first and the last that are used, and the fullest', () => {
    expect(zoneReading([0, 0.2, 0.5, 0.3, 0.001, 0, 0, 0, 0, 0, 0]).text).toBe('Zones 1 to 3; most, 50 %, in zone 2.');
  });
});
