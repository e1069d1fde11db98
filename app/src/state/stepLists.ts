import equal from 'fast-deep-equal';
import { actsHere, hasNoEffect, detached, newStep, type Override, type Step } from '@inkavo/core/model/grade';
import { presentVersion } from '@inkavo/core/model/upgrade';
import { joined, OWNERS, type Owner, type StepLists } from '@inkavo/core/model/lists';
import type { Profile } from '@inkavo/core/model/profile';
import type { ShelfLut } from '@inkavo/core/model/shelf';
import { REGION } from '@inkavo/core/regions/region';
import { STEP_KINDS } from '@inkavo/core/steps';

export interface OwnedStep {
  owner: Owner;
  /** The owner's step; a detached one has this clip's parameters. */
  step: Step;
  /** The clip's override of it. */
  here?: Override;
}

/** Everything in the lists: steps, and regions. */
const allOf = (lists: StepLists): OwnedStep[] =>
  OWNERS.flatMap((owner) =>
    lists[owner].map((step) => {
      if (owner === 'clip') return { owner, step };
      const here = lists.overrides[step.id];
      return { owner, step: detached(step, here), here };
    }),
  );

const isRegion = ({ kind }: Step): boolean => kind === REGION;

export const ownedSteps = (lists: StepLists): OwnedStep[] => allOf(lists).filter((o) => !isRegion(o.step));
export const ownedRegions = (lists: StepLists): OwnedStep[] => allOf(lists).filter((o) => isRegion(o.step));

/** A step or a region by its id. */
export const findStep = (lists: StepLists, id: string | null): OwnedStep | undefined =>
  allOf(lists).find((o) => o.step.id === id);

/** A changed step; a first pass's step becomes the user's own once its effect changes. Name and switch do not count. */
function ownOnceChanged(step: Step, made: Step): Step {
  const work = ({ params, strength, region, matte }: Step): unknown[] => [params, strength, region, matte];
  if (!made.proposed || equal(work(made), work(step))) return made;
  const own = { ...made };
  delete own.proposed;
  return own;
}

/** The lists with one step changed. */
export function changeStep(lists: StepLists, id: string, change: (step: Step) => Step): StepLists {
  const found = findStep(lists, id);
  if (!found) return lists;
  const { owner, step, here } = found;
  const made = ownOnceChanged(step, change(step));
  if (!here?.params) return { ...lists, [owner]: lists[owner].map((s) => (s.id === id ? made : s)) };
  // Its parameters are this clip's own; everything else is still the owner's.
  const { params } = lists[owner].find((s) => s.id === id)!;
  const others = { ...made, params };
  return {
    ...lists,
    overrides: { ...lists.overrides, [id]: { ...here, params: made.params } },
    [owner]: equal(others, { ...step, params }) ? lists[owner] : lists[owner].map((s) => (s.id === id ? others : s)),
  };
}

export function removeStep(lists: StepLists, id: string): StepLists {
  const found = findStep(lists, id);
  return found ? { ...lists, [found.owner]: lists[found.owner].filter((s) => s.id !== id) } : lists;
}

/** A unique id for a step of this clip. (The browser's own unique ids need a secure connection.) */
export const freshId = (kind: string): string => `${kind}-${Math.random().toString(36).slice(2, 10)}`;
const place = (kind: string): number => STEP_KINDS.findIndex((k) => k.kind === kind);

/** Inserts a step in working order: after the last one whose kind is not later. Regions come first. */
export function insert(steps: Step[], step: Step): Step[] {
  const at = steps.findLastIndex((s) => place(s.kind) <= place(step.kind)) + 1;
  return steps.toSpliced(at, 0, step);
}

/** Adds a neutral step to the clip. */
export function addStep(lists: StepLists, kind: string): { lists: StepLists; id: string } {
  const taken = ownedSteps(lists).some((o) => o.step.id === kind);
  const id = taken ? freshId(kind) : kind;
  return { lists: { ...lists, clip: insert(lists.clip, newStep(kind, id)) }, id };
}

