import { stemSchema } from '@inkavo/core/steps/hues';
import { bands } from '@inkavo/core/steps/bands';
import type { ScopeResult } from '../engine/worker/scopes';
import { channelOffsets, withChannel } from './channelOffsets';
import { moveStem, newStem, partUnder, stemPoints } from './hueStems';
import { edgeParts, handleTops, heightOf, lanesOf, levelOfPixels, nearest, overallPart } from './waveformParts';

const spread = (low: number, mid: number, high: number) => ({ low, mid, high });
const scope = {
  statistics: {
    luma: spread(0.02, 0.4, 0.9),
    red: spread(0.05, 0.45, 0.95),
    green: spread(0, 0.4, 0.9),
    blue: spread(0.01, 0.3, 0.8),
  },
  heights: [],
} as unknown as ScopeResult;

describe('parts of the waveform', () => {
  test('luma: three marks from the top; the channels: three in each third', () => {
    const [lane] = lanesOf(scope, 'luma', false);
    expect(lane.parts.map((p) => [p.id, p.mark, p.level])).toEqual([
      ['top', 'highlights', 0.9],
      ['middle', 'midtones', 0.4],
      ['bottom', 'shadows', 0.02],
    ]);
    const lanes = lanesOf(scope, 'parade', false);
    expect(lanes.map((l) => l.left)).toEqual([0, 1 / 3, 2 / 3]);
    expect(lanes[2].parts.map((p) => p.id)).toEqual(['blueTop', 'blueMiddle', 'blueBottom']);
    expect(overallPart(scope)).toMatchObject({ id: 'all', level: 0.4 });
  });

  test('five levels take the place of the marks once their heights are known; two heights are band edges', () => {
    expect(lanesOf(scope, 'luma', true)[0].parts).toHaveLength(3);
    const five = { ...scope, heights: [0, 0.2, 0.5, 0.8, 1] };
    expect(lanesOf(five, 'luma', true)[0].parts.map((p) => [p.id, p.level])).toEqual([
      ['level4', 1],
      ['level3', 0.8],
      ['level2', 0.5],
      ['level1', 0.2],
      ['level0', 0],
    ]);
    expect(edgeParts(five)).toEqual([]);
    expect(edgeParts({ ...scope, heights: [0.3, 0.7] }).map((p) => p.id)).toEqual(['highEdge', 'lowEdge']);
  });

  test('heights and pixels are the same measure', () => {
    expect(heightOf(0.5, 122) - heightOf(0.6, 122)).toBeCloseTo(10, 9);
    expect(levelOfPixels(10, 122)).toBeCloseTo(0.1, 9);
  });

  test('handles stay in the scope and apart, however close the levels and however low the scope', () => {
    for (const height of [96, 183, 400]) {
      for (const levels of [
        [0.5, 0.5, 0.5],
        [1.1, 1.05, -0.1],
        [0.9, 0.1, 0.05, 0.02, 0],
      ]) {
        const tops = handleTops(levels, height, 30);
        tops.forEach((t) => expect(t).toBeGreaterThanOrEqual(0));
        expect(Math.max(...tops)).toBeLessThanOrEqual(height - 30);
        // In a low scope many handles overlap, but never cover each other completely.
        for (let i = 1; i < tops.length; i += 1)
          expect(tops[i] - tops[i - 1]).toBeGreaterThanOrEqual(
            Math.min(18, (height - 30) / (levels.length - 1)) - 1e-6,
          );
      }
    }
    expect([nearest([1, 5, 9], 6), nearest([], 1)]).toEqual([1, -1]);
  });
});

describe('stems', () => {
  const box = { width: 400, height: 100 };
  const stem = stemSchema.parse({ hue: 0.5, reach: 0.1, turn: 0.05, saturation: 1.5, lightness: -0.1 });

  test('each part is found where it is drawn, and moves its own number there and back', () => {
    const p = stemPoints(stem, box);
    const places = {
      head: [p.x, p.head],
      collar: [p.x, p.collar],
      foot: [p.foot, 92],
      skirt: [p.skirt[1], 74],
    } as const;
    const keys = { head: 'saturation', collar: 'lightness', foot: 'turn', skirt: 'reach' } as const;
    for (const part of ['head', 'collar', 'foot', 'skirt'] as const) {
      expect(partUnder(stem, places[part][0], places[part][1], box)?.part).toBe(part);
      const moved = moveStem(stem, part, 8, -8, box);
      expect(moved[keys[part]]).not.toBe(stem[keys[part]]);
      expect(moveStem(moved, part, -8, 8, box)[keys[part]]).toBeCloseTo(stem[keys[part]], 9);
    }
    expect(partUnder(stem, p.x + 120, 40, box)).toBeNull();
  });

  test('the band is a circle: a part over one end is grabbed at the other, and a hue goes on from 1 to 0', () => {
    const end = { ...stem, hue: 0.98, turn: 0.05 };
    expect(partUnder(end, 0.03 * box.width, 92, box)?.part).toBe('foot');
    expect(moveStem(end, 'stem', 0.05 * box.width, 0, box).hue).toBeCloseTo(0.03, 9);
    expect(newStem(1.25).hue).toBeCloseTo(0.25, 9);
  });

  test('numbers are clamped to what the step takes', () => {
    for (const part of ['head', 'collar', 'foot', 'skirt'] as const)
      for (const by of [-5000, 5000]) expect(() => stemSchema.parse(moveStem(stem, part, by, by, box))).not.toThrow();
  });
});

test('red, green and blue of a mark are what the bands step adds', () => {
  const colour = { cb: 0.03, cr: -0.02 };
  const rgb: [number, number, number] = [0.5, 0.5, 0.5];
  bands.prepare(bands.schema.parse({ overallCb: colour.cb, overallCr: colour.cr }))(rgb);
  const { red, green, blue } = channelOffsets(colour);
  [red, green, blue].forEach((v, i) => expect(v).toBeCloseTo(rgb[i] - 0.5, 9));
  for (const channel of ['red', 'green', 'blue'] as const)
    expect(channelOffsets(withChannel(colour, channel, 0.04))[channel]).toBeCloseTo(0.04, 9);
});
