import { converter, differenceCiede2000 } from 'culori';
import { ciede2000 } from './difference';
import { encodedToLab, linearToLab, xyzToLab } from './lab';
import type { Vec3 } from './matrix';
import { bt709 } from './transfer';

// Sharma, Wu, Dalal (2005), table 1: L*, a*, b* of both colours and the difference.
const PAIRS: number[][] = [
  [50, 2.6772, -79.7751, 50, 0, -82.7485, 2.0425],
  [50, 3.1571, -77.2803, 50, 0, -82.7485, 2.8615],
  [50, 2.8361, -74.02, 50, 0, -82.7485, 3.4412],
  [50, -1.3802, -84.2814, 50, 0, -82.7485, 1.0],
  [50, -1.1848, -84.8006, 50, 0, -82.7485, 1.0],
  [50, -0.9009, -85.5211, 50, 0, -82.7485, 1.0],
  [50, 0, 0, 50, -1, 2, 2.3669],
  [50, -1, 2, 50, 0, 0, 2.3669],
  [50, 2.49, -0.001, 50, -2.49, 0.0009, 7.1792],
  [50, 2.49, -0.001, 50, -2.49, 0.001, 7.1792],
  [50, 2.49, -0.001, 50, -2.49, 0.0011, 7.2195],
  [50, 2.49, -0.001, 50, -2.49, 0.0012, 7.2195],
  [50, -0.001, 2.49, 50, 0.0009, -2.49, 4.8045],
  [50, -0.001, 2.49, 50, 0.001, -2.49, 4.8045],
  [50, -0.001, 2.49, 50, 0.0011, -2.49, 4.7461],
  [50, 2.5, 0, 50, 0, -2.5, 4.3065],
  [50, 2.5, 0, 73, 25, -18, 27.1492],
  [50, 2.5, 0, 61, -5, 29, 22.8977],
  [50, 2.5, 0, 56, -27, -3, 31.903],
  [50, 2.5, 0, 58, 24, 15, 19.4535],
  [50, 2.5, 0, 50, 3.1736, 0.5854, 1.0],
  [50, 2.5, 0, 50, 3.2972, 0, 1.0],
  [50, 2.5, 0, 50, 1.8634, 0.5757, 1.0],
  [50, 2.5, 0, 50, 3.2592, 0.335, 1.0],
  [60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644],
  [63.0109, -31.0961, -5.8663, 62.8187, -29.7946, -4.0864, 1.263],
  [61.2901, 3.7196, -5.3901, 61.4292, 2.248, -4.962, 1.8731],
  [35.0831, -44.1164, 3.7933, 35.0232, -40.0716, 1.5901, 1.8645],
  [22.7233, 20.0904, -46.694, 23.0331, 14.973, -42.5619, 2.0373],
  [36.4612, 47.858, 18.3852, 36.2715, 50.5065, 21.2231, 1.4146],
  [90.8027, -2.0831, 1.441, 91.1528, -1.6435, 0.0447, 1.4441],
  [90.9257, -0.5406, -0.9208, 88.6381, -0.8985, -0.7239, 1.5381],
  [6.7747, -0.2908, -2.4247, 5.8714, -0.0985, -2.2286, 0.6377],
  [2.0776, 0.0795, -1.135, 0.9033, -0.0636, -0.5514, 0.9082],
];

test.each(PAIRS)('CIEDE2000 of the published pair %#', (l1, a1, b1, l2, a2, b2, expected) => {
  expect(ciede2000([l1, a1, b1], [l2, a2, b2])).toBeCloseTo(expected, 4);
  expect(ciede2000([l2, a2, b2], [l1, a1, b1])).toBeCloseTo(expected, 4);
});

test('CIEDE2000 equals culori over a grid', () => {
  const reference = differenceCiede2000();
  for (let i = 0; i < 400; i += 1) {
    const lab = (k: number): Vec3 => [(i * 37 * k) % 100, ((i * 53 * k) % 180) - 90, ((i * 71 * k) % 180) - 90];
    const [p, q] = [lab(1), lab(3)];
    // For exactly opposite hues the formula has two solutions.
    if (Math.abs(p[1] * q[2] - p[2] * q[1]) < 1e-9) continue;
    const of = ([l, a, b]: Vec3) => ({ mode: 'lab65', l, a, b }) as const;
    expect(ciede2000(p, q)).toBeCloseTo(reference(of(p), of(q)), 6);
  }
});

test('L*a*b* relative to D65 equals culori', () => {
  const toLab = converter('lab65');
  for (const rgb of [
    [0.2, 0.5, 0.9],
    [1, 1, 1],
    [0.01, 0.004, 0.002],
  ] as Vec3[]) {
    const { l, a, b } = toLab({ mode: 'lrgb', r: rgb[0], g: rgb[1], b: rgb[2] });
    const own = linearToLab(rgb);
    [l, a, b].forEach((v, i) => expect(Math.abs(own[i] - v)).toBeLessThan(0.05));
    encodedToLab(rgb.map(bt709.encode) as Vec3).forEach((v, i) => expect(v).toBeCloseTo(own[i], 9));
  }
  expect(xyzToLab([0, 0, 0])[0]).toBeCloseTo(0, 9);
});
