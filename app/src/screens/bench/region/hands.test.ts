import fc from 'fast-check';
import { poseSchema, SHAPE_KINDS, type Pose } from '@inkavo/core/regions/shape';
import { fromPixels, handsOf, holds, moved, nearestHand, outlinePath, toPixels, withPoint, type Place } from './hands';

const points = [
  { x: -0.5, y: -0.5 },
  { x: 0.5, y: -0.4 },
  { x: 0.3, y: 0.5 },
];
const pose = (part: Partial<Pose> = {}): Pose => poseSchema.parse({ x: 0.5, y: 0.28, points, ...part });
const place = (part: Partial<Place['view']> = {}): Place => ({
  view: { x: 0, y: 0, width: 1, height: 1, ...part },
  width: 390,
  height: 219,
  aspect: 16 / 9,
});

test('hands keep 44 px apart at any zoom, however small the shape is', () => {
  for (const kind of ['ellipse', 'rectangle', 'gradient'] as const)
    for (const size of [0.01, 0.1, 0.5])
      for (const zoom of [1, 0.5, 0.125]) {
        const shape = pose({ width: size, height: size, feather: size / 4 });
        const hands = handsOf(kind, shape, {
          ...place({ x: 0.5 - zoom / 2, y: 0.5 - zoom / 2, width: zoom, height: zoom }),
        });
        hands.forEach((a, i) =>
          hands.slice(i + 1).forEach((b) => expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThanOrEqual(44)),
        );
      }
});

test('pixels and places are each other’s opposite, magnified too', () => {
  const zoomed = place({ x: 0.3, y: 0.2, width: 0.25, height: 0.25 });
  const [x, y] = fromPixels(zoomed, ...toPixels(zoomed, 0.41, 0.2));
  expect([x, y]).toEqual([expect.closeTo(0.41, 12), expect.closeTo(0.2, 12)]);
  expect(toPixels(zoomed, 0.55, 0.2)[0]).toBeCloseTo(390, 9);
});

test('a hand that is moved and moved back leaves the shape as it was', () => {
  const step = fc.double({ min: -0.05, max: 0.05, noNaN: true });
  fc.assert(
    fc.property(step, step, fc.constantFrom(...SHAPE_KINDS), (dx, dy, kind) => {
      const from = pose({ turn: 30, width: 0.5, height: 0.4, feather: 0.3 });
      return handsOf(kind, from, place()).every(({ name }) => {
        // Rotation is about the centre, and size is a factor: neither is a plain sum.
        if (name === 'turn' || name === 'size') return true;
        const back = moved(kind, moved(kind, from, name, dx, dy), name, -dx, -dy);
        const numbers = (p: Pose): number[] => [
          p.x,
          p.y,
          p.width,
          p.height,
          p.turn,
          p.feather,
          ...(p.points ?? []).flatMap((q) => [q.x, q.y]),
        ];
        return numbers(back).every((v, i) => Math.abs(v - numbers(from)[i]) < 1e-9);
      });
    }),
  );
});

test('the width follows a finger along the shape’s own axis; turning goes about its middle', () => {
  const turned = pose({ turn: 90 });
  expect(moved('ellipse', turned, 'width', 0, 0.05).width).toBeCloseTo(turned.width + 0.1, 12);
  expect(moved('ellipse', turned, 'width', 0.05, 0).width).toBeCloseTo(turned.width, 12);
  expect(moved('ellipse', pose({ height: 0.3 }), 'turn', 0.15, 0.15).turn).toBeCloseTo(90, 9);
  expect(moved('gradient', pose({ turn: 0, feather: 0.2 }), 'turn', -0.1, 0.1)).toMatchObject({
    turn: expect.closeTo(90, 9),
    feather: expect.closeTo(0.2, 9),
  });
});

test('the nearest hand, what lies inside, and a point put into an outline', () => {
  const hands = handsOf('ellipse', pose({ width: 0.6, height: 0.4 }), place());
  expect(nearestHand(hands, 389, 110).name).toBe('width');
  expect(nearestHand(hands, 195, 215).name).toBe('height');
  expect(nearestHand(hands, 195, 120).name).toBe('body');
  expect([holds('ellipse', pose(), 0.5, 0.28), holds('ellipse', pose(), 0.62, 0.4)]).toEqual([true, false]);
  expect(holds('path', pose({ width: 0.4, height: 0.4 }), 0.5, 0.22)).toBe(true);
  const more = withPoint(pose(), 0.5, 0.28 - 0.45 * 0.3);
  expect(more.points).toHaveLength(4);
  expect(more.points![1].x).toBeCloseTo(0, 9);
  for (const kind of SHAPE_KINDS) expect(outlinePath(kind, pose(), place())).toMatch(/^M[-\d.]+,[-\d.]+L/);
});
