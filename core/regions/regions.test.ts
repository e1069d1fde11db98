import fc from 'fast-check';
import fixture from '../fixtures/regions.json';
import { newStep, stepSchema, type Step } from '../model/grade';
import { changesOverTime, compile } from '../program/compile';
import { evaluate, through } from '../program/evaluate';
import { cut, isOneTable, maxOps } from '../program/plan';
import { toneHeights } from '../scopes/solver';
import { colour } from '../steps/testRun';
import { ellipseDistance, rectangleDistance } from './distance';
import { maskAt, maskRow } from './mask';
import { amountOf, joinOf, regionSchema, type Region } from './region';
import { poseAt, poseSchema, shapeSchema, toBox, toFrame, withPose, type Pose, type Shape } from './shape';

const shape = (kind: Shape['kind'], pose: Partial<Pose>, part: Partial<Shape> = {}): Shape =>
  shapeSchema.parse({ id: kind, kind, keys: [{ seconds: 0, x: 0.5, y: 0.28, ...pose }], ...part });

/** A frame's mask, pixel by pixel. */
function mask(shapes: Shape[], width: number, height: number, seconds = 0): Float32Array[] {
  const plane = maskAt(shapes, seconds, width / height);
  return Array.from({ length: height }, (_, y) => {
    const row = new Float32Array(width);
    maskRow(plane, y, row, height);
    return row;
  });
}

// Drawn by OpenCV with supersampling, feathered by its exact distance transform; scripts/regionFixtures.py makes the
// file.
test.each(fixture.shapes.map((s, i) => [`${s.kind} ${i}`, s] as const))('%s as OpenCV draws it', (_name, given) => {
  const { width, height, every } = fixture;
  const rows = mask([shape(given.kind as Shape['kind'], given.pose as Partial<Pose>)], width, height);
  let [sum, most, count] = [0, 0, 0];
  given.values.forEach((row, y) =>
    row.forEach((v, x) => {
      const off = Math.abs(rows[y * every][x * every] - v);
      sum += off;
      most = Math.max(most, off);
      count += 1;
    }),
  );
  console.log(`${_name}: mean ${(sum / count).toFixed(5)}, largest ${most.toFixed(4)}`);
  expect(sum / count).toBeLessThanOrEqual(0.002);
  expect(most).toBeLessThanOrEqual(0.02);
});

test('distances to an ellipse are those to the nearest of many points on it', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 0.02, max: 0.6, noNaN: true }),
      fc.double({ min: 0.02, max: 0.6, noNaN: true }),
      fc.double({ min: -1, max: 1, noNaN: true }),
      fc.double({ min: -1, max: 1, noNaN: true }),
      (a, b, x, y) => {
        let least = Infinity;
        for (let i = 0; i < 4000; i += 1) {
          const t = (i * 2 * Math.PI) / 4000;
          least = Math.min(least, Math.hypot(a * Math.cos(t) - x, b * Math.sin(t) - y));
        }
        return Math.abs(Math.abs(ellipseDistance(x, y, a, b)) - least) < 2e-3 * Math.max(a, b) + 1e-3 * least;
      },
    ),
    { numRuns: 200 },
  );
  // Clamped to a maximum distance: nearer values are unchanged, further ones may be either.
  const [a, b, reach] = [0.4, 0.15, 0.05];
  let further = 0;
  for (let x = -0.6; x <= 0.6; x += 0.01)
    for (let y = -0.4; y <= 0.4; y += 0.01) {
      const [exact, held] = [ellipseDistance(x, y, a, b), ellipseDistance(x, y, a, b, reach)];
      if (held !== exact) further += 1;
      if (held !== exact && (Math.abs(exact) < reach || held !== Math.sign(exact) * reach))
        throw new Error(`At ${x}, ${y}: ${held} for ${exact}`);
    }
  expect(further).toBeGreaterThan(1000);
  expect(rectangleDistance(0.5, 0, 0.3, 0.2, 0.1)).toBeCloseTo(0.2, 12);
  expect(rectangleDistance(0, 0, 0.3, 0.2, 0)).toBeCloseTo(-0.2, 12);
});

