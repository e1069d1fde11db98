import { join } from 'node:path';
import { ownProcess } from './ownProcess';
import type { PanFound } from './pans';

/**
 * Vignetting is estimated from moving pictures: over photographs of the held-out part, with random lenses. In a process
 * of its own: a test's sandbox makes such computations many times slower.
 */
test('corners that a lens darkened are found over photographs, and even pictures stay as they are', async () => {
  const [dark, even] = [8, 4];
  const args = ['aside', '900', `${dark}`, `${even}`];
  const all = JSON.parse(await ownProcess(join(__dirname, 'pans.ts'), args)) as PanFound[];
  const left = all.slice(0, dark).flatMap((p) => (p.left === null ? [] : [p.left]));
  left.sort((a, b) => a - b);
  const percent = (v: number): string => (100 * v).toFixed(1);
  console.log(`corners over photographs: of ${dark} left at most ${left.map(percent).join(', ')} %`);
  expect(left.length).toBeGreaterThanOrEqual(0.75 * dark);
  expect(left[Math.floor(0.75 * left.length)]).toBeLessThan(0.02);
  const changed = all.slice(dark).map(({ found }) => (found.found ? found.amount : 0));
  console.log(`even pictures over photographs: changed by ${changed.map(percent).join(', ')} %`);
  // The photographs' own lenses left some vignetting: it may be found in one of them.
  expect(changed.filter((v) => v > 0.003).length).toBeLessThanOrEqual(1);
});
