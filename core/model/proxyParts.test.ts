import { madeStretches } from './proxyParts';

const part = (first: number, count = 100) => ({ first, count });

test('stretches that are made lie where they are in the clip; neighbours are one', () => {
  const parts = { made: [part(0), part(400), part(500)], making: null };
  expect(madeStretches(parts, 0.3, 1000)).toEqual([
    { from: 0, to: 0.1 },
    { from: 0.4, to: 0.6 },
  ]);
});

test('of the part that is being made there is as much as the progress says beyond whole ones', () => {
  const parts = { made: [part(400)], making: part(500) };
  // A twentieth of all frames beyond the complete part; the progress of pictures ends at 0.97.
  expect(madeStretches(parts, 0.97 * 0.15, 1000)).toEqual([{ from: 0.4, to: 0.55 }]);
  expect(madeStretches({ made: [], making: part(900) }, 0.97 * 0.05, 1000)).toEqual([{ from: 0.9, to: 0.95 }]);
  // Never more than the part, nor less than zero.
  expect(madeStretches(parts, 0.9, 1000)).toEqual([{ from: 0.4, to: 0.6 }]);
  expect(madeStretches(parts, 0, 1000)).toEqual([{ from: 0.4, to: 0.5 }]);
});
