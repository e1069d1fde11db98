import { fractal, smoothstep } from '../noise';
import type { Random } from './random';

const SHAPES = ['one', 'plane', 'step', 'blobs', 'gradient', 'near thing'] as const;

/** Distances over a picture, relative to the nearest: x and y are shares 0–1. */
export interface Distances {
  name: (typeof SHAPES)[number];
  at(x: number, y: number): number;
}

/** Draws an arrangement of distances up to the given factor. */
export function drawDistances(rng: Random, farthest: number): Distances {
  const name = rng.of(SHAPES);
  const seed = rng.seed() % 4096;
  const [a, b] = [rng.between(0.25, 0.75), rng.between(0.1, 0.25)];
  const far = 1 / farthest;
  const plane = (y: number): number => 1 / (far + (1 - far) * Math.min(1, Math.max(0, (y - 0.08) / 0.87)));
  const at: Record<(typeof SHAPES)[number], Distances['at']> = {
    one: () => 1,
    plane: (_x, y) => plane(y),
    step: (x, y) => (y + 0.25 * (fractal(3 * x, 3 * y, 3, seed) - 0.5) > a ? 1 : farthest),
    blobs: (x, y) => 1 + (farthest - 1) * smoothstep(0.3, 0.7, fractal(2.5 * x, 2.5 * y, 2, seed)),
    gradient: (x) => 1 + (farthest - 1) * (a > 0.5 ? x : 1 - x),
    'near thing': (x, y) => {
      const inside =
        ((x - a) / (b * 1.4)) ** 2 + ((y - 0.6) / (b * 1.8)) ** 2 < 0.8 + 0.5 * fractal(6 * x, 6 * y, 2, seed);
      return inside ? 1 : Math.max(1.3, plane(y));
    },
  };
  return { name, at: at[name] };
}
