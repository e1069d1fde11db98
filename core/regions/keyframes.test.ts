import fc from 'fast-check';
import { keyAt, keyframedSchema, valueAt, withKey, withMovedKey, withoutKey, type Keyframed } from './keyframes';

const number: Keyframed = {
  keys: [
    { seconds: 1, value: 10, ease: 'linear' },
    { seconds: 3, value: 30, ease: 'smooth' },
    { seconds: 5, value: 10, ease: 'hold' },
    { seconds: 6, value: 0, ease: 'linear' },
  ],
};

test('held before the first and after the last key; even, smooth and held between', () => {
  expect([0, 1, 2, 3, 4, 5.9, 6, 9].map((t) => valueAt(number, t))).toEqual([10, 10, 20, 30, 20, 10, 0, 0]);
  expect(valueAt(number, 3.5)).toBeCloseTo(30 - 20 * (0.25 ** 2 * (3 - 0.5)), 10);
});

test('a key is set, changed where one is, and the last one that goes leaves its value', () => {
  const added = withKey(number, 2, 77);
  expect(valueAt(added, 2)).toBe(77);
  expect(keyframedSchema.parse(added).keys).toHaveLength(5);
  expect(withKey(added, 2.001, 5).keys).toHaveLength(5);
  const [only] = number.keys;
  expect(withoutKey({ keys: [only] }, only)).toBe(10);
  expect((withoutKey(number, number.keys[1]) as Keyframed).keys).toHaveLength(3);
  expect(keyAt(number, 3.002)).toBe(number.keys[1]);
});

test('wherever a key is dragged, times go on rising', () => {
  fc.assert(
    fc.property(fc.nat(3), fc.double({ min: -10, max: 20, noNaN: true }), (index, seconds) => {
      const moved = withMovedKey(number, index, { seconds, value: 1 });
      return keyframedSchema.safeParse(moved).success && moved.keys[index].value === 1;
    }),
  );
});
