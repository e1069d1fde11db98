import { adaptWorking } from '@inkavo/core/colour/adaptation';
import type { Mat3, Vec3 } from '@inkavo/core/colour/matrix';
import { WHITES } from '@inkavo/core/colour/primaries';
import { kelvinToXy } from '@inkavo/core/colour/temperature';
import type { WaterType } from '@inkavo/core/steps/water/waters';
import { drawDistances, type Distances } from './distances';
import type { Part } from './photographs';
import type { Random } from './random';
import { inAir, inWater, look, type Seen, type Water } from './spectra';

/** What lies between objects and the camera: water, haze or clear air, and the illuminant. */
export interface Conditions {
  /** Description. */
  words: string;
  see: Scene;
  /** Transmission of green light over a distance, 0–1. */
  through: Through;
  distances: Distances;
  /** The farthest distance, relative to the nearest. */
  farthest: number;
}

/** Optical water types kept aside from development. */
const WATERS: Record<Part, readonly WaterType[]> = {
  develop: ['I', 'IB', 'II', 'C1', 'C5', 'C9'],
  validation: ['I', 'IB', 'II', 'C1', 'C5', 'C9'],
  aside: ['IA', 'III', 'C3', 'C7'],
  fresh: ['IA', 'III', 'C3', 'C7'],
};
/** Number of samples over distance, interpolated. */
const VIEWS = 28;
/** Minimum transmission of green light on the way down, and from the farthest objects: darker scenes are not filmed. */
const LEAST_DOWN = 0.03;
const LEAST_ACROSS = 0.1;
const LEAST_NEAR = 0.4;

/** Light from a surface at a position in the picture. */
export type Scene = (surface: Vec3, distance: number) => Vec3;
export type Through = (distance: number) => number;

/** A surface in clear air. */
export const clear = (surface: Vec3): Vec3 => look(inAir, surface);

function interpolated(farthest: number, at: (times: number) => Seen): Scene {
  const list = Array.from({ length: VIEWS + 1 }, (_, i) => at(1 + (farthest - 1) * (i / VIEWS)));
  return (surface, times) => {
    const place = farthest <= 1 ? 0 : Math.min(VIEWS - 1e-6, ((times - 1) / (farthest - 1)) * VIEWS);
    const i = Math.floor(place);
    const f = place - i;
    const [a, b] = [list[i], list[Math.min(VIEWS, i + 1)]];
    const out: Vec3 = [0, 0, 0];
    for (let c = 0; c < 3; c += 1) {
      const [p, q] = [a.parts[c], b.parts[c]];
      out[c] = a.veil[c] + f * (b.veil[c] - a.veil[c]);
      for (let k = 0; k < 3; k += 1) out[c] += surface[k] * (p[k] + f * (q[k] - p[k]));
    }
    return out;
  };
}

/** A function of distance as a table. */
export function tabled(f: Through, farthest: number): Through {
  const list = Float32Array.from({ length: VIEWS + 2 }, (_, i) => f(1 + (farthest - 1) * (i / VIEWS)));
  return (times) => {
    const at = farthest <= 1 ? 0 : Math.min(VIEWS, ((times - 1) / (farthest - 1)) * VIEWS);
    const i = Math.floor(at);
    return list[i] + (at - i) * (list[i + 1] - list[i]);
  };
}

/** Distance in metres beyond which only water is visible. */
const OPEN = 400;

/** Water with objects from near to far; `water` is the light of open water at the camera's level. */
export function drawWater(rng: Random, part: Part): Conditions & { water: Vec3 } {
  const types = WATERS[part];
  const first = rng.of(types);
  const next = types[Math.min(types.length - 1, types.indexOf(first) + 1)];
  const water: Water = {
    types: [first, next],
    second: rng.between(0, 0.4),
    across: [rng.between(0.75, 1.1), rng.scaled(0.02, 0.09)],
    veil: rng.scaled(0.025, 0.08),
  };
  const green = (depth: number, distance: number): number => look(inWater(water, depth, distance), [0, 1, 0])[1];
  let depth = rng.between(2, 30);
  while (green(depth, 0) < LEAST_DOWN && depth > 1) depth *= 0.8;
  const clearest = (z: number, r: number): number => {
    const { parts } = inWater(water, z, r);
    return parts[1][1] / inWater(water, z, 0).parts[1][1];
  };
  let near = rng.scaled(0.5, 4);
  while (clearest(depth, near) < LEAST_NEAR && near > 0.1) near *= 0.8;
  let farthest = rng.scaled(1, 6);
  while (clearest(depth, near * farthest) < LEAST_ACROSS && farthest > 1.05) farthest = 1 + 0.8 * (farthest - 1);
  const lamp = rng.chance(0.15) ? rng.scaled(0.3, 2) * green(depth, 0) : 0;
  const see = interpolated(farthest, (times) => {
    const seen = inWater(water, depth, near * times);
    if (lamp === 0) return seen;
    // A lamp at the camera: light travels both ways, falling off with the square of the distance.
    const lit = inWater(water, 0, 2 * near * times).parts;
    const level = lamp / times ** 2;
    return { veil: seen.veil, parts: seen.parts.map((row, c) => row.map((v, k) => v + level * lit[c][k])) };
  });
  return {
    words: `${first}–${next}, ${depth.toFixed(0)} m, ${near.toFixed(1)}–${(near * farthest).toFixed(1)} m away${lamp ? ', lamp' : ''}`,
    see,
    water: inWater(water, depth, OPEN).veil,
    through: (times) => clearest(depth, near * times),
    distances: drawDistances(rng, farthest),
    farthest,
  };
}

/** Haze of constant density. */
export function drawHaze(rng: Random): Conditions {
  const nearest = rng.between(0.55, 0.93);
  const farthest = Math.max(1, Math.min(rng.scaled(1.5, 12), Math.log(0.12) / Math.log(nearest)));
  const [level, blue, green] = [rng.between(0.45, 0.95), rng.between(-0.06, 0.2), rng.normal(0.02)];
  const air: Vec3 = [level * Math.exp(-blue / 2), level * Math.exp(green), level * Math.exp(blue / 2)];
  return {
    words: `${(100 * nearest).toFixed(0)} to ${(100 * nearest ** farthest).toFixed(0)} % through`,
    distances: drawDistances(rng, farthest),
    farthest,
    through: (times) => nearest ** times,
    see: (surface, times) => {
      const t = nearest ** times;
      return clear(surface).map((v, c) => v * t + air[c] * (1 - t)) as Vec3;
    },
  };
}

/** A wrong white: set for another colour temperature, slightly green or magenta. */
export function drawWhite(rng: Random): { words: string; matrix: Mat3 } {
  const kelvin = rng.chance(0.5) ? rng.scaled(3000, 4800) : rng.scaled(7500, 14000);
  const duv = 0.0032 + rng.normal(0.005);
  return { words: `${kelvin.toFixed(0)} K`, matrix: adaptWorking(kelvinToXy({ kelvin, duv }), WHITES.D65) };
}
