import fc from 'fast-check';
import { newStep, type Step } from './grade';
import type { StepLists } from './lists';
import { mergeLists } from './merge';

const lists = (clip: Step[], rest: Partial<StepLists> = {}): StepLists => ({
  camera: [],
  clip,
  outing: [],
  overrides: {},
  ...rest,
});
const step = (id: string, black = 0): Step => newStep('range', id, { black });
const ids = (l: StepLists): string[] => l.clip.map((s) => s.id);

/** Lists of a few ids, each with one of a few values, in any order. */
const anyLists = fc
  .uniqueArray(fc.constantFrom('a', 'b', 'c', 'd', 'e'), { maxLength: 5 })
  .chain((chosen) =>
    fc.tuple(
      fc.shuffledSubarray(chosen, { minLength: chosen.length }),
      fc.array(fc.constantFrom(0, 0.1, 0.2), { minLength: 5, maxLength: 5 }),
    ),
  )
  .map(([order, values]) => lists(order.map((id, i) => step(id, values[i]))));

test('what only one side changed counts', () => {
  fc.assert(
    fc.property(anyLists, anyLists, (base, other) => {
      expect(mergeLists(base, other, base)).toEqual({ lists: other, clashes: [] });
      expect(mergeLists(base, base, other)).toEqual({ lists: other, clashes: [] });
      expect(mergeLists(base, other, other)).toEqual({ lists: other, clashes: [] });
    }),
  );
});

test('without a clash it does not matter who came first; a step is never there twice, none is lost that nobody removed', () => {
  fc.assert(
    fc.property(anyLists, anyLists, anyLists, (base, mine, theirs) => {
      const [one, other] = [mergeLists(base, mine, theirs), mergeLists(base, theirs, mine)];
      expect(new Set(ids(one.lists)).size).toBe(one.lists.clip.length);
      expect(one.clashes.length).toBe(other.clashes.length);
      if (one.clashes.length === 0) {
        const sorted = (l: StepLists) => l.clip.toSorted((a, b) => a.id.localeCompare(b.id));
        expect(sorted(one.lists)).toEqual(sorted(other.lists));
      }
      const kept = ids(base).filter((id) => ids(mine).includes(id) && ids(theirs).includes(id));
      const added = [...ids(mine), ...ids(theirs)].filter((id) => !ids(base).includes(id));
      expect(ids(one.lists)).toEqual(expect.arrayContaining([...kept, ...added]));
    }),
  );
});

test('changes of different steps are joined; an added one stands behind the one it was put behind', () => {
  const base = lists([step('a'), step('b')]);
  const mine = lists([step('a', 0.1), step('new'), step('b')]);
  const theirs = lists([step('a'), step('b', 0.2), step('last')]);
  const { lists: merged, clashes } = mergeLists(base, mine, theirs);
  expect(clashes).toEqual([]);
  expect(ids(merged)).toEqual(['a', 'new', 'b', 'last']);
  expect(merged.clip.map((s) => s.params.black)).toEqual([0.1, 0, 0.2, 0]);
});

test('the same step changed differently is a clash, and so is one that was removed and changed', () => {
  const base = lists([step('a'), step('b')]);
  const mine = lists([step('a', 0.1)]);
  const theirs = lists([step('a', 0.2), step('b', 0.3)]);
  const { clashes } = mergeLists(base, mine, theirs);
  expect(clashes).toMatchObject([
    { of: 'step', id: 'a', mine: { params: { black: 0.1 } }, theirs: { params: { black: 0.2 } } },
    { of: 'step', id: 'b', mine: null, theirs: { params: { black: 0.3 } } },
  ]);
  expect(ids(mergeLists(base, mine, theirs, 'mine').lists)).toEqual(['a']);
  expect(mergeLists(base, mine, theirs, 'theirs').lists).toEqual(theirs);
});

test('one side moves, the other changes: both; both move differently: asked', () => {
  const base = lists([step('a'), step('b'), step('c')]);
  const moved = lists([step('c'), step('a'), step('b')]);
  const changed = lists([step('a'), step('b', 0.4), step('c')]);
  expect(mergeLists(base, moved, changed)).toMatchObject({ clashes: [] });
  expect(ids(mergeLists(base, moved, changed).lists)).toEqual(['c', 'a', 'b']);
  expect(ids(mergeLists(base, changed, moved).lists)).toEqual(['c', 'a', 'b']);
  const otherwise = lists([step('b'), step('a'), step('c')]);
  expect(mergeLists(base, moved, otherwise).clashes).toEqual([{ of: 'order', owner: 'clip' }]);
});

test('overrides are joined by step, also under names that objects have by themselves', () => {
  const base = lists([], { overrides: { look: { strength: 0.5 } } });
  const mine = lists([], { overrides: { look: { strength: 0.5 }, constructor: { on: false } } });
  const theirs = lists([], { overrides: {} });
  expect(mergeLists(base, mine, theirs)).toEqual({
    lists: lists([], { overrides: { constructor: { on: false } } }),
    clashes: [],
  });
  const half = lists([], { overrides: { look: { strength: 0.2 } } });
  expect(mergeLists(base, half, theirs).clashes).toMatchObject([{ of: 'override', id: 'look', theirs: null }]);
});
