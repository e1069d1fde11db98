import { newStep, type Step } from '@inkavo/core/model/grade';
import type { ClipOpened } from '../api/client';
import { shownLists, useBench } from './bench';
import { takeSteps as withSteps } from './stepLists';

const clip = (steps: Step[]) =>
  ({
    clip: { id: 'c', steps, overrides: {}, referenceFrame: 0, facts: { frameRate: { num: 30, den: 1 } } },
    camera: { steps: [] },
    outing: { steps: [] },
  }) as unknown as ClipOpened;
const params = (): Record<string, unknown> => useBench.getState().lists.clip[0].params;

test('a number that changes over the clip takes a key where the playhead stands; others stay plain', () => {
  const keys = { keys: [{ seconds: 0, value: 0, ease: 'smooth' as const }] };
  useBench.getState().open(clip([{ ...newStep('range', 'r'), params: { black: keys, white: 0 } }]));
  useBench.getState().set({ frame: 60 });
  useBench.getState().setParams('r', { black: -0.1, white: 0.2 });
  expect(params()).toEqual({
    black: { keys: [keys.keys[0], { seconds: 2, value: -0.1, ease: 'smooth' }] },
    white: 0.2,
  });
  // Live changes during a drag make one key, and one entry to undo.
  useBench.getState().setParams('r', { black: -0.2 }, true);
  useBench.getState().setParams('r', { black: -0.3 }, true);
  useBench.getState().settle();
  expect((params().black as typeof keys).keys.map((k) => k.value)).toEqual([0, -0.3]);
  useBench.temporal.getState().undo();
  expect((params().black as typeof keys).keys.map((k) => k.value)).toEqual([0, -0.1]);
  useBench.getState().setParam('r', 'black', 0.05);
  expect(params().black).toBe(0.05);
});

test('steps of a first pass come as one change', () => {
  useBench.getState().open(clip([newStep('range', 'range')]));
  useBench.getState().takeSteps([newStep('haze', 'h', { amount: 0.5 }), newStep('range', 'x', { exposure: 1 })]);
  expect(useBench.getState().lists.clip.map((s) => s.kind)).toEqual(['haze', 'range']);
  useBench.temporal.getState().undo();
  expect(useBench.getState().lists.clip).toHaveLength(1);
});

test('steps that are offered are shown until they are taken or left; they are neither kept nor undone', () => {
  const kinds = (): string[] => shownLists(useBench.getState()).clip.map((s) => s.kind);
  const { open, offerLists, takeSteps } = useBench.getState();
  open(clip([newStep('range', 'range')]));
  const kept = useBench.getState().lists;
  const offer = [newStep('haze', 'h', { amount: 0.5 })];
  const lists = withSteps(kept, offer).lists;
  offerLists(lists);
  expect(kinds()).toEqual(['haze', 'range']);
  offerLists(lists, true);
  expect(kinds()).toEqual(['range']);
  offerLists(null);
  expect(kinds()).toEqual(['range']);
  expect(useBench.getState().lists).toBe(kept);
  expect(useBench.temporal.getState().pastStates).toHaveLength(0);
  offerLists(lists);
  takeSteps(offer);
  expect(kinds()).toEqual(['haze', 'range']);
  expect(useBench.temporal.getState().pastStates).toHaveLength(1);
  // Another clip is not shown with them.
  offerLists({ ...kept, clip: [newStep('saturation', 's', { amount: 1.5 })] });
  open(clip([newStep('range', 'range')]));
  expect(kinds()).toEqual(['range']);
});