/** A copy with a new id: counts as added by the user, whatever its source. */
function copyOf(step: Step, id: string): Step {
  const copy = { ...(JSON.parse(JSON.stringify(step)) as Step), id };
  delete copy.proposed;
  return copy;
}

/** Steps along with the regions that they refer to, so that they are self-contained. */
export function withRegions(steps: readonly Step[], all: readonly Step[]): Step[] {
  const named = new Set(steps.map((s) => s.region));
  return [...all.filter((s) => isRegion(s) && named.has(s.id) && !steps.includes(s)), ...steps];
}

/**
 * Inserts copies of regions for copied steps into a list; an existing identical region is reused. `renamed` maps old
 * ids to new ones.
 */
function takeRegions(own: Step[], copies: readonly Step[]): { steps: Step[]; renamed: Map<string, string> } {
  const renamed = new Map<string, string>();
  let steps = own;
  for (const copy of copies.filter(isRegion)) {
    const text = JSON.stringify(copy.params);
    const there = steps.find((s) => isRegion(s) && s.label === copy.label && JSON.stringify(s.params) === text);
    const id = there?.id ?? freshId(REGION);
    if (!there) steps = insert(steps, copyOf(copy, id));
    renamed.set(copy.id, id);
  }
  return { steps, renamed };
}

/** A copied step referring to its copied region; if the region is missing it acts nowhere there. */
const inRegion = (step: Step, renamed: ReadonlyMap<string, string>): Step =>
  step.region === undefined ? step : { ...step, region: renamed.get(step.region) ?? step.region };

/**
 * A clip's steps with copies of others: the n-th of a kind replaces the clip's n-th of that kind, and is added if there
 * is none. `ids`: of the resulting copies, in their order.
 */
export function putInPlace(own: Step[], copies: readonly Step[]): { steps: Step[]; ids: string[] } {
  const taken = takeRegions(own, copies);
  let { steps } = taken;
  const ids: string[] = [];
  // A step in a region does not replace one that acts everywhere.
  const alike = (a: Step, b: Step): boolean =>
    a.kind === b.kind && (a.region === undefined) === (b.region === undefined);
  for (const copy of copies.filter((s) => !isRegion(s))) {
    const there = steps.find((s) => alike(s, copy) && !ids.includes(s.id));
    const made = inRegion(copyOf(copy, there?.id ?? freshId(copy.kind)), taken.renamed);
    steps = there ? steps.map((s) => (s === there ? made : s)) : insert(steps, made);
    ids.push(made.id);
  }
  return { steps, ids };
}

/** Inserts copies of steps into the clip in working order, beside existing ones. */
export function addCopies(own: Step[], copies: readonly Step[]): { steps: Step[]; ids: string[] } {
  const taken = takeRegions(own, copies);
  const made = copies
    .filter((s) => !isRegion(s))
    .map((copy) => inRegion(copyOf(copy, freshId(copy.kind)), taken.renamed));
  return { steps: made.reduce(insert, taken.steps), ids: made.map((s) => s.id) };
}

/** Step kinds of a first pass, other than conversions, which it takes into account. */
const CORRECTED: readonly string[] = ['water', 'haze', 'balance', 'range', 'saturation'];

const takesPlaceOf = (clip: readonly Step[], { kind }: Step): Step | undefined =>
  clip.find((s) => s.kind === kind && s.region === undefined);

/**
 * Steps of any owner that correct the whole picture of this clip and would act in addition to those of a first pass,
 * which was made without them.
 */
export function stepsBeside(lists: StepLists, offered: readonly Step[]): OwnedStep[] {
  const replaced = offered.map((s) => takesPlaceOf(lists.clip, s));
  const isWhole = (s: Step): boolean => s.region === undefined && s.matte === undefined;
  const acts = ({ owner, step, here }: OwnedStep): boolean =>
    !hasNoEffect(step) && (owner === 'clip' || (actsHere(step, here) && here?.strength !== 0));
  return ownedSteps(lists).filter(
    (one) => CORRECTED.includes(one.step.kind) && isWhole(one.step) && acts(one) && !replaced.includes(one.step),
  );
}

