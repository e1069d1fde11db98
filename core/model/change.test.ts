import { randomFrom } from '../random';
import { changeOf, changeSchema, sidesOf, stepSides, wholeSides } from './change';
import { newStep, type Step } from './grade';
import type { StepLists } from './lists';
import { mergeLists } from './merge';

const KINDS = ['range', 'saturation', 'balance'];
const listsOf = (clip: Step[]): StepLists => ({ camera: [newStep('convert', 'own')], clip, outing: [], overrides: {} });

/** A list with some steps changed, removed, added and moved. */
function edited(steps: readonly Step[], random: () => number, added: string): Step[] {
  const next = steps.flatMap((step) => {
    const r = random();
    return r < 0.15 ? [] : r < 0.4 ? [{ ...step, strength: Math.round(100 * random()) / 100 }] : [step];
  });
  const place = (): number => Math.floor(random() * (next.length + 1));
  if (random() < 0.5) next.splice(place(), 0, newStep(KINDS[Math.floor(random() * KINDS.length)], added));
  if (random() < 0.4 && next.length > 1) next.splice(place(), 0, ...next.splice(Math.floor(random() * next.length), 1));
  return next;
}

test('a change without the steps that it leaves as they are joins with others as the whole one does', () => {
  const random = randomFrom(41);
  let clashing = 0;
  for (let round = 0; round < 400; round += 1) {
    const base = Array.from({ length: 1 + Math.floor(random() * 6) }, (_, i) => newStep(KINDS[i % 3], `s${i}`));
    const [mine, theirs] = ['mine', 'theirs'].map((added) => listsOf(edited(base, random, added)));
    const change = changeOf('change-1', listsOf(base), mine);
    const sides = sidesOf(change && changeSchema.parse(JSON.parse(JSON.stringify(change))), theirs);
    const whole = mergeLists(listsOf(base), mine, theirs);
    const merged = mergeLists(sides.base, sides.next, theirs);
    // The position of a step that was removed elsewhere no longer means anything: only the relative order may differ.
    const content = ({ lists, clashes }: typeof merged) => [
      [...lists.clip].sort((a, b) => a.id.localeCompare(b.id)),
      clashes.filter((c) => c.of === 'step'),
    ];
    const gone = base.some(({ id }) => !theirs.clip.some((s) => s.id === id));
    if (gone) expect(content(merged)).toEqual(content(whole));
    else expect(merged).toEqual(whole);
    clashing += Number(!gone && whole.clashes.length > 0);
    // Without changes from elsewhere, it is what was made.
    expect(sidesOf(change, listsOf(base)).next).toEqual(mine);
  }
  expect(clashing).toBeGreaterThan(30);
});

test('one that follows something is not sent with a change of another step', () => {
  const keys = Array.from({ length: 3000 }, (_, i) => ({ seconds: i / 30, x: 0.3, y: 0.3 + i / 1e5 }));
  const region = newStep('region', 'boat', { shapes: [{ id: 'e', kind: 'ellipse', keys }] });
  const [before, after] = [1, 1.2].map((amount) => listsOf([region, newStep('saturation', 's', { amount })]));
  const change = changeOf('change-1', before, after)!;
  expect(JSON.stringify(change).length).toBeLessThan(1000);
  expect(sidesOf(change, before)).toEqual({ base: before, next: after });
  expect(changeOf('change-1', before, { ...before, clip: [...before.clip] })).toBeUndefined();
});

test('whole lists, as devices sent them once, are taken too; an order that does not fit is refused', () => {
  const [range, saturation] = [newStep('range', 'r'), newStep('saturation', 's')];
  expect(wholeSides({ base: [range], next: [] }, [range, saturation])).toEqual({ base: [range], next: [] });
  const { base, next, order } = stepSides([range, saturation], [saturation, { ...range, on: false }]);
  const check = (clip: unknown) => changeSchema.safeParse({ id: 'change-1', clip }).error?.issues[0].message;
  expect(check({ base, next, order })).toBeUndefined();
  expect(check({ base, next, order: { base: ['r', 's'], next: ['s'] } })).toBe('The order lacks a step.');
  expect(check({ base, next, order: { base: ['r', 'r'], next: ['r'] } })).toBe('A step is named twice.');
});
