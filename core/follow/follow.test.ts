import fc from 'fast-check';
import { poseAt, poseSchema, type Pose, type PoseKey } from '../regions/shape';
import { CannotFollow, Follower } from './follower';
import { findPoint, strongPoints } from './points';
import { pyramid, sample, type Grey } from './pyramid';
import { applySimilarity, fitSimilarity, robustSimilarity } from './similarity';
import { simplifyKeys } from './simplifyKeys';

const [W, H] = [480, 270];
const FPS = 15;
const FRAMES = 5 * FPS;

/** Smooth noise from a seed over −0.5 … 1.5, computed once and looked up. */
function texture(seed: number): (x: number, y: number) => number {
  const known = drawn.get(seed);
  if (known) return known;
  const edge = 800;
  const f = noise(seed);
  const grey: Grey = { width: edge, height: edge, data: new Float32Array(edge * edge) };
  for (let y = 0; y < edge; y += 1)
    for (let x = 0; x < edge; x += 1) grey.data[y * edge + x] = f(x / 400 - 0.5, y / 400 - 0.5);
  const made = (x: number, y: number): number => sample(grey, (x + 0.5) * 400, (y + 0.5) * 400);
  drawn.set(seed, made);
  return made;
}
const drawn = new Map<number, (x: number, y: number) => number>();

/** A lattice of random numbers with cubic interpolation, in three octaves. */
function noise(seed: number): (x: number, y: number) => number {
  const lattice = (i: number, j: number, k: number): number => {
    let h = (i * 374761393 + j * 668265263 + (seed + k) * 974711) | 0;
    h = Math.imul(h ^ (h >>> 13), 1274126177);
    return ((h ^ (h >>> 16)) >>> 0) / 2 ** 32;
  };
  const layer = (x: number, y: number, k: number): number => {
    const [i, j] = [Math.floor(x), Math.floor(y)];
    const [s, t] = [x - i, y - j];
    const [u, v] = [s * s * (3 - 2 * s), t * t * (3 - 2 * t)];
    const top = lattice(i, j, k) + u * (lattice(i + 1, j, k) - lattice(i, j, k));
    const low = lattice(i, j + 1, k) + u * (lattice(i + 1, j + 1, k) - lattice(i, j + 1, k));
    return top + v * (low - top);
  };
  return (x, y) => 0.5 * layer(x * 20, y * 20, 1) + 0.3 * layer(x * 45, y * 45, 2) + 0.2 * layer(x * 90, y * 90, 3);
}

interface Case {
  /** Position of the object. */
  at(t: number): Partial<Pose>;
  light?(t: number): number;
  noise?: number;
  /** Half-width in pixels of the averaging window. */
  blur?: number;
  /** A bar of this share of the frame's width passes in front; position of its centre. */
  bar?(t: number): number;
  seed?: number;
}

const START: Pose = poseSchema.parse({ x: 0.4, y: 0.28, width: 0.26, height: 0.2, feather: 0.02 });

function frameOf({ at, light, noise: grain = 0, blur = 0, bar, seed = 1 }: Case, k: number): Grey {
  const t = k / FPS;
  const pose = { ...START, ...at(t) };
  const turn = ((pose.turn ?? 0) * Math.PI) / 180;
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  const middle = bar?.(t) ?? -9;
  const [thing, ground, cover] = [texture(seed), texture(seed + 50), texture(seed + 90)];
  const data = new Float32Array(W * H);
  const level = light?.(t) ?? 1;
  let h = k * 7919 + 13;
  for (let y = 0; y < H; y += 1)
    for (let x = 0; x < W; x += 1) {
      const [px, py] = [(x + 0.5) / W, (y + 0.5) / W];
      const [dx, dy] = [px - pose.x, py - pose.y];
      const [u, v] = [(cos * dx + sin * dy) / pose.width, (cos * dy - sin * dx) / pose.height];
      let value: number;
      if (Math.abs(px - middle) < 0.04) value = 0.3 + 0.3 * cover(px, py);
      // The object is slightly larger than the shape around it.
      else if (u * u + v * v < 0.29) value = 0.25 + 0.6 * thing(u * 0.26, v * 0.2);
      else value = 0.15 + 0.5 * ground(px + 0.02 * t, py);
      h = (Math.imul(h, 1664525) + 1013904223) >>> 0;
      data[y * W + x] = value * level + grain * ((h / 2 ** 32 - 0.5) * 3.46);
    }
  return blur ? blurred({ width: W, height: H, data }, blur) : { width: W, height: H, data };
}

