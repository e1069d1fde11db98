import { dragValue, nudge, scaleOf, tickPositions } from './rulerScale';

const spec = { min: -0.6, max: 0.6, step: 0.005, neutral: 0 };

test('the line is pulled: to the left is more, and the limits hold', () => {
  expect(dragValue(spec, 0, -9, 0, false)).toBeCloseTo(0.005, 9);
  expect(dragValue(spec, 0, 9, 0, false)).toBeCloseTo(-0.005, 9);
  expect(dragValue(spec, 0.59, -9000, 0, false)).toBe(0.6);
});

test('away from the row and with shift it is finer', () => {
  const near = dragValue(spec, 0, -90, 0, false);
  expect(dragValue(spec, 0, -90, 84, false)).toBeCloseTo(near / 2, 6);
  expect(dragValue(spec, 0, -90, 0, true)).toBeCloseTo(near / 10, 6);
});

test('nudges add up without crumbs', () => {
  let value = 0;
  for (let i = 0; i < 30; i += 1) value = nudge(spec, value, 1, false);
  expect(value).toBe(0.15);
  expect(nudge(spec, value, -1, true)).toBe(0.1495);
});

test('ticks stand around the value, the neutral one is strong, none beyond the limits', () => {
  const ticks = tickPositions(spec, 0.59, 300);
  expect(Math.max(...ticks.map((t) => t.x))).toBeLessThanOrEqual(150 + 0.01 * scaleOf(spec).pixelsPerUnit + 1e-6);
  expect(tickPositions(spec, 0, 300).find((t) => t.x === 150)).toEqual({ x: 150, strong: true });
});

test('a long range gets wider steps', () => {
  expect(scaleOf({ min: 1667, max: 25000, step: 50, neutral: 6504 }).tick).toBe(100);
});
