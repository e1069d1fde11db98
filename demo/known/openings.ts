import type { Vec3 } from '@inkavo/core/colour/matrix';
import { fractal, hash, smoothstep } from '../noise';
import type { Random } from './random';

/** Usual composition: the ground below and open water above (common practice). */
const SHAPES = ['ridge', 'ridge', 'wall', 'things', 'window', 'few things'] as const;
/** Number of positions across the picture for drifting particles. */
const SPECKS = 192;

/** Where a picture under water shows open water with nothing in front: x and y are shares 0–1. */
export interface Opening {
  name: (typeof SHAPES)[number];
  /** Share of open water in the light, 0–1: objects fade into it. */
  share(x: number, y: number): number;
  /** Open water's light there, relative to the veil's at the camera's level. */
  light(x: number, y: number): Vec3;
}

/** A signed distance, relative to the picture's width: positive in open water. */
function drawEdge(rng: Random, name: Opening['name']): (x: number, y: number) => number {
  const seed = rng.seed() % 4096;
  const [base, rough, fine] = [rng.between(0.12, 0.75), rng.between(0.02, 0.35), rng.between(0, 0.05)];
  const often = rng.scaled(1, 6);
  const edge = (along: number): number =>
    base + rough * (fractal(often * along, 0, 3, seed) - 0.5) + fine * (fractal(40 * along, 0, 3, seed + 1) - 0.5);
  const [cos, sin] = ((turn: number) => [Math.cos(turn), Math.sin(turn)])(
    rng.between(0.6, 1.35) * (rng.chance(0.5) ? 1 : -1),
  );
  const [a, b, size] = [rng.between(0.25, 0.75), rng.between(0.3, 0.7), rng.scaled(0.08, 0.3)];
  const cover = rng.between(0.5, 0.68);
  const detail = rng.scaled(2, 7);
  if (name === 'ridge') return (x, y) => 0.56 * (edge(x) - y);
  if (name === 'wall') {
    return (x, y) => {
      const [u, v] = [x - 0.5, 0.56 * (y - 0.5)];
      return edge(u * cos + v * sin + 2) - 0.45 + (v * cos - u * sin);
    };
  }
  if (name === 'things') return (x, y) => 0.3 * (cover - fractal(detail * x, detail * 0.56 * y, 3, seed));
  const round = (x: number, y: number): number =>
    Math.hypot(x - a, 0.56 * (y - b)) - size * (0.6 + 0.8 * fractal(4 * x, 3 * y, 3, seed));
  return name === 'window' ? (x, y) => -round(x, y) : round;
}

/**
 * Draws the shape and light of open water. It darkens downwards and away from the sun, and is slightly uneven: rays,
 * ripples and drifting particles.
 */
export function drawOpening(rng: Random): Opening {
  const name = rng.of(SHAPES);
  const seed = rng.seed() % 4096;
  const edge = drawEdge(rng, name);
  // Nearby silhouettes are sharp; distant ones fade.
  const fade = rng.chance(0.5) ? 0.003 : rng.scaled(0.01, 0.25);
  const [fall, bluer, redder] = [rng.between(0, 2.2), rng.normal(0.12), rng.normal(0.1)];
  const sun = rng.chance(0.35) ? rng.scaled(0.2, 2.5) : 0;
  const [sunX, sunY, sunSize] = [rng.between(0, 1), rng.between(-0.3, 0.15), rng.between(0.15, 0.5)];
  const rays = rng.chance(0.4) ? rng.between(0, 0.25) : 0;
  const [slant, dense] = [rng.normal(0.3), rng.scaled(3, 14)];
  const drift = rng.chance(0.5) ? rng.scaled(0.0003, 0.006) : 0;
  return {
    name,
    share: (x, y) => smoothstep(-fade, fade / 3, edge(x, y)),
    light(x, y) {
      const up = 0.5 - y;
      let level = 2 ** (fall * up) * (1 + rays * (fractal(dense * (x + slant * y), 0.6 * y, 2, seed) - 0.5));
      const near = sun * Math.exp(-(((x - sunX) ** 2 + 0.32 * (y - sunY) ** 2) / sunSize ** 2));
      level *= 1 + near;
      if (drift > 0 && hash(Math.floor(SPECKS * x), Math.floor(SPECKS * y), seed + 3) < drift) level *= 1.6;
      return [level * Math.exp(redder * up), level, level * Math.exp(bluer * up)];
    },
  };
}