/** Averaged along rows, as by horizontal motion blur. */
function blurred({ width, height, data }: Grey, radius: number): Grey {
  const out = new Float32Array(data.length);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1) {
      let sum = 0;
      for (let k = x - radius; k <= x + radius; k += 1) sum += data[y * width + Math.min(width - 1, Math.max(0, k))];
      out[y * width + x] = sum / (2 * radius + 1);
    }
  return { width, height, data: out };
}

/** Tracks a case; the error of each frame as a share of the frame's width, and whether it was sure. */
function follow(c: Case, frames = FRAMES): { off: number[]; sure: boolean[] } {
  const follower = Follower.begin('ellipse', { ...START, ...c.at(0) }, frameOf(c, 0));
  const [off, sure]: [number[], boolean[]] = [[], []];
  for (let k = 1; k < frames; k += 1) {
    const found = follower.next(frameOf(c, k));
    const truth = { ...START, ...c.at(k / FPS) };
    off.push(Math.hypot(found.pose.x - truth.x, found.pose.y - truth.y) + Math.abs(found.pose.width - truth.width) / 2);
    sure.push(found.sure);
  }
  return { off, sure };
}

const path = (t: number): Partial<Pose> => ({ x: 0.4 + 0.15 * Math.sin(1.3 * t), y: 0.28 + 0.06 * Math.sin(2.1 * t) });
const CASES: Record<string, Case> = {
  move: { at: path },
  size: { at: (t) => ({ ...path(t), width: 0.26 * 1.11 ** t, height: 0.2 * 1.11 ** t }) },
  turn: { at: (t) => ({ ...path(t), turn: 14 * t }) },
  'light that changes': { at: path, light: (t) => 0.75 + 0.25 * Math.cos(2 * t) },
  noise: { at: path, noise: 0.03 },
  blur: { at: path, blur: 3 },
  'something passing in front': { at: path, bar: (t) => 0.9 - 0.5 * t },
  'all of it': {
    at: (t) => ({ ...path(t), width: 0.26 * 1.06 ** t, height: 0.2 * 1.06 ** t, turn: -8 * t }),
    light: (t) => 1 - 0.06 * t,
    noise: 0.015,
    bar: (t) => 1.4 - 0.4 * t,
    seed: 7,
  },
};

test.each(Object.entries(CASES))('%s: 95 %% of frames within 1 %% of the width over five seconds', (name, c) => {
  const { off, sure } = follow(c);
  const within = off.filter((v) => v < 0.01).length / off.length;
  console.log(
    `${name}: ${(100 * within).toFixed(1)} % within 1 %, median off ${(100 * off.toSorted((a, b) => a - b)[off.length >> 1]).toFixed(3)} %, sure ${sure.filter(Boolean).length} of ${sure.length}`,
  );
  expect(within).toBeGreaterThanOrEqual(0.95);
});

test('what leaves the picture is said to be lost within half a second', () => {
  // An occluder covers all of it after two seconds.
  const c: Case = { at: path, bar: (t) => (t < 2 ? 2 : 0.4 + 0.15 * Math.sin(1.3 * t)) };
  const wide: Case = { ...c, at: (t) => ({ ...path(t), width: 0.07, height: 0.09 }) };
  const { sure } = follow(wide, 3 * FPS);
  const lost = sure.findIndex((s, k) => k >= 2 * FPS - 1 && !s);
  expect(lost).toBeGreaterThan(0);
  expect(lost - 2 * FPS).toBeLessThan(FPS / 2);
});

