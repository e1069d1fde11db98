import type { Vec3 } from '../colour/matrix';
import { luma709, ycbcrToRgb } from '../colour/ycbcr';
import { newStep, type Step } from '../model/grade';
import { PROFILES } from '../model/profile';
import { bake, lookUp } from '../program/bake';
import { LEVEL_CENTRES } from '../steps/shared/tone';
import { compile, tableOf } from '../program/compile';
import { evaluate } from '../program/evaluate';
import { padSample, solvePad } from './padSolver';
import type { Mark } from './readings';
import { GRABS, grabSample, solve, toneHeights, type Grab } from './solver';
import { measure, type Spread } from './statistics';
import { measureMarks } from './vectorscope';

const W = 96;
const H = 54;
const codes = new Float32Array(W * H * 3);
for (let y = 0; y < H; y += 1)
  for (let x = 0; x < W; x += 1)
    codes.set([0.3 + 0.2 * (x / W) + 0.03 * (y / H), 0.32 + 0.2 * (x / W), 0.3 + 0.22 * (x / W)], (y * W + x) * 3);

const later = [
  newStep('saturation', 's', { amount: 1.4 }),
  newStep('range', 'r2', { contrast: 1.2, mid: 0.05 }),
  newStep('balance', 'b2', { kelvin: 6000 }),
];
const first = (kind: string): [string, Step[]][] => [
  ['alone', [newStep(kind, 'r')]],
  ['through three later steps', [newStep(kind, 'r'), ...later]],
  ['after a conversion', [newStep('convert', 'c', { profile: PROFILES[2] }), newStep(kind, 'r')]],
];
const through = (steps: Step[]): Float32Array => {
  const program = compile(steps, 0);
  if (program.ops.length === 0) return codes;
  const table = bake(tableOf(program), 33);
  const out = new Float32Array(codes.length);
  for (let o = 0; o < codes.length; o += 3) lookUp(table, codes[o], codes[o + 1], codes[o + 2], out, o);
  return out;
};
const withParams = (steps: Step[], params: Record<string, number>): Step[] =>
  steps.map((s) => (s.id === 'r' ? { ...s, params: { ...s.params, ...params } } : s));

const levelOf = (steps: Step[], grab: Grab): number => {
  const spread = measure(through(steps), codes, { low: -Infinity, high: Infinity })[GRABS[grab].quantity];
  const part = { 0.005: 'low', 0.5: 'mid', 0.995: 'high' }[GRABS[grab].percentile!] as keyof Spread;
  return spread[part];
};

describe.each(first('range'))('the luma trace, %s', (_name, steps) => {
  test.each([
    ['bottom', -0.1],
    ['middle', 0.07],
    ['top', 0.12],
  ] as const)('the %s lands where it is let go', (grab, by) => {
    const target = levelOf(steps, grab) + by;
    const { value, reached } = solve(grabSample(codes, through(steps), grab), steps, 'r', GRABS[grab].key, target, 0);
    expect(reached).toBe(true);
    expect(Math.abs(levelOf(withParams(steps, { [GRABS[grab].key]: value }), grab) - target)).toBeLessThan(0.005);
  });

  test.each([0, 2, 3] as const)('level %i is where it says, and lands where it is let go', (i) => {
    const grab = `level${i}` as const;
    const at = (list: Step[]) => toneHeights(list, 'r', LEVEL_CENTRES, 0)[i];
    const target = at(steps) + 0.05;
    const { value } = solve(grabSample(codes, codes, grab), steps, 'r', grab, target, 0);
    expect(at(withParams(steps, { [grab]: value }))).toBeCloseTo(target, 4);
    // The height is the value of a grey of that tone where it enters the range step.
    const grey = new Float64Array(3).fill([0, 0.25, 0.5, 0.75, 1][i]) as unknown as Vec3;
    const from = steps.slice(steps.findIndex((s) => s.id === 'r'));
    expect(at(steps)).toBeCloseTo(luma709(...evaluate(compile(from, 0), [grey[0], grey[1], grey[2]])), 9);
  });
});

describe.each(first('channels'))('the traces of the channels, %s', (_name, steps) => {
  test.each([
    ['redBottom', -0.06],
    ['greenMiddle', 0.05],
    ['blueTop', 0.1],
  ] as const)('%s lands where it is let go', (grab, by) => {
    const target = levelOf(steps, grab) + by;
    const { value } = solve(grabSample(codes, through(steps), grab), steps, 'r', grab, target, 0);
    expect(Math.abs(levelOf(withParams(steps, { [grab]: value }), grab) - target)).toBeLessThan(0.006);
  });
});

test('a place out of reach gives the nearest one and says so', () => {
  const sample = grabSample(codes, codes, 'bottom');
  expect(solve(sample, [newStep('range', 'r')], 'r', 'black', -5, 0)).toMatchObject({ reached: false, value: -0.6 });
  expect(() => solve(sample, [], 'r', 'black', 0, 0)).toThrow('no number');
});

describe.each(first('bands'))('the pad, %s', (_name, steps) => {
  const edges = { low: 0.3, high: 0.7 };
  const marks = ['shadows', 'midtones', 'highlights', 'overall'] as const satisfies Mark[];
  test.each(marks)('the mark of %s lands where it is let go, within 1 % of the radius', (mark) => {
    const before = measureMarks(through(steps), edges)[mark];
    if (before.share < 0.02) return;
    const target = { cb: before.cb + 0.04, cr: before.cr - 0.03 };
    const sample = padSample(codes, through(steps), mark, edges);
    const { params, reached } = solvePad(sample, steps, 'r', target, 0);
    expect(reached).toBe(true);
    const after = measureMarks(through(withParams(steps, params)), edges)[mark];
    expect(Math.hypot(after.cb - target.cb, after.cr - target.cr)).toBeLessThan(0.005);
  });
});

test('the pad: out of reach it goes as far as it can', () => {
  const steps = [newStep('bands', 'r')];
  const sample = padSample(codes, codes, 'overall', { low: 0.3, high: 0.7 });
  const { params, reached } = solvePad(sample, steps, 'r', { cb: 0.6, cr: 0 }, 0);
  expect(reached).toBe(false);
  expect(params.overallCb).toBeCloseTo(0.25, 6);
  expect(() => solvePad(sample, [], 'r', { cb: 0, cr: 0 }, 0)).toThrow('no bands step');
});

test('marks are means: one colour everywhere stands at its own chroma', () => {
  const one = Float32Array.from({ length: 300 }, (_, i) => ycbcrToRgb([0.5, 0.1, -0.05], 'bt709')[i % 3]);
  const { midtones, overall, highlights } = measureMarks(one, { low: 0.3, high: 0.7 });
  for (const m of [midtones, overall]) expect([m.cb, m.cr]).toEqual([expect.closeTo(0.1, 6), expect.closeTo(-0.05, 6)]);
  expect(highlights.share).toBeLessThan(0.25);
});
