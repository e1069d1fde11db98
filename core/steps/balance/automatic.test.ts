import type { Vec3 } from '../../colour/matrix';
import { run } from '../testRun';
import { automaticBalances } from './automatic';
import { balance } from './index';

describe('automatic balance', () => {
  // One third greys and two thirds various greens, in warm light.
  const light: Vec3 = [1.3, 1, 0.6];
  const scene = (greens: boolean) => {
    const linear = Float64Array.from({ length: 3 * 3000 }, (_, k) => {
      const i = Math.floor(k / 3);
      const grey = 0.05 + (0.7 * ((i * 37) % 100)) / 100;
      const surface: Vec3 =
        greens && i % 3 ? [grey * 0.35, grey, grey * (0.1 + 0.2 * ((i % 7) / 7))] : [grey, grey, grey];
      return surface[k % 3] * light[k % 3];
    });
    return { linear, clipped: new Uint8Array(3000) };
  };
  const castOf = (params: Record<string, unknown>): number => {
    const out = run(balance, params, light.map((v) => v * 0.4) as Vec3);
    return Math.max(...out) / Math.min(...out) - 1;
  };
  test('a grey scene: every method finds the light', () => {
    const found = automaticBalances(scene(false));
    expect(found.map((f) => f.name)).toEqual(['vote', 'shades', 'patch', 'world']);
    found.forEach((f) => expect(castOf(f.params)).toBeLessThan(0.02));
  });
  test('a green scene misleads grey world; the vote of near neutrals holds', () => {
    const found = automaticBalances(scene(true));
    const cast = (name: string) => castOf(found.find((f) => f.name === name)!.params);
    expect(cast('vote')).toBeLessThan(0.03);
    expect(cast('world')).toBeGreaterThan(0.3);
  });
  test('clipped and dark pixels have no say; with nothing left there is no answer', () => {
    const bad = scene(false);
    for (let i = 0; i < 1000; i += 1) {
      bad.linear.set([2, 0.1, 0.1], 3 * i);
      bad.clipped[i] = 1;
    }
    automaticBalances(bad).forEach((f) => expect(castOf(f.params)).toBeLessThan(0.02));
    expect(automaticBalances({ linear: new Float64Array(300), clipped: new Uint8Array(100) })).toEqual([]);
  });
});