/** Kinds of a first pass's main correction, which is in hand after taking it; the most specific first. */
const MAIN_KINDS = ['water', 'haze', 'convert', 'balance'];

/**
 * Takes the steps of a first pass into the clip: each sets parameters and strength of the clip's first step of its
 * kind, or is added in working order. `off`: ids of steps to switch off, in this clip only. `id`: the main correction.
 */
export function takeSteps(
  lists: StepLists,
  steps: readonly Step[],
  off: readonly string[] = [],
): { lists: StepLists; id: string | undefined } {
  let { clip } = lists;
  const ids = new Map<string, string>();
  for (const step of steps) {
    const there = takesPlaceOf(clip, step);
    const id = there?.id ?? freshId(step.kind);
    ids.set(step.kind, id);
    const { params, strength } = copyOf(step, id);
    const made = { params, strength, on: true, proposed: true };
    if (there) clip = clip.map((s) => (s === there ? { ...s, ...made } : s));
    else clip = insert(clip, { ...step, ...made, id });
  }
  clip = clip.map((s) => (off.includes(s.id) ? { ...s, on: false } : s));
  const inherited = off.filter((id) => !clip.some((s) => s.id === id));
  const taken = { ...lists, clip };
  return {
    lists: inherited.reduce((to, id) => overrideStep(to, id, { ...to.overrides[id], on: false }), taken),
    id: ids.get(MAIN_KINDS.find((kind) => ids.has(kind)) ?? '') ?? [...ids.values()].at(-1),
  };
}

const MATCH = 'match-';

/** All steps applied before those of an earlier match; outing steps come after. */
export const beforeMatch = (lists: StepLists): Step[] =>
  joined({ ...lists, clip: lists.clip.filter((s) => !s.id.startsWith(MATCH)), outing: [] });

/** A clip's own steps followed by those of a match, replacing an earlier match. */
export const withMatch = (clip: readonly Step[], steps: readonly Step[]): Step[] => [
  ...clip.filter((s) => !s.id.startsWith(MATCH)),
  ...steps.map((s) => ({ ...s, id: freshId(`${MATCH}${s.kind}`) })),
];

/**
 * Adds a LUT step with a table to the clip: a technical one before all other steps of the clip, since its input is the
 * recording; a look after them.
 */
export function addLut(
  lists: StepLists,
  { id: lut, title, role }: Pick<ShelfLut, 'id' | 'title' | 'role'>,
): { lists: StepLists; id: string } {
  const step = newStep('lut', freshId('lut'), { lut, title });
  const clip = role === 'technical' ? [step, ...lists.clip] : [...lists.clip, step];
  return { lists: { ...lists, clip }, id: step.id };
}

/** Sets the profile of the first convert step of any owner; adds one to the clip if there is none. */
export function setProfile(lists: StepLists, profile: Profile): { lists: StepLists; id: string } {
  const there = ownedSteps(lists).find((o) => o.step.kind === 'convert' && o.step.region === undefined);
  const { lists: to, id } = there ? { lists, id: there.step.id } : addStep(lists, 'convert');
  return { lists: changeStep(to, id, (s) => ({ ...s, on: true, params: { ...s.params, profile } })), id };
}

/** Moves a step of an owner to the position of another one. */
export function placeStep(lists: StepLists, id: string, at: string): StepLists {
  const found = findStep(lists, id);
  const target = findStep(lists, at);
  if (!found || !target || found.owner !== target.owner || id === at) return lists;
  const steps = lists[found.owner];
  const [from, to] = [steps.findIndex((s) => s.id === id), steps.findIndex((s) => s.id === at)];
  return { ...lists, [found.owner]: steps.toSpliced(from, 1).toSpliced(to, 0, steps[from]) };
}

