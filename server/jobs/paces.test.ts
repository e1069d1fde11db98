import type { Job } from '@inkavo/core/model/job';
import { Paces } from './paces';

const job = (kind: Job['kind'], part: Partial<Job>): Job => ({ kind, bytes: null, pixels: null, ...part }) as Job;

test('the time of what waits goes by what ended lately, until then by what runs; each kind has its own', () => {
  const paces = new Paces();
  const proxy = job('proxy', { pixels: 4e9 });
  expect(paces.secondsFor(proxy)).toBeNull();
  paces.runs(job('proxy', { pixels: 8e9 }), 0.25, 20);
  expect(paces.secondsFor(proxy)).toBeCloseTo(40, 9);
  expect(paces.secondsFor(job('import', { bytes: 1e6 }))).toBeNull();
  // Half of it had been made before.
  paces.ended(job('proxy', { pixels: 8e9 }), 0.5, 80);
  expect(paces.secondsFor(proxy)).toBeCloseTo(80, 9);
  // It adapts quickly when the machine becomes slower.
  for (let k = 0; k < 8; k += 1) paces.ended(proxy, 1, 200);
  expect(paces.secondsFor(proxy)).toBeGreaterThan(190);
  expect(paces.secondsFor(proxy)).toBeLessThan(200);
});

test('what has no size, or had nothing to do, tells nothing and is told nothing', () => {
  const paces = new Paces();
  paces.ended(job('export', {}), 1, 3);
  paces.ended(job('export', { pixels: 1e9 }), 0, 3);
  expect(paces.secondsFor(job('export', { pixels: 1e9 }))).toBeNull();
  paces.ended(job('export', { pixels: 1e9 }), 1, 3);
  expect(paces.secondsFor(job('export', {}))).toBeNull();
});
