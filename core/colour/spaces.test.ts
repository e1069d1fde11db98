import { converter } from 'culori';
import { adaptXyz, toWorking } from './adaptation';
import { invert, multiply, transform, type Mat3, type Vec3 } from './matrix';
import { PRIMARIES, rgbToXyz, WHITES, WORKING_TO_XYZ, XYZ_TO_WORKING, xyToXyz, xyzToXy } from './primaries';
import { kelvinToXy, xyToKelvin } from './temperature';
import { codeScale, rgbToYcbcr, ycbcrToRgb } from './ycbcr';

const expectMatrix = (m: Mat3, expected: number[], digits: number): void =>
  expected.forEach((v, i) => expect(m[i]).toBeCloseTo(v, digits));

test('linear BT.709 to XYZ equals culori', () => {
  const toXyz = converter('xyz65');
  for (const rgb of [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
    [0.2, 0.5, 0.9],
  ] as Vec3[]) {
    const { x, y, z } = toXyz({ mode: 'lrgb', r: rgb[0], g: rgb[1], b: rgb[2] });
    const own = transform(WORKING_TO_XYZ, rgb);
    [x, y, z].forEach((v, i) => expect(own[i]).toBeCloseTo(v, 3));
  }
});

test('BT.2087-0: BT.2020 to BT.709', () => {
  expectMatrix(
    toWorking(PRIMARIES.bt2020),
    [1.6605, -0.5876, -0.0728, -0.1246, 1.1329, -0.0083, -0.0182, -0.1006, 1.1187],
    3,
  );
});

test('Academy S-2014-004: AP1 to XYZ', () => {
  expectMatrix(
    rgbToXyz(PRIMARIES.ap1),
    [0.66245418, 0.13400421, 0.15618769, 0.27222872, 0.67408177, 0.05368952, -0.00557465, 0.00406073, 1.0103391],
    6,
  );
});

test('ICC.1 Annex E: Bradford from D65 to D50', () => {
  expectMatrix(
    adaptXyz(WHITES.D65, WHITES.D50),
    [1.0479, 0.0229, -0.0501, 0.0296, 0.9904, -0.0171, -0.0092, 0.0151, 0.7521],
    3,
  );
});

test('adaptation takes one white exactly to the other, and back', () => {
  for (const name of ['bradford', 'cat16'] as const) {
    const m = adaptXyz(WHITES.A, WHITES.D65, name);
    const d65 = xyToXyz(WHITES.D65);
    transform(m, xyToXyz(WHITES.A)).forEach((v, i) => expect(v).toBeCloseTo(d65[i], 12));
    multiply(m, adaptXyz(WHITES.D65, WHITES.A, name)).forEach((v, i) => expect(v).toBeCloseTo(i % 4 === 0 ? 1 : 0, 12));
  }
  const far = { x: 0.7, y: 0.05 };
  expect(() => adaptXyz(far, WHITES.D65)).toThrow('too far from daylight');
  // Beyond the limit it continues without a discontinuity.
  const kelvins = Array.from({ length: 600 }, (_, k) => kelvinToXy({ kelvin: 1667 + k, duv: 0.0081 }));
  const matrices = kelvins.map((white) => adaptXyz(white, WHITES.D65, 'bradford', 'clamp'));
  for (const m of [...matrices, adaptXyz(far, WHITES.D65, 'cat16', 'clamp')])
    m.forEach((v) => expect(Math.abs(v)).toBeLessThan(75));
  matrices.slice(1).forEach((m, k) => m.forEach((v, i) => expect(Math.abs(v - matrices[k][i])).toBeLessThan(1)));
});

test('a matrix and its inverse; a singular one is refused', () => {
  multiply(WORKING_TO_XYZ, XYZ_TO_WORKING).forEach((v, i) => expect(v).toBeCloseTo(i % 4 === 0 ? 1 : 0, 12));
  expect(() => invert([1, 2, 3, 2, 4, 6, 0, 0, 1])).toThrow(RangeError);
});

test('CIE 15: correlated colour temperatures of illuminants', () => {
  expect(xyToKelvin(WHITES.A).kelvin).toBeCloseTo(2856, -1);
  expect(Math.abs(xyToKelvin(WHITES.A).duv)).toBeLessThan(3e-4);
  expect(xyToKelvin(WHITES.D65).kelvin).toBeCloseTo(6504, -1);
  expect(xyToKelvin(WHITES.D65).duv).toBeCloseTo(0.0032, 3);
  expect(xyToKelvin(WHITES.D50).kelvin).toBeCloseTo(5003, -1);
});

test('kelvin and Duv to chromaticity and back', () => {
  for (const kelvin of [2000, 3200, 5500, 6504, 9600, 18000]) {
    for (const duv of [-0.02, 0, 0.0085, 0.03]) {
      const back = xyToKelvin(kelvinToXy({ kelvin, duv }));
      expect(Math.abs(back.kelvin / kelvin - 1)).toBeLessThan(2e-3);
      expect(back.duv).toBeCloseTo(duv, 4);
    }
  }
  expect(() => kelvinToXy({ kelvin: 900, duv: 0 })).toThrow(RangeError);
  expect(xyzToXy([0, 0, 0])).toBeUndefined();
});

// SMPTE RP 219: 75 % colour bars, 10-bit limited range (from memory).
const BARS: [string, Vec3, Vec3][] = [
  ['white', [0.75, 0.75, 0.75], [721, 512, 512]],
  ['yellow', [0.75, 0.75, 0], [674, 176, 543]],
  ['cyan', [0, 0.75, 0.75], [581, 589, 176]],
  ['green', [0, 0.75, 0], [534, 253, 207]],
  ['magenta', [0.75, 0, 0.75], [251, 771, 817]],
  ['red', [0.75, 0, 0], [204, 435, 848]],
  ['blue', [0, 0, 0.75], [111, 848, 481]],
];
test.each(BARS)('SMPTE RP 219: code values of the %s bar', (_name, rgb, code) => {
  const s = codeScale(10, 'limited');
  const [y, cb, cr] = rgbToYcbcr(rgb, 'bt709');
  const own = [y * s.yScale + s.yOffset, cb * s.cScale + s.cOffset, cr * s.cScale + s.cOffset];
  own.forEach((v, i) => expect(Math.abs(v - code[i])).toBeLessThanOrEqual(1));
});

test.each(['bt709', 'bt2020', 'bt601'] as const)('Y′CbCr of %s and back', (name) => {
  const rgb: Vec3 = [0.1, 1.2, -0.05];
  ycbcrToRgb(rgbToYcbcr(rgb, name), name).forEach((v, i) => expect(v).toBeCloseTo(rgb[i], 12));
});
