import { windSpeed } from './wind';

test('winding: slow near by, sixteen times at the end, backwards to the left, never beyond', () => {
  expect(windSpeed(0)).toBe(0);
  expect(windSpeed(8)).toBeLessThan(0.2);
  expect(windSpeed(150)).toBeCloseTo(16);
  expect(windSpeed(900)).toBeCloseTo(16);
  expect(windSpeed(-75)).toBeCloseTo(-windSpeed(75));
  for (let dx = 1; dx < 200; dx += 1) expect(windSpeed(dx + 1)).toBeGreaterThanOrEqual(windSpeed(dx));
});
