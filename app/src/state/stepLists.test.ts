import { hasNoEffect, newStep, type Step } from '@inkavo/core/model/grade';
import { joined, type StepLists } from '@inkavo/core/model/lists';
import {
  addCopies,
  addStep,
  changeStep,
  findStep,
  moveToOwner,
  detachStep,
  moveStep,
  overrideStep,
  putInPlace,
  placeStep,
  removeStep,
  resetClipSteps,
  stepsBeside,
  takeSteps,
  reattachStep,
} from './stepLists';

const lists: StepLists = {
  camera: [newStep('convert', 'cam')],
  clip: [
    newStep('balance', 'balance'),
    newStep('range', 'range', { black: -0.1 }),
    newStep('saturation', 'saturation'),
  ],
  outing: [newStep('saturation', 'look', { amount: 1.1 })],
  overrides: {},
};
const ids = (l: StepLists): string[] => joined(l).map((s) => s.id);

test('a frame passes camera, clip and outing steps in this order', () => {
  expect(ids(lists)).toEqual(['cam', 'balance', 'range', 'saturation', 'look']);
  expect(findStep(lists, 'look')?.owner).toBe('outing');
});

test('a new step stands where the working order wants it, with an id of its own', () => {
  const added = addStep(lists, 'balance');
  expect(ids(added.lists)).toEqual(['cam', 'balance', added.id, 'range', 'saturation', 'look']);
  expect(added.id).not.toBe('balance');
});

test('a step given to the camera keeps what it does and leaves the clip', () => {
  const given = moveToOwner(lists, 'range', 'camera');
  expect(given.lists.clip.map((s) => s.id)).toEqual(['balance', 'saturation']);
  expect(findStep(given.lists, given.id)).toMatchObject({ owner: 'camera', step: { params: { black: -0.1 } } });
  expect(moveToOwner(lists, 'range', 'clip')).toEqual({ lists, id: 'range' });
});

test('changed, moved within its owner, removed; lists that did not change stay the same object', () => {
  const changed = changeStep(lists, 'range', (s) => ({ ...s, on: false }));
  expect(findStep(changed, 'range')?.step.on).toBe(false);
  expect(changed.camera).toBe(lists.camera);
  expect(ids(moveStep(lists, 'range', -1))).toEqual(['cam', 'range', 'balance', 'saturation', 'look']);
  expect(moveStep(lists, 'cam', -1)).toBe(lists);
  expect(ids(removeStep(lists, 'cam'))).not.toContain('cam');
  expect(removeStep(lists, 'none')).toBe(lists);
});

test('resetting a clip leaves the steps of camera and outing alone', () => {
  const reset = resetClipSteps(lists);
  expect(reset.clip.every(hasNoEffect)).toBe(true);
  expect(reset.outing).toBe(lists.outing);
});

test('idle: off, without strength, or neutral', () => {
  const working = lists.clip[1];
  expect(
    [working, { ...working, on: false }, { ...working, strength: 0 }, newStep('range', 'x')].map(hasNoEffect),
  ).toEqual([false, true, true, true]);
});

test('a clip switches an inherited step off, or weakens it, for itself alone', () => {
  const off = overrideStep(lists, 'look', { on: false });
  expect(joined(off).find((s) => s.id === 'look')!.on).toBe(false);
  expect(off.outing).toBe(lists.outing);
  const half = overrideStep(off, 'look', { strength: 0.5 });
  expect(joined(half).find((s) => s.id === 'look')).toMatchObject({ on: true, strength: 0.5 });
  expect(overrideStep(half, 'look', { on: true, strength: 1 }).overrides).toEqual({});
});

