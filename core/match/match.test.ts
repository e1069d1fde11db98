import type { Vec3 } from '../colour/matrix';
import { compile } from '../program/compile';
import { evaluate } from '../program/evaluate';
import { newStep, type Step } from '../model/grade';
import { byLuma, evenly, nearest, squaresOf } from './colours';
import { matchTo } from './matchTo';

/** Colours of a synthetic scene: sky, leaves, earth, stone, each with highlights and shadows. */
function scene(count: number, from = 0): Float32Array {
  const things: Vec3[] = [
    [0.45, 0.6, 0.8],
    [0.25, 0.42, 0.18],
    [0.5, 0.38, 0.26],
    [0.55, 0.54, 0.52],
  ];
  return Float32Array.from({ length: 3 * count }, (_, k) => {
    const i = Math.floor(k / 3) + from;
    const shade = 0.45 + 0.75 * ((i * 0.61803) % 1);
    return things[i % 4][k % 3] * shade + 0.02 * Math.sin(i * 1.7 + (k % 3));
  });
}
function through(steps: readonly Step[], colours: Float32Array): Float32Array {
  const program = compile(steps, 0);
  const out = new Float32Array(colours.length);
  for (let o = 0; o < out.length; o += 3) out.set(evaluate(program, [colours[o], colours[o + 1], colours[o + 2]]), o);
  return out;
}
const apart = (a: Float32Array, b: Float32Array): number =>
  Math.sqrt(a.reduce((s, v, i) => s + (v - b[i]) ** 2, 0) / a.length);

test('what channels and saturation did to a scene is found, from other colours of the same things', () => {
  const did = [
    newStep('channels', 'c', { redTop: -0.12, blueTop: 0.08, greenMiddle: 0.03, redBottom: 0.02 }),
    newStep('saturation', 's', { amount: 0.8 }),
  ];
  const source = scene(1500, 7);
  const { verdict, steps, shared } = matchTo(source, through(did, scene(1300)), 'other.mp4');
  expect(verdict).toBe('matched');
  expect(steps.map((s) => [s.kind, s.label, s.strength])).toEqual([
    ['channels', 'Channels like other.mp4', 1],
    ['saturation', 'Saturation like other.mp4', 1],
  ]);
  expect(shared[1]).toBeGreaterThan(0.9);
  const wanted = through(did, source);
  expect(apart(through(steps, source), wanted)).toBeLessThan(0.3 * apart(source, wanted));
  // Deterministic.
  expect(matchTo(source, through(did, scene(1300)), 'other.mp4').steps).toEqual(steps);
});

test('more sky and less earth is no reason for a change', () => {
  const source = scene(1600);
  // One of every four colours is sky: three quarters of the others' are left out.
  const kept = Array.from({ length: 1600 }, (_, i) => i).filter((i) => i % 4 === 0 || i % 16 < 4);
  const reference = Float32Array.from(kept.flatMap((i) => [...source.subarray(3 * i, 3 * i + 3)]));
  expect(reference.length).toBeLessThan(0.5 * source.length);
  expect(matchTo(source, reference, 'x')).toEqual({
    verdict: 'alike',
    steps: [],
    shared: expect.any(Array) as unknown,
  });
});

test('what has nothing in common is left alone', () => {
  const water = Float32Array.from({ length: 3000 }, (_, k) => [0.02, 0.3, 0.25][k % 3] * (0.6 + 0.4 * Math.sin(k)));
  const { verdict, steps } = matchTo(scene(1200), water, 'dive.mp4');
  expect([['unlike', 'alike'].includes(verdict), steps]).toEqual([true, []]);
});

test('a name of any length makes a label that a step can have', () => {
  const source = scene(800);
  const { steps } = matchTo(source, through([newStep('channels', 'c', { redTop: -0.2 })], source), 'n'.repeat(200));
  expect(steps.length).toBeGreaterThan(0);
  for (const { label } of steps) expect(label!.length).toBeLessThanOrEqual(60);
});

test('colours: means of squares, evenly chosen, by luma, nearest', () => {
  const [width, height] = [20, 9];
  const rgb = Float32Array.from({ length: 3 * width * height }, (_, k) =>
    Math.floor(k / 3) % width < 8 ? 0.25 : 0.75,
  );
  // Two whole squares fit horizontally, one vertically.
  expect([...squaresOf([{ rgb, width, height }])]).toEqual([0.25, 0.25, 0.25, 0.75, 0.75, 0.75]);
  const list = Float32Array.from([3, 3, 3, 1, 1, 1, 2, 2, 2]);
  expect([...byLuma(list)]).toEqual([1, 1, 1, 2, 2, 2, 3, 3, 3]);
  expect([...evenly(byLuma(list), 2)]).toEqual([1, 1, 1, 3, 3, 3]);
  const { which, far } = nearest(Float32Array.from([1, 1, 4]), list);
  expect([[...which], [...far]]).toEqual([[2], [Math.fround(Math.sqrt(6))]]);
});
