import { newStep, stepsSchema, type Step } from '@inkavo/core/model/grade';
import type { StepLists } from '@inkavo/core/model/lists';
import { addRegion, newShape, regionOf, removeRegion, setRegion } from './regions';
import {
  addCopies,
  findStep,
  moveToOwner,
  moveStep,
  ownedRegions,
  ownedSteps,
  putInPlace,
  resetClipSteps,
  takeSteps,
  withRegions,
} from './stepLists';

const VIEW = { x: 0, y: 0, width: 1 };
const lists = (clip: Step[]): StepLists => ({ camera: [], clip, outing: [], overrides: {} });
const start = lists([newStep('range', 'range'), newStep('saturation', 'saturation')]);
const made = addRegion(start, 'range', 'ellipse', VIEW, 16 / 9);

test('a new region lies before the steps, has a name of its own, and its step acts there', () => {
  expect(made.lists.clip.map((s) => s.kind)).toEqual(['region', 'range', 'saturation']);
  expect(findStep(made.lists, 'range')!.step.region).toBe(made.id);
  const second = addRegion(made.lists, 'saturation', 'ellipse', VIEW, 16 / 9);
  expect(
    ownedRegions(second.lists)
      .map((r) => r.step.label)
      .sort(),
  ).toEqual(['Ellipse', 'Ellipse 2']);
  expect(ownedSteps(second.lists).map((o) => o.step.kind)).toEqual(['range', 'saturation']);
  expect(() => stepsSchema.parse(second.lists.clip)).not.toThrow();
});

test('every start makes a region that the schema takes; a shape stands in what is shown', () => {
  for (const kind of ['ellipse', 'rectangle', 'path', 'gradient', 'colour', 'lightness'] as const)
    expect(() => stepsSchema.parse(addRegion(start, 'range', kind, VIEW, 1.5).lists.clip)).not.toThrow();
  const [{ x, width }] = newShape('ellipse', { x: 0.5, y: 0.5, width: 0.25 }, 16 / 9).keys;
  expect([x, width]).toEqual([0.625, 0.09]);
});

test('a region that goes leaves its steps everywhere', () => {
  const shared = setRegion(made.lists, 'saturation', made.id);
  const gone = removeRegion(shared, made.id);
  expect(gone.clip.map((s) => [s.kind, s.region])).toEqual([
    ['range', undefined],
    ['saturation', undefined],
  ]);
  expect(setRegion(shared, 'range', undefined).clip.find((s) => s.id === 'range')).not.toHaveProperty('region');
});

test('copies bring their region along, once', () => {
  const copies = withRegions([findStep(made.lists, 'range')!.step], made.lists.clip);
  expect(copies.map((s) => s.kind)).toEqual(['region', 'range']);
  const into = putInPlace([newStep('range', 'own')], copies);
  // Steps that act everywhere stay beside steps that act in one region.
  expect(into.steps.map((s) => s.kind)).toEqual(['region', 'range', 'range']);
  const region = into.steps.find((s) => s.kind === 'region')!;
  expect(into.steps.find((s) => s.id === into.ids[0])!.region).toBe(region.id);
  const again = addCopies(into.steps, copies);
  expect(again.steps.filter((s) => s.kind === 'region')).toHaveLength(1);
  expect(again.steps.find((s) => s.id === again.ids[0])!.region).toBe(region.id);
});

test('given to the camera, a step takes a copy of its region with it; the order of steps knows no regions', () => {
  const given = moveToOwner(made.lists, 'range', 'camera');
  expect(given.lists.camera.map((s) => s.kind)).toEqual(['region', 'range']);
  expect(given.lists.camera[1].region).toBe(given.lists.camera[0].id);
  expect(regionOf(given.lists.camera[0])).toEqual(regionOf(findStep(made.lists, made.id)!.step));
  expect(moveStep(made.lists, 'range', -1)).toBe(made.lists);
  expect(moveStep(made.lists, 'range', 1).clip.map((s) => s.kind)).toEqual(['region', 'saturation', 'range']);
});

test('a first pass leaves what acts in one place alone; everything neutral again means everywhere', () => {
  const taken = takeSteps(made.lists, [newStep('range', 'r', { exposure: 1 })]);
  expect(ownedSteps(taken.lists).filter((o) => o.step.kind === 'range')).toHaveLength(2);
  expect(findStep(taken.lists, 'range')!.step.params.exposure).toBe(0);
  expect(resetClipSteps(made.lists).clip.every((s) => s.kind !== 'region' && s.region === undefined)).toBe(true);
});
