import {
  deliveredFrames,
  conform,
  deliveredRate,
  keepsFrames,
  retimedSeconds,
  retimeSchema,
  shownRate,
  usualRate,
} from './retime';

const at = (num: number, den = 1) => ({ facts: { frameRate: { num, den } } });
const { facts: fast } = at(120);

test('120 to 30 is a quarter, and every frame is shown once; the clip lasts four times as long', () => {
  const retime = conform(fast, { num: 30, den: 1 })!;
  expect(retime).toMatchObject({ factor: 0.25, rate: { num: 30, den: 1 }, between: 'nearest', sound: 'follows' });
  expect(keepsFrames(fast, retime)).toBe(true);
  expect(retimedSeconds(fast, 240, retime)).toBe(8);
  expect(retimedSeconds(fast, 240, null)).toBe(2);
});

test('rates of television keep their fractions', () => {
  const { facts } = at(60000, 1001);
  const retime = conform(facts, { num: 30000, den: 1001 })!;
  expect(retime.factor).toBe(0.5);
  expect(keepsFrames(facts, retime)).toBe(true);
  // A recurring factor yields the exact rate: 30 to 25 takes every frame once.
  const slower = conform(at(30).facts, { num: 25, den: 1 })!;
  expect(keepsFrames(at(30).facts, slower)).toBe(true);
  expect(shownRate(at(30).facts, slower)).toEqual({ num: 25, den: 1 });
  const { num, den } = shownRate(facts, retime);
  expect(num / den).toBeCloseTo(29.97003, 5);
});

test('a factor alone keeps the rate, so frames are left out or repeated', () => {
  const half = retimeSchema.parse({ factor: 0.5 });
  expect(deliveredRate(fast, half)).toEqual(fast.frameRate);
  expect(keepsFrames(fast, half)).toBe(false);
  expect(keepsFrames(fast, retimeSchema.parse({ factor: 1 }))).toBe(true);
  for (const factor of [0, 0.01, 9, Number.NaN]) expect(retimeSchema.safeParse({ factor }).success).toBe(false);
  // Outside the limits nothing is offered.
  expect(conform({ frameRate: { num: 1000, den: 1 } }, { num: 24, den: 1 })).toBeNull();
});

test('the usual rate of an outing is that of most clips, the lower one of two', () => {
  expect(usualRate([at(30), at(60), at(30)])).toEqual({ num: 30, den: 1 });
  expect(usualRate([at(60), at(25)])).toEqual({ num: 25, den: 1 });
  expect(usualRate([])).toBeUndefined();
});

test('how many frames a stretch becomes as it is delivered', () => {
  const facts = { frameRate: { num: 60, den: 1 } };
  expect(deliveredFrames(facts, 120, undefined)).toBe(120);
  const at = (factor: number, rate: number | null) =>
    deliveredFrames(facts, 120, {
      factor,
      rate: rate ? { num: rate, den: 1 } : null,
      between: 'nearest',
      sound: 'goes',
    });
  expect([at(1, 30), at(0.5, 30), at(0.5, null), at(2, null)]).toEqual([60, 120, 240, 60]);
});
