import fc from 'fast-check';
import type { Vec3 } from '../colour/matrix';
import { luma709, rgbToYcbcr, ycbcrToRgb } from '../colour/ycbcr';
import { bands } from './bands';
import { bandWeights, orderedEdges } from './bands/weights';
import { channels } from './channels';
import { curveOf, curves } from './curves';
import { hueDistance, hues } from './hues';
import { expectNear, run } from './testRun';

describe('channels', () => {
  test('each channel’s ends and middle move alone', () => {
    expectNear(run(channels, { redBottom: -0.04, greenMiddle: 0.1, blueTop: 0.2 }, [0, 0.5, 1]), [-0.04, 0.6, 1.2]);
    expectNear(run(channels, { redTop: 0.1 }, [0.5, 0.3, 0.2]), [0.55, 0.3, 0.2]);
  });
});

describe('bands', () => {
  test('weights add up to 1, are never negative, and pass smoothly, wherever the edges lie', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.5, max: 2, noNaN: true }),
        fc.double({ min: 0.05, max: 0.7, noNaN: true }),
        fc.double({ min: 0.3, max: 0.95, noNaN: true }),
        (y, low, high) => {
          const w = bandWeights(y, orderedEdges(low, high));
          const near = bandWeights(y + 1e-5, orderedEdges(low, high));
          return Math.abs(w[0] + w[1] + w[2] - 1) < 1e-12 && w.every((v, i) => v >= 0 && Math.abs(v - near[i]) < 1e-3);
        },
      ),
    );
  });
  test('colour moves at constant luma, and only in its band', () => {
    const [dark, bright]: Vec3[] = [
      [0.02, 0.02, 0.02],
      [0.97, 0.97, 0.97],
    ];
    const params = { shadowsCb: 0.1, shadowsCr: -0.05 };
    const [y, cb, cr] = rgbToYcbcr(run(bands, params, dark), 'bt709');
    expectNear([y, cb, cr], [0.02, 0.1, -0.05], 2);
    expectNear(run(bands, params, bright), bright);
    expect(rgbToYcbcr(run(bands, { overallLevel: 0.1 }, [0.3, 0.5, 0.2]), 'bt709')[0]).toBeCloseTo(
      luma709(0.3, 0.5, 0.2) + 0.1,
      12,
    );
  });
});

describe('curves', () => {
  const points = [
    { x: 0, y: 0.02 },
    { x: 0.3, y: 0.22 },
    { x: 0.7, y: 0.8 },
    { x: 1, y: 0.98 },
  ];
  test('pass through their points and rise between them', () => {
    const curve = curveOf(points);
    points.forEach((p) => expect(curve(p.x)).toBeCloseTo(p.y, 12));
    for (let x = -0.2; x < 1.3; x += 0.003) expect(curve(x + 0.003)).toBeGreaterThan(curve(x));
  });
  test('all channels first, then each', () => {
    const [r, g] = run(
      curves,
      {
        all: points,
        red: [
          { x: 0, y: 0.1 },
          { x: 1, y: 1 },
        ],
      },
      [0.3, 0.3, 0.3],
    );
    expect([r, g]).toEqual([expect.closeTo(0.1 + 0.9 * 0.22, 9), expect.closeTo(0.22, 9)]);
  });
  test('points out of order or too close are refused', () => {
    expect(
      curves.schema.safeParse({
        all: [
          { x: 0.5, y: 0 },
          { x: 0.5, y: 1 },
        ],
      }).success,
    ).toBe(false);
    expect(curves.schema.safeParse({ all: [{ x: 0, y: 0 }] }).success).toBe(false);
  });
});

describe('hues', () => {
  const colourOf = (turns: number, chroma = 0.2, y = 0.5): Vec3 =>
    ycbcrToRgb([y, chroma * Math.cos(2 * Math.PI * turns), chroma * Math.sin(2 * Math.PI * turns)], 'bt709');
  const angle = (rgb: Vec3): number => {
    const [, cb, cr] = rgbToYcbcr(rgb, 'bt709');
    return (Math.atan2(cr, cb) / (2 * Math.PI) + 1) % 1;
  };
  const stem = { hue: 0.02, reach: 0.1, turn: 0.05, saturation: 1.5 };
  test('a stem turns and saturates its own hue at constant luma; beyond its reach nothing changes at all', () => {
    const out = run(hues, { stems: [stem] }, colourOf(0.02));
    expect(angle(out)).toBeCloseTo(0.07, 9);
    expect(rgbToYcbcr(out, 'bt709')[0]).toBeCloseTo(0.5, 12);
    for (const far of [0.13, 0.5, 0.91]) expect(run(hues, { stems: [stem] }, colourOf(far))).toEqual(colourOf(far));
  });
  test('the circle has no seam: just before and just after 0 turns are treated alike', () => {
    const seam = { ...stem, hue: 0 };
    const [a, b] = [run(hues, { stems: [seam] }, colourOf(1 - 1e-7)), run(hues, { stems: [seam] }, colourOf(1e-7))];
    expectNear(a, b, 5);
    expect(hueDistance(0.98, 0.03)).toBeCloseTo(0.05, 12);
  });
  test('a locked stem holds its hue against a wide one', () => {
    const locked = { hue: 0.02, reach: 0.05, locked: true };
    expectNear(run(hues, { stems: [{ ...stem, reach: 0.3 }, locked] }, colourOf(0.02)), colourOf(0.02));
  });
  test('turning all hues keeps luma and chroma; the three other curves do what they say', () => {
    expect(angle(run(hues, { turnAll: 0.25 }, colourOf(0.9)))).toBeCloseTo(0.15, 9);
    expectNear(run(hues, { saturationOverLightness: [1, 1, 0, 1, 1] }, colourOf(0.3)), [0.5, 0.5, 0.5]);
    expect(luma709(...run(hues, { lightnessOverSaturation: [0, 0, 0.1, 0, 0] }, colourOf(0.3, 0.25)))).toBeCloseTo(
      0.6,
      9,
    );
    expectNear(run(hues, { saturationOverSaturation: [1, 1, 0, 1, 1] }, colourOf(0.3, 0.25)), [0.5, 0.5, 0.5]);
  });
});