test('on a flat field, noisy or not, it refuses; so it does for a gradient', () => {
  for (const noise of [0, 2 / 255]) {
    const data = Float32Array.from({ length: W * H }, (_, i) => 0.5 + noise * Math.sin(i * 12.9898) * 1.4);
    expect(() => Follower.begin('ellipse', START, { width: W, height: H, data })).toThrow(CannotFollow);
  }
  expect(() => Follower.begin('gradient', START, frameOf({ at: path }, 0))).toThrow('no inside');
});

test('a point is found where it went, brighter and flatter or not; strong points keep apart and lie within the mask', () => {
  const shown = texture(3);
  const grey = (dx: number, dy: number, gain: number): Grey => ({
    width: 120,
    height: 90,
    data: Float32Array.from(
      { length: 120 * 90 },
      (_, i) => 0.1 + gain * shown(((i % 120) - dx) / 480, (Math.floor(i / 120) - dy) / 480),
    ),
  });
  const [a, b] = [pyramid(grey(0, 0, 0.7)), pyramid(grey(3.4, -2.7, 0.4))];
  const found = findPoint(a, b, 60, 45, { x: 60, y: 45 });
  expect(found.x).toBeCloseTo(63.4, 1);
  expect(found.y).toBeCloseTo(42.3, 1);
  expect(found.like).toBeGreaterThan(0.98);
  const mask = Float32Array.from({ length: 120 * 90 }, (_, i) => (i % 120 < 60 ? 1 : 0));
  const points = strongPoints(a[0], mask, { apart: 8, most: 20, least: 1e-6 });
  expect(points.length).toBeGreaterThan(5);
  expect(points.every((p) => p.x < 60)).toBe(true);
  points.forEach((p, i) =>
    points.slice(i + 1).forEach((q) => expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeGreaterThanOrEqual(8)),
  );
});

test('a similarity is found among pairs of which a third go astray', () => {
  const truth = { a: 1.1 * Math.cos(0.3), b: 1.1 * Math.sin(0.3), x: 12, y: -5 };
  const pairs = Array.from({ length: 60 }, (_, i) => {
    const from = { x: (i * 37) % 200, y: (i * 91) % 150 };
    const [x, y] = applySimilarity(truth, from.x, from.y);
    return { from, to: i % 3 === 0 ? { x: x + 20 + (i % 7), y: y - 15 } : { x, y } };
  });
  const found = robustSimilarity(pairs, 1)!;
  expect(found.count).toBe(40);
  for (const key of ['a', 'b', 'x', 'y'] as const) expect(found.fit[key]).toBeCloseTo(truth[key], 6);
  expect(fitSimilarity([pairs[1], pairs[2]]).a).toBeCloseTo(truth.a, 6);
  expect(robustSimilarity(pairs.slice(0, 2), 1)).toBeNull();
});

test('keys are thinned to those that are needed: every pose stays where it was', () => {
  const number = fc.double({ min: 0.1, max: 0.9, noNaN: true });
  fc.assert(
    fc.property(number, number, fc.double({ min: -40, max: 40, noNaN: true }), (dx, size, turn) => {
      const keys: PoseKey[] = Array.from({ length: 90 }, (_, i) => {
        const t = i / 30;
        const bend = t < 1.5 ? t : 3 - t;
        return {
          ...START,
          x: 0.2 + dx * 0.3 * bend,
          width: 0.2 * (1 + size) ** t,
          height: 0.1 * (1 + size) ** t,
          turn: turn * t,
          seconds: t,
          ease: 'linear',
        };
      });
      const thin = simplifyKeys(keys);
      const worst = Math.max(...keys.map((k) => Math.abs(poseAt({ keys: thin }, k.seconds).x - k.x)));
      return thin.length < 12 && worst < 0.0011 && thin[0] === keys[0] && thin.at(-1) === keys.at(-1);
    }),
    { numRuns: 30 },
  );
});
