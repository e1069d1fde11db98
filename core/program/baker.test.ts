import fc from 'fast-check';
import { newStep, type Step } from '../model/grade';
import { PROFILES } from '../model/profile';
import { bake, type Table } from './bake';
import type { BakedOp } from './baked';
import { Baker } from './baker';
import { compile } from './compile';

const START: Step[] = [
  newStep('convert', 'c', { profile: PROFILES[1], rollOff: 0.85 }),
  newStep('balance', 'b', { kelvin: 5300 }),
  newStep('range', 'r', { black: -0.05, soft: 0.03 }),
  newStep('saturation', 's', { amount: 1.1 }),
];
const changed = (steps: Step[], id: string, params: object, part: Partial<Step> = {}): Step[] =>
  steps.map((s) => (s.id === id ? { ...s, ...part, params: { ...s.params, ...params } } : s));

const apart = (table: Table, pass: BakedOp): number =>
  pass.kind === 'table'
    ? table.data.reduce((most, v, i) => Math.max(most, Math.abs(v - pass.table.data[i])), 0)
    : Infinity;

/** Largest difference to a table baked from scratch. */
function off(baker: Baker, steps: Step[], size: number): number {
  const tables = baker.bake(steps, 0, size);
  const { ops } = compile(steps, 0);
  if (tables.length !== ops.length) return Infinity;
  return Math.max(0, ...ops.map((pass, k) => (pass.kind === 'table' ? apart(bake(pass, size), tables[k]) : 0)));
}

test('whatever changes between two bakes, the table is the one that is baked from nothing', () => {
  const edit = fc.oneof(
    fc.record({ id: fc.constant('r'), params: fc.record({ black: fc.double({ min: -0.1, max: 0.1, noNaN: true }) }) }),
    fc.record({ id: fc.constant('b'), params: fc.record({ kelvin: fc.integer({ min: 3000, max: 9000 }) }) }),
    fc.record({ id: fc.constant('s'), params: fc.record({ amount: fc.constantFrom(1, 1.3) }) }),
    fc.record({
      id: fc.constantFrom('c', 'b', 'r', 's'),
      params: fc.constant({}),
      part: fc.record({ on: fc.boolean() }),
    }),
    fc.record({
      id: fc.constantFrom('b', 'r'),
      params: fc.constant({}),
      part: fc.record({ strength: fc.constantFrom(0, 0.5, 1) }),
    }),
  );
  fc.assert(
    fc.property(fc.array(fc.tuple(edit, fc.constantFrom(5, 9)), { minLength: 1, maxLength: 12 }), (edits) => {
      const baker = new Baker();
      let steps = START;
      return edits.every(([{ id, params, ...rest }, size]) => {
        steps = changed(steps, id, params, (rest as { part?: Partial<Step> }).part);
        return off(baker, steps, size) < 1e-5;
      });
    }),
    { numRuns: 60 },
  );
});

test('steps that come, go and change places', () => {
  const baker = new Baker();
  const added = [...START, newStep('bands', 'n', { shadowsCb: 0.02 })];
  for (const steps of [START, added, added.slice(1), [added[1], added[0], ...added.slice(2)], [], START])
    expect(off(baker, steps, 9)).toBeLessThan(1e-5);
});

test('while one step changes, those before it are not computed again', () => {
  const baker = new Baker();
  const time = (steps: Step[]): number => {
    const from = process.cpuUsage().user;
    baker.bake(steps, 0, 33);
    return process.cpuUsage().user - from;
  };
  const moves = Array.from({ length: 12 }, (_, i) => changed(START, 's', { amount: 1.2 + i / 100 }));
  time(START);
  const [first, ...later] = moves.map(time);
  const median = later.toSorted((a, b) => a - b)[5];
  console.log(`a change of the last of four steps: ${(median / first).toFixed(2)} of the first bake (33³)`);
  expect(median).toBeLessThan(first * 0.8);
});

describe('in slices', () => {
  const steps = [newStep('range', 'r', { contrast: 1.2 }), newStep('saturation', 's', { amount: 1.3 })];
  const tableOf = (ops: readonly BakedOp[] | undefined): ArrayLike<number> =>
    ops?.[0].kind === 'table' ? ops[0].table.data : [];

  test('the same tables, with pauses of a few milliseconds’ work between them', async () => {
    let pauses = 0;
    const pause = async (): Promise<boolean> => (pauses += 1) > 0;
    const ops = await new Baker().bakeInSlices(steps, 0, 33, undefined, pause);
    expect(tableOf(ops)).toEqual(tableOf(new Baker().bake(steps, 0, 33)));
    // 33³ nodes twice: up to the change, and from there on.
    expect(pauses).toBeGreaterThan((2 * 33 ** 3) / 4096);
  });

  test('left in the middle nothing comes of it, and the next one is whole', async () => {
    const baker = new Baker();
    let left = 3;
    expect(await baker.bakeInSlices(steps, 0, 33, undefined, async () => (left -= 1) > 0)).toBeUndefined();
    const others = [...steps, newStep('range', 'later', { exposure: 0.5 })];
    for (const wanted of [others, steps]) {
      const ops = await baker.bakeInSlices(wanted, 0, 33, undefined, () => Promise.resolve(true));
      expect(tableOf(ops)).toEqual(tableOf(new Baker().bake(wanted, 0, 33)));
    }
  });
});
