import type { Vec3 } from '../colour/matrix';
import type { ClipDive } from '../model/diveLog';
import { lightLeft } from '../steps/water/waters';
import type { Correction } from './correction';
import { waterParams } from './waterParams';

const FRAMES = 12;
/**
 * Parameters for frames of the same object filmed close up, at this depth in one type of water, over a clip's duration.
 */
function goingDown(depthAt: (share: number) => number, seconds: number, dive: ClipDive | null = null) {
  const gains = Array.from({ length: FRAMES }, (_, i) => {
    const share = i / (FRAMES - 1);
    return { seconds: share * seconds, gain: lightLeft('C1', depthAt(share), 1.2).map((l) => -Math.log(l)) as Vec3 };
  });
  const mean = [0, 1, 2].map((c) => gains.reduce((s, f) => s + f.gain[c], 0) / FRAMES) as Vec3;
  const untouched = { black: 0, widen: 0, open: 0, air: null, saturation: 0 };
  const correction: Correction = { ...untouched, gain: mean, veil: [0.01, 0.06, 0.05] };
  return waterParams(correction, gains, dive, seconds);
}
type Keyed = { keys: { seconds: number; value: number }[] };

test('a descent is followed by its change of colour', () => {
  const { params, reason } = goingDown((share) => 4 + 8 * share, 20);
  const { keys } = params.depth as Keyed;
  expect(reason).toContain('by its change of colour');
  expect(keys[keys.length - 1].value).toBeGreaterThan(1.5 * keys[0].value);
  expect(keys[keys.length - 1].seconds).toBeCloseTo(20);
});

test('water that stays the same has one depth', () => {
  expect(typeof goingDown(() => 7, 20).params.depth).toBe('number');
});

test('with a dive log its depths hold, from the first to the last, and are told', () => {
  const samples = [0, 100].map((seconds) => ({ seconds, metres: seconds / 5 }));
  const dive = { log: { name: 'log', startedAt: null, samples }, offset: 20 };
  const { params, reason } = goingDown((share) => 4 + 4 * share, 20, dive);
  expect((params.depth as Keyed).keys.map((k) => k.value)).toEqual([4, 8]);
  expect(params.type).toBe('C1');
  expect(reason).toContain('4.0 to 8.0 m deep according to the dive log');
});

test('nobody sinks eight metres in four seconds: another thing has come into the frame', () => {
  expect(typeof goingDown((share) => 4 + 8 * share, 4).params.depth).toBe('number');
});