test('a step comes loose from its owner for one clip, in its place; changed there it changes nobody else, and it can be tied again', () => {
  const amount = (l: StepLists): unknown => joined(l).find((s) => s.id === 'look')!.params.amount;
  const loose = changeStep(detachStep(lists, 'look'), 'look', (s) => ({ ...s, params: { ...s.params, amount: 0.4 } }));
  expect([amount(loose), loose.outing]).toEqual([0.4, lists.outing]);
  expect(ids(loose)).toEqual(ids(lists));
  expect(findStep(loose, 'look')!.step.params.amount).toBe(0.4);
  // On, off and strength still belong to its owner.
  const off = changeStep(loose, 'look', (s) => ({ ...s, on: false }));
  expect(off.outing[0]).toMatchObject({ on: false, params: { amount: 1.1 } });
  expect(off.overrides.look.params).toMatchObject({ amount: 0.4 });
  // A change made for all clips is undone when it is made for one.
  const forAll = changeStep(lists, 'look', (s) => ({ ...s, params: { ...s.params, amount: 0.7 } }));
  const onlyHere = detachStep(forAll, 'look', lists.outing[0]);
  expect([amount(onlyHere), onlyHere.outing[0].params.amount]).toEqual([0.7, 1.1]);
  expect(reattachStep(onlyHere, 'look')).toEqual(lists);
  const weaker = overrideStep(onlyHere, 'look', { ...onlyHere.overrides.look, strength: 0.5 });
  expect(reattachStep(weaker, 'look').overrides).toEqual({ look: { strength: 0.5 } });
  // Moved to the camera it takes the owner's values; moved to this clip, those that apply here.
  expect(moveToOwner(loose, 'look', 'camera').lists.camera.find((s) => s.id === 'look')!.params.amount).toBe(1.1);
  const mine = moveToOwner(loose, 'look', 'clip');
  expect(findStep(mine.lists, mine.id)!.step.params.amount).toBe(0.4);
});

test('a copy is pasted where the working order wants it, with an id of its own; nothing is shared with what was copied', () => {
  const { steps, ids } = addCopies(lists.clip, [lists.clip[1]]);
  expect(steps.map((s) => s.kind)).toEqual(['balance', 'range', 'range', 'saturation']);
  const copy = steps.find((s) => s.id === ids[0])!;
  expect(copy.id).not.toBe('range');
  expect(copy.params).toEqual(lists.clip[1].params);
  expect(copy.params).not.toBe(lists.clip[1].params);
});

test('copies take the place of steps of their kind, the second of a kind that of the second, and the rest is added', () => {
  const [a, b] = [newStep('range', 'x', { black: -0.2 }), newStep('range', 'y', { black: -0.3 })];
  const { steps, ids } = putInPlace(lists.clip, [a, b, newStep('haze', 'z')]);
  expect(steps.filter((s) => s.kind === 'range').map((s) => s.params.black)).toEqual([-0.2, -0.3]);
  expect(ids[0]).toBe('range');
  expect(ids[1]).not.toBe('y');
  expect(steps.map((s) => s.kind)).toEqual(['haze', 'balance', 'range', 'range', 'saturation']);
  expect(steps.find((s) => s.kind === 'balance')).toBe(lists.clip[0]);
});

test('a step dragged to the place of another stands there; never among those of another owner', () => {
  expect(placeStep(lists, 'saturation', 'balance').clip.map((s) => s.id)).toEqual(['saturation', 'balance', 'range']);
  expect(placeStep(lists, 'balance', 'saturation').clip.map((s) => s.id)).toEqual(['range', 'saturation', 'balance']);
  expect(placeStep(lists, 'balance', 'look')).toBe(lists);
  expect(placeStep(lists, 'balance', 'balance')).toBe(lists);
});

test('the steps of a first pass set what lies ready, or are added where the working order wants them', () => {
  const proposed = [newStep('water', 'first-water', { depth: 7 }), newStep('range', 'first-range', { exposure: 0.4 })];
  const taken = takeSteps(lists, proposed);
  expect(taken.lists.clip.map((s) => s.kind)).toEqual(['water', 'balance', 'range', 'saturation']);
  expect(findStep(taken.lists, 'range')!.step.params).toMatchObject({ exposure: 0.4, black: 0 });
  expect(taken.id).toBe(taken.lists.clip[0].id);
  const weak = takeSteps(taken.lists, [{ ...newStep('range', 'first-range', { exposure: 0.4 }), strength: 0.7 }]);
  expect(findStep(weak.lists, 'range')!.step.strength).toBe(0.7);
  expect(taken.lists.camera).toBe(lists.camera);
  expect(takeSteps(lists, []).id).toBeUndefined();
});