test('a gradient rises over its length in its direction, and an edge is as soft at any size', () => {
  const down = [shape('gradient', { x: 0.5, y: 0.25, turn: 90, feather: 0.2 })];
  const rows = mask(down, 64, 36);
  expect(rows[0][10]).toBe(1);
  expect(rows[35][50]).toBe(0);
  for (const [width, height] of [
    [640, 360],
    [1920, 1080],
  ])
    // A quarter of the way, by smoothstep.
    expect(mask(down, width, height)[Math.round(0.2 * width)][3]).toBeCloseTo(0.84375, 1);
});

test('no step in tone along a feather 450 px wide: what 10 bits show of it never moves by more than one', () => {
  const rows = mask([shape('ellipse', { width: 0.6, height: 0.4, feather: 450 / 1920 })], 1920, 1080);
  const row = rows[540];
  let most = 0;
  for (let x = 1; x < row.length; x += 1) most = Math.max(most, Math.abs(row[x] - row[x - 1]));
  // A change of a third of the range over the feather: a stop and a half.
  expect(most * 0.33 * 1023).toBeLessThan(1.2);
});

test('shapes add, take away and cut; inverted is the rest', () => {
  const big = shape('ellipse', { width: 0.6, height: 0.4, feather: 0.01 });
  const small = (mode: Shape['mode']): Shape =>
    shape('rectangle', { x: 0.6, width: 0.3, height: 0.2, feather: 0.01 }, { mode, id: 'small' });
  const at = (shapes: Shape[], x: number): number => mask(shapes, 200, 112)[56][Math.round(200 * x)];
  expect([0.25, 0.6, 0.78].map((x) => at([big, small('subtract')], x))).toEqual([1, 0, 1]);
  expect([0.25, 0.6, 0.9].map((x) => at([big, small('intersect')], x))).toEqual([0, 1, 0]);
  expect(at([big, { ...small('add'), keys: [{ ...small('add').keys[0], x: 0.92 }] }], 0.9)).toBe(1);
  expect([0.05, 0.5].map((x) => at([{ ...big, inverted: true }], x))).toEqual([1, 0]);
});

test('a place goes to a shape’s own box and back; keys hold a whole shape, between them it moves evenly or smoothly', () => {
  const pose = poseSchema.parse({ x: 0.3, y: 0.2, width: 0.4, height: 0.1, turn: 25 });
  const [u, v] = toBox(pose, ...toFrame(pose, 0.2, -0.4));
  expect([u, v]).toEqual([expect.closeTo(0.2, 12), expect.closeTo(-0.4, 12)]);
  let moving = shape('ellipse', { x: 0.2, width: 0.1 });
  moving = withPose(moving, 2, { ...poseAt(moving, 2), x: 0.6, width: 0.4 }, true);
  expect(moving.keys).toHaveLength(2);
  expect(poseAt(moving, 1)).toMatchObject({ x: expect.closeTo(0.4, 12), width: expect.closeTo(0.2, 12) });
  const smooth = { ...moving, keys: moving.keys.map((k) => ({ ...k, ease: 'smooth' as const })) };
  expect(poseAt(smooth, 0.5).x).toBeCloseTo(0.2 + 0.4 * 0.15625, 9);
  // Without keys it is changed as a whole.
  expect(withPose(shape('ellipse', {}), 3, poseSchema.parse({ x: 0.1, y: 0.1 })).keys).toHaveLength(1);
});

test('a join is what its words say, for every share', () => {
  const share = fc.double({ min: 0, max: 1, noNaN: true });
  const of = (part: Partial<Region>): Region =>
    regionSchema.parse({ shapes: [shape('ellipse', {})], matte: { lightness: {} }, ...part });
  fc.assert(
    fc.property(share, share, share, (m, a, strength) => {
      const near = (part: Partial<Region>, want: number): boolean =>
        Math.abs(amountOf(joinOf(of(part), strength), m, a) - strength * want) < 1e-12;
      return (
        near({ join: 'both' }, m * a) &&
        near({ join: 'either' }, m + a - m * a) &&
        near({ join: 'without' }, m * (1 - a)) &&
        near({ join: 'both', inverted: true }, 1 - m * a) &&
        near({ matte: undefined }, m)
      );
    }),
  );
});

const region = (part: object, id = 'sky'): Step => newStep('region', id, part as Record<string, unknown>);
const here = (step: Step, id = 'sky'): Step => ({ ...step, region: id });
const darker = newStep('range', 'r', { exposure: -1 });

