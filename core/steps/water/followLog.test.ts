import type { Vec3 } from '../../colour/matrix';
import type { ClipDive } from '../../model/diveLog';
import { resolveParams } from '../../regions/keyframes';
import { newStep } from '../../model/grade';
import { atDepthsOf, followLog, followsLog } from './followLog';
import { water, type WaterParams } from './index';

const SECONDS = 8;
const diveTo = (from: number, to: number): ClipDive => ({
  log: {
    name: 'made',
    startedAt: null,
    samples: [
      { seconds: 0, metres: from },
      { seconds: 100, metres: from },
      { seconds: 100 + SECONDS, metres: to },
    ],
  },
  offset: 100,
});
/** As after a first pass: a depth estimated from the colours, and measured losses. */
const FOUND: Partial<WaterParams> = {
  ...{ type: 'C3', depth: 2, distance: 1.8, distanceFrom: 'value', fitRed: 1.7, fitBlue: 0.7 },
  ...{ veilRed: 0.25, veilGreen: 0.4, veilBlue: 0.35 },
};
const through = (params: Record<string, unknown>, seconds: number, light: Vec3): Vec3 => {
  const rgb: Vec3 = [...light];
  water.prepare(water.schema.parse(resolveParams(params, seconds)))(rgb, 0);
  return rgb;
};
const LIGHTS: Vec3[] = [
  [0.12, 0.3, 0.2],
  [0.2, 0.4, 0.35],
  [0.09, 0.16, 0.12],
];

test('a step whose losses were measured looks as before when its depth comes from a log', () => {
  const next = followLog(FOUND, diveTo(6, 6), SECONDS);
  expect(resolveParams(next, 4).depth).toBeCloseTo(6, 6);
  for (const light of LIGHTS) {
    const [was, is] = [through(FOUND, 4, light), through(next, 4, light)];
    for (const c of [0, 2]) expect(is[c] / is[1]).toBeCloseTo(was[c] / was[1], 2);
    expect(is[1] / was[1]).toBeGreaterThan(0.8);
    expect(is[1] / was[1]).toBeLessThan(1.25);
  }
  // With the losses of the old depth it would be far off.
  const stale = through({ ...FOUND, depth: 6 }, 4, LIGHTS[0]);
  expect(stale[0] / stale[1]).toBeGreaterThan(
    (1.5 * through(FOUND, 4, LIGHTS[0])[0]) / through(FOUND, 4, LIGHTS[0])[1],
  );
});

test('down a descent it gives back as much on average, more in the deep', () => {
  const next = followLog(FOUND, diveTo(4, 12), SECONDS);
  const red = (seconds: number): number => {
    const [r, g] = through(next, seconds, LIGHTS[1]);
    return r / g;
  };
  const [r, g] = through(FOUND, 4, LIGHTS[1]);
  expect(red(0)).toBeLessThan(red(4));
  expect(red(4)).toBeLessThan(red(8));
  expect(red(4) / (r / g)).toBeGreaterThan(0.8);
  expect(red(4) / (r / g)).toBeLessThan(1.25);
  // At another position of the log its values change, and the look is kept again.
  const again = followLog(next, diveTo(9, 9), SECONDS);
  const [r2, g2] = through(again, 4, LIGHTS[1]);
  expect(r2 / g2 / red(4)).toBeGreaterThan(0.8);
  expect(r2 / g2 / red(4)).toBeLessThan(1.25);
});

test('losses of the type of water stay the model’s; losses with keyframes stay as they are', () => {
  const model = { type: 'II', depth: 0, distance: 1 };
  expect(followLog(model, diveTo(3, 5), SECONDS)).toMatchObject({ ...model, depth: { keys: expect.any(Array) } });
  const keyed = { ...FOUND, fitRed: { keys: [{ seconds: 0, value: 1.5, ease: 'linear' }] } };
  const next = followLog(keyed, diveTo(3, 5), SECONDS);
  expect(next.fitRed).toEqual(keyed.fitRed);
  expect(next.fitBlue).toBe(FOUND.fitBlue);
});

test('a step that follows a log takes the depths of another clip’s log, in the same water', () => {
  const [here, there] = [diveTo(4, 12), diveTo(7, 6)];
  const following = { ...newStep('water', 'w'), params: followLog(FOUND, here, SECONDS) };
  const byHand = {
    ...newStep('water', 'h'),
    params: { ...FOUND, depth: { keys: [{ seconds: 0, value: 3, ease: 'linear' }] } },
  };
  expect(followsLog(following, here)).toBe(true);
  expect(followsLog(following, there)).toBe(false);
  expect(followsLog(byHand, here)).toBe(false);
  expect(followsLog(following, null)).toBe(false);
  // A first pass ends the keys with the last picture that it reads.
  const shorter = { ...following, params: followLog(FOUND, here, 0.95 * SECONDS) };
  expect(followsLog(shorter, here)).toBe(true);
  const [moved, kept] = atDepthsOf([following, byHand], ['w'], there, SECONDS);
  expect(resolveParams(moved.params, 0).depth).toBeCloseTo(7, 9);
  expect(resolveParams(moved.params, SECONDS).depth).toBeCloseTo(6, 9);
  expect(moved.params).toMatchObject({ fitRed: following.params.fitRed, veilGreen: following.params.veilGreen });
  expect(kept).toBe(byHand);
  // In a clip without a log the depth does not change at the times of this one.
  const [still, same] = atDepthsOf([following, byHand], ['w'], null, SECONDS);
  expect(still.params).toEqual({ ...following.params, depth: 8 });
  expect(same).toBe(byHand);
});