test('steps that go on acting beside those of a first pass are found, and switched off where that is wanted', () => {
  const acting = [
    newStep('balance', 'b', { kelvin: 4000 }),
    newStep('range', 'r', { exposure: 0.5 }),
    newStep('range', 'r2', { black: -0.1 }),
    newStep('curves', 'look'),
    newStep('saturation', 'neutral'),
    { ...newStep('saturation', 'sky', { amount: 1.5 }), region: 'above' },
    { ...newStep('haze', 'off', { amount: 0.5 }), on: false },
  ];
  const own = { ...lists, clip: acting, outing: [] };
  const offered = [newStep('range', 'first-range', { exposure: -0.2 })];
  expect(stepsBeside(own, offered).map((s) => s.step.id)).toEqual(['b', 'r2']);
  expect(stepsBeside(own, []).map((s) => s.step.id)).toEqual(['b', 'r', 'r2']);
  const taken = takeSteps(own, offered, ['b']).lists.clip;
  expect(taken.map((s) => s.on)).toEqual([false, true, true, true, true, true, false]);
  expect(taken[0].params).toEqual(acting[0].params);
});

test('what camera and outing have acts beside a first pass too, and is switched off in this clip alone', () => {
  const own: StepLists = {
    camera: [newStep('water', 'w', { depth: 5 }), newStep('convert', 'c')],
    clip: [],
    outing: [newStep('saturation', 'warm', { amount: 1.2 }), newStep('range', 'gone', { exposure: 1 })],
    overrides: { gone: { on: false }, w: { strength: 0.5 } },
  };
  const offered = [newStep('saturation', 'first-saturation', { amount: 1.1 })];
  expect(stepsBeside(own, offered).map(({ owner, step }) => [owner, step.id])).toEqual([
    ['camera', 'w'],
    ['outing', 'warm'],
  ]);
  const taken = takeSteps(own, offered, ['w']).lists;
  expect(taken.overrides).toEqual({ gone: { on: false }, w: { on: false, strength: 0.5 } });
  expect(taken.camera).toBe(own.camera);
  expect(joined(taken).map((s) => s.on)).toEqual([false, true, true, true, false]);
});

test('a step of a first pass stays known as one until it does something else', () => {
  const { lists: taken, id } = takeSteps(lists, [newStep('range', 'first-range', { exposure: 0.4 })]);
  const step = (of: StepLists): Step => findStep(of, id!)!.step;
  expect(step(taken).proposed).toBe(true);
  const renamed = changeStep(taken, id!, (s) => ({ ...s, label: 'Lift', on: false }));
  expect(step(renamed).proposed).toBe(true);
  expect(step(changeStep(taken, id!, (s) => ({ ...s, params: { ...s.params, exposure: 0.5 } })))).not.toHaveProperty(
    'proposed',
  );
  expect(step(changeStep(taken, id!, (s) => ({ ...s, strength: 0.5 })))).not.toHaveProperty('proposed');
  // A step copied to another clip counts as the user's own.
  const { steps, ids } = putInPlace(lists.clip, [step(taken)]);
  expect(steps.find((s) => s.id === ids[0])).not.toHaveProperty('proposed');
});

test('a step whose number changes over the clip is not idle, whatever it is at the start', () => {
  const keys = {
    keys: [
      { seconds: 0, value: 0 },
      { seconds: 3, value: 0.2 },
    ],
  };
  expect(hasNoEffect({ ...newStep('range', 'r'), params: { black: keys } })).toBe(false);
  expect(hasNoEffect({ ...newStep('range', 'r'), on: false, params: { black: keys } })).toBe(true);
});

test('what a clip changes about an inherited step follows when the step changes its owner', () => {
  const start: StepLists = {
    camera: [newStep('saturation', 'shared')],
    clip: [],
    outing: [],
    overrides: { shared: { strength: 0.5 } },
  };
  const toOuting = moveToOwner(start, 'shared', 'outing');
  expect(toOuting.id).toBe('shared');
  expect(joined(toOuting.lists)).toMatchObject([{ id: 'shared', strength: 0.5 }]);
  const toClip = moveToOwner(toOuting.lists, 'shared', 'clip');
  expect(joined(toClip.lists)).toMatchObject([{ kind: 'saturation', strength: 0.5 }]);
  expect(toClip.lists.overrides).toEqual({});
  const left: StepLists = { ...start, overrides: { shared: { on: false } } };
  expect(joined(moveToOwner(left, 'shared', 'clip').lists)).toMatchObject([{ on: false }]);
});