test('a step in a region acts there: neighbours share an op, what lies elsewhere is left bit for bit', () => {
  const steps = [
    region({ shapes: [shape('ellipse', {})] }),
    here(darker),
    here(newStep('saturation', 's', { amount: 1.3 })),
    newStep('balance', 'b', { kelvin: 5000 }),
  ];
  const program = compile(steps, 0);
  expect(program.ops.map((o) => [o.kind, o.mix?.region])).toEqual([
    ['table', 'sky'],
    ['table', undefined],
  ]);
  expect(program.planes.map((p) => p.key)).toEqual(['mask sky']);
  const only = compile(steps.slice(0, 3), 0);
  fc.assert(
    fc.property(colour, (rgb) => {
      const all = evaluate(
        compile(
          [darker, steps[2]].map(({ region: _r, ...s }) => s as Step),
          0,
        ),
        rgb,
      );
      const inside = evaluate(only, rgb, false, [1]);
      const half = evaluate(only, rgb, false, [0.5]);
      return (
        evaluate(only, rgb, false, [0]).every((v, c) => v === rgb[c]) &&
        inside.every((v, c) => Math.abs(v - all[c]) < 1e-9) &&
        half.every((v, c) => Math.abs(v - (rgb[c] + all[c]) / 2) < 1e-9)
      );
    }),
  );
});

test('a region by colour alone is baked with the rest; by shapes it is not; one that is not there chooses nothing', () => {
  const bright = region({ matte: { lightness: { low: 0.5, high: 1, soft: 0.1 } } });
  expect(isOneTable([bright, here(darker)])).toBe(true);
  expect(isOneTable([region({ shapes: [shape('ellipse', {})] }), here(darker)])).toBe(false);
  const program = compile([bright, here(darker)], 0);
  expect(evaluate(program, [0.3, 0.3, 0.3])).toEqual([0.3, 0.3, 0.3]);
  expect(evaluate(program, [0.8, 0.8, 0.8])[0]).toBeLessThan(0.7);
  expect(compile([here(darker, 'gone')], 0).ops).toEqual([]);
  expect(compile([region({ strength: 0 }), here(darker)], 0).ops).toEqual([]);
});

test('what is shown has an op of its own, also where no step acts there yet', () => {
  const bright = region({ matte: { lightness: { low: 0.5, high: 1, soft: 0.1 } } });
  const { ops } = compile([bright, darker], 0, 'sky');
  expect(ops.map((o) => o.mix?.region)).toEqual([undefined, 'sky']);
  const run = through(ops);
  const rgb: [number, number, number] = [0.8, 0.8, 0.8];
  run(rgb);
  expect(rgb[0]).toBeCloseTo(evaluate(compile([darker], 0), [0.8, 0.8, 0.8])[0], 9);
});

test('a handle of a step in a region moves with it, also where regions stand elsewhere in the list', () => {
  const oval = region({ shapes: [shape('ellipse', {})] });
  const lighter = here(newStep('range', 'r', { exposure: 1 }));
  const [everywhere] = toneHeights([newStep('range', 'r', { exposure: 1 })], 'r', [0.4], 0);
  expect(toneHeights([oval, newStep('saturation', 's'), lighter], 'r', [0.4], 0)[0]).toBeCloseTo(everywhere, 9);
});

test('what a region comes to over time: keys of a shape and of its strength count as change, and as room', () => {
  const still = region({ shapes: [shape('ellipse', {})] });
  expect(changesOverTime([still])).toBe(false);
  const keys = [
    { seconds: 0, value: 0 },
    { seconds: 1, value: 1 },
  ];
  const fading = region({ shapes: [shape('ellipse', {})], strength: { keys } });
  expect(changesOverTime([fading])).toBe(true);
  expect(cut([fading, here(darker)], 0).segments).toHaveLength(0);
  expect(cut([fading, here(darker)], 1).segments).toHaveLength(1);
  expect(maxOps([fading, here(darker)], 33)).toMatchObject({ points: 0, size: 33 });
  expect(maxOps([fading, here(darker)], 33).shapes).toBeGreaterThanOrEqual(1);
});

test('a schema says what is wrong with a region', () => {
  expect(() => region({ shapes: [{ ...shape('ellipse', {}), keys: [] }] })).toThrow();
  expect(() => shape('path', {})).toThrow('at least three points');
  const both = { ...here(darker), matte: { lightness: {} } };
  expect(() => stepSchema.parse(both)).toThrow('not both');
});
