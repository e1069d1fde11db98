import { ACESCCT, bt709 } from '../colour/transfer';
import { ciede2000 } from '../colour/difference';
import { linearToSignal } from '../steps/convert/transfer';
import { fitCurve, lightOf, type FilmedPatch } from './fitProfile';
import { PROFILES, type TransferSpec } from './profile';

/** The six neutral patches of a usual colour chart (from memory). */
const RAMP = [0.9, 0.591, 0.362, 0.198, 0.09, 0.031];
const filmed = (transfer: TransferSpec, noise = 0, gain = 1): FilmedPatch[] =>
  RAMP.map((light, i) => ({
    light,
    code: Math.round((linearToSignal(transfer)(gain * light) + noise * Math.sin(7 * i + 1)) * 1023) / 1023,
  }));
const lab = (light: number): [number, number, number] => {
  const t = light > 216 / 24389 ? Math.cbrt(light) : (light * (24389 / 27) + 16) / 116;
  return [116 * t - 16, 0, 0];
};
/** Mean CIEDE2000 between the patches converted by the fitted curve and their true values, after one gain. */
const apart = (patches: FilmedPatch[]): number => {
  const seen = lightOf(patches, fitCurve(patches));
  return seen.reduce((s, v, i) => s + ciede2000(lab(v), lab(patches[i].light)), 0) / seen.length;
};

test.each([
  ['ACEScct (Academy S-2016-001)', { kind: 'logCamera', ...ACESCCT } as TransferSpec],
  ['a log curve', PROFILES[1].transfer],
  ['a flat profile', PROFILES[2].transfer],
  ['hybrid log-gamma (BT.2100)', { kind: 'hlg' } as TransferSpec],
  ['standard video (BT.709)', { kind: 'bt709' } as TransferSpec],
  ['a plain gamma', { kind: 'gamma', exponent: 2.2 } as TransferSpec],
])(
  '%s is fitted from six filmed patches: within 1 CIEDE2000, with noise and at another exposure too',
  (_name, transfer) => {
    expect(apart(filmed(transfer))).toBeLessThan(1);
    expect(apart(filmed(transfer, 0.002))).toBeLessThan(1);
    expect(apart(filmed(transfer, 0, 0.6))).toBeLessThan(1);
  },
);

test('the parameters of a log curve are found again; a plain gamma is known for one; the residual is that of the codes', () => {
  const { transfer, residual, most } = fitCurve(filmed(PROFILES[2].transfer));
  expect(transfer).toMatchObject({ kind: 'logCamera' });
  expect((transfer as { logSideSlope: number }).logSideSlope).toBeCloseTo(0.37, 2);
  expect((transfer as { linSideOffset: number }).linSideOffset).toBeCloseTo(0.03, 2);
  expect(residual).toBeLessThan(0.001);
  expect(most).toBeGreaterThanOrEqual(residual);
  expect(fitCurve(filmed({ kind: 'gamma', exponent: 2.4 })).transfer).toEqual({
    kind: 'gamma',
    exponent: expect.closeTo(2.4, 1),
  });
  const off = filmed({ kind: 'bt709' }).map((p, i) => ({ ...p, code: p.code + (i === 2 ? 0.05 : 0) }));
  expect(fitCurve(off).most).toBeGreaterThan(0.01);
  expect(bt709.encode(0.18)).toBeCloseTo(0.409, 3);
});

test.each([
  ['too few', [{ code: 0.4, light: 0.18 }], 'At least 3 patches are needed: there are 1.'],
  [
    'too much alike',
    [0.2, 0.25, 0.3].map((light) => ({ code: light, light })),
    'The patches are too much alike: take darker and lighter ones.',
  ],
  [
    'a patch that is darker than its neighbour',
    [0.03, 0.2, 0.9].map((light, i) => ({ code: [0.2, 0.5, 0.4][i], light })),
    'A patch of 90 % is filmed no brighter than one of 20 %.',
  ],
])('%s: refused with what is wrong', (_name, patches, message) => {
  expect(() => fitCurve(patches)).toThrow(new RangeError(message));
});
