import fc from 'fast-check';
import { makeMap } from '../../fields/map';
import { planeValues } from '../../program/planes';
import { LUMA } from '../../colour/ycbcr';
import type { Vec3 } from '../../colour/matrix';
import { corners } from './index';
import { falloff, falloffSlope, placeOf } from './falloff';

const share = fc.double({ min: 0, max: 1, noNaN: true });

test('the falloff rises from 0 in the centre to 1 in the corner, early or late, and its slope is its slope', () => {
  fc.assert(
    fc.property(share, fc.double({ min: -1, max: 2, noNaN: true }), (m, begins) => {
      const [low, high] = [Math.max(0, m - 1e-5), Math.min(1, m + 1e-5)];
      const slope = (falloff(high, begins) - falloff(low, begins)) / (high - low);
      return (
        falloff(0, begins) === 0 &&
        Math.abs(falloff(1, begins) - 1) < 1e-12 &&
        slope >= -1e-9 &&
        Math.abs(slope - falloffSlope(m, begins)) < 1e-4
      );
    }),
  );
});

test('a place is 1 in the furthest corner alone, wherever the centre lies; oval follows the frame', () => {
  const centre = fc.double({ min: -0.3, max: 0.3, noNaN: true });
  fc.assert(
    fc.property(centre, centre, share, share, share, (centreX, centreY, oval, u, v) => {
      const at = (x: number, y: number): number => placeOf({ centreX, centreY, oval }, x, y, 16 / 9);
      const corner = Math.max(at(0, 0), at(0, 1), at(1, 0), at(1, 1));
      return Math.abs(corner - 1) < 1e-12 && at(u, v) >= 0 && at(u, v) <= 1 && at(0.5 + centreX, 0.5 + centreY) < 1e-12;
    }),
  );
  const middle = { centreX: 0, centreY: 0 };
  expect(placeOf({ ...middle, oval: 1 }, 0, 0.5, 2)).toBeCloseTo(placeOf({ ...middle, oval: 1 }, 0.5, 0, 2), 12);
  expect(placeOf({ ...middle, oval: 0 }, 0, 0.5, 2)).toBeGreaterThan(placeOf({ ...middle, oval: 0 }, 0.5, 0, 2));
});

/** The map of a frame of a size, pixel by pixel: it depends on the position alone. */
function mapOf(params: Partial<ReturnType<typeof corners.schema.parse>>, width: number, height: number): Float32Array {
  const p = corners.schema.parse(params);
  const cell = 8;
  const [across, down] = [Math.ceil(width / cell), Math.ceil(height / cell)];
  const small = {
    width: across,
    height: down,
    cells: [width / cell, height / cell] as const,
    code: new Float32Array(across * down * 3),
    luma: new Float32Array(across * down),
  };
  const map = makeMap(corners.field!(p)!, small, { width: across, height: down, rgb: small.code });
  const code = Float32Array.from({ length: width * height * 3 }, (_, i) => (i % 97) / 97);
  return planeValues(map, code, width, height, LUMA.bt709);
}

/**
 * Lens falloff as specified by lens makers: the fourth power of the cosine of the angle of view (natural vignetting),
 * and the fourth power of the radius. The largest residual after the step over the whole frame, as a share of the
 * light.
 */
test.each([
  ['the fourth power of the radius, 45 %', (r2: number) => 1 - 0.45 * r2 * r2, { amount: 0.45, begins: 1 }, 0.01],
  ['the square of the radius, 30 %', (r2: number) => 1 - 0.3 * r2, { amount: 0.3, begins: 0 }, 0.01],
  [
    'cos⁴ of a lens of 70° across the corners',
    (r2: number) => (1 + r2 * Math.tan((35 * Math.PI) / 180) ** 2) ** -2,
    { amount: 0.55, begins: -0.5 },
    0.025,
  ],
] as const)('undoes %s', (_name, loss, params, most) => {
  const [width, height] = [640, 360];
  const map = mapOf(params, width, height);
  const run = corners.prepare(corners.schema.parse(params));
  let worst = 0;
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1) {
      const [dx, dy] = [x + 0.5 - width / 2, y + 0.5 - height / 2];
      const light = loss((dx * dx + dy * dy) / ((width * width + height * height) / 4));
      const rgb: Vec3 = [0.4 * light, 0.2 * light, 0.1 * light];
      run(rgb, map[y * width + x]);
      worst = Math.max(worst, Math.abs(rgb[0] / 0.4 - 1), Math.abs(rgb[2] / 0.1 - 1));
    }
  console.log(`${_name}: at most ${(100 * worst).toFixed(2)} % left`);
  expect(worst).toBeLessThan(most);
});

test('darkening for a look, and lightening by the same share of what is left, are each other’s opposite', () => {
  const dark = corners.prepare(corners.schema.parse({ amount: -0.5 }));
  const light = corners.prepare(corners.schema.parse({ amount: 0.5 }));
  fc.assert(
    fc.property(share, (m) => {
      const rgb: Vec3 = [0.3, 0.5, 0.7];
      dark(rgb, m);
      light(rgb, m);
      return [0.3, 0.5, 0.7].every((v, c) => Math.abs(rgb[c] - v) < 1e-12);
    }),
  );
});