/** The clip's override of an inherited step; undefined if it has no effect. */
export function overrideStep(lists: StepLists, id: string, here: Override): StepLists {
  const others = Object.fromEntries(Object.entries(lists.overrides).filter(([key]) => key !== id));
  // For a limited step, enabling it is the clip's override.
  const limited = OWNERS.some((owner) => lists[owner].some((s) => s.id === id && s.limited));
  const idle = (limited ? !here.on : here.on !== false) && (here.strength ?? 1) === 1 && !here.params;
  return { ...lists, overrides: idle ? others : { ...others, [id]: here } };
}

/**
 * Detaches an inherited step in this clip: it keeps its place, and its parameters are this clip's own from now on.
 * `was`: the owner's step is reset to this, if it was just changed.
 */
export function detachStep(lists: StepLists, id: string, was?: Step): StepLists {
  const found = findStep(lists, id);
  if (!found || found.owner === 'clip') return lists;
  const { owner, step, here } = found;
  const version = presentVersion(step.kind);
  const loose = { ...here, params: step.params, ...(version > 1 ? { version } : {}) };
  return {
    ...lists,
    overrides: { ...lists.overrides, [id]: loose },
    ...(was ? { [owner]: lists[owner].map((s) => (s.id === id ? was : s)) } : {}),
  };
}

/** Reattaches a detached step to its owner. */
export function reattachStep(lists: StepLists, id: string): StepLists {
  const here = { ...lists.overrides[id] };
  delete here.params;
  delete here.version;
  return overrideStep(lists, id, here);
}

/**
 * Moves a step to the clip, the camera or the outing. Between camera and outing it keeps its id, so that overrides
 * still apply. A clip's own step gets a new id, since other clips may have steps with the same one; a step moved to the
 * clip includes the clip's override.
 */
export function moveToOwner(lists: StepLists, id: string, owner: Owner): { lists: StepLists; id: string } {
  const found = findStep(lists, id);
  if (!found || found.owner === owner) return { lists, id };
  const { [id]: here, ...others } = lists.overrides;
  const isShared = found.owner !== 'clip';
  const toClip = owner === 'clip';
  // Parameters detached here do not affect other clips.
  const own = toClip ? found.step : lists[found.owner].find((s) => s.id === id)!;
  const step: Step = {
    ...own,
    id: isShared && !toClip ? id : freshId(found.step.kind),
    ...(toClip && here ? { on: actsHere(found.step, here), strength: found.step.strength * (here.strength ?? 1) } : {}),
  };
  // A clip's own step, or one moved to an owner with other clips, is no longer limited.
  delete step.limited;
  const without = removeStep(lists, id);
  const overrides = toClip ? others : lists.overrides;
  // Its region is copied; other steps keep the original.
  const { steps, renamed } = takeRegions(without[owner], withRegions([step], lists[found.owner]));
  return { lists: { ...without, overrides, [owner]: insert(steps, inRegion(step, renamed)) }, id: step.id };
}

/**
 * Resets every step: neutral, on, everywhere and at full strength; those of the camera and the outing are unchanged.
 */
export const resetClipSteps = (lists: StepLists): StepLists => ({
  ...lists,
  clip: lists.clip.filter((s) => !isRegion(s)).map((s) => newStep(s.kind, s.id)),
});

/** Moves a step one place earlier or later within its owner. */
export function moveStep(lists: StepLists, id: string, by: -1 | 1): StepLists {
  const found = findStep(lists, id);
  if (!found) return lists;
  const steps = lists[found.owner];
  const from = steps.findIndex((s) => s.id === id);
  const to =
    by < 0
      ? steps.findLastIndex((s, i) => i < from && !isRegion(s))
      : steps.findIndex((s, i) => i > from && !isRegion(s));
  if (to < 0) return lists;
  return { ...lists, [found.owner]: steps.toSpliced(from, 1).toSpliced(to, 0, steps[from]) };
}
