import { newStep, type Override, type Step } from '@inkavo/core/model/grade';
import { OWNERS, type Owner, type StepLists } from '@inkavo/core/model/lists';
import { isKeyframed } from '@inkavo/core/regions/keyframes';
import { STEP_KINDS, stepKind } from '@inkavo/core/steps';

export interface OwnedStep {
  owner: Owner;
  /** The step as its owner has it. */
  step: Step;
  /** What the clip changes about it. */
  here?: Override;
}

export const ownedSteps = (lists: StepLists): OwnedStep[] =>
  OWNERS.flatMap((owner) =>
    lists[owner].map((step) => ({ owner, step, ...(owner === 'clip' ? {} : { here: lists.overrides[step.id] }) })),
  );

export const findStep = (lists: StepLists, id: string | null): OwnedStep | undefined =>
  ownedSteps(lists).find((o) => o.step.id === id);

/** The lists with one step changed. */
export function changeStep(lists: StepLists, id: string, change: (step: Step) => Step): StepLists {
  const found = findStep(lists, id);
  if (!found) return lists;
  return { ...lists, [found.owner]: lists[found.owner].map((s) => (s.id === id ? change(s) : s)) };
}

export function removeStep(lists: StepLists, id: string): StepLists {
  const found = findStep(lists, id);
  return found ? { ...lists, [found.owner]: lists[found.owner].filter((s) => s.id !== id) } : lists;
}

/** An id that no other step of this clip has. (The browser's own unique ids need a secure connection.) */
const freshId = (kind: string): string => `${kind}-${Math.random().toString(36).slice(2, 10)}`;
const place = (kind: string): number => STEP_KINDS.findIndex((k) => k.kind === kind);

/** Puts a step where the working order wants it: behind the last one whose kind comes no later. */
function insert(steps: Step[], step: Step): Step[] {
  const at = steps.findLastIndex((s) => place(s.kind) <= place(step.kind)) + 1;
  return steps.toSpliced(at, 0, step);
}

/** Adds a neutral step to the clip. */
export function addStep(lists: StepLists, kind: string): { lists: StepLists; id: string } {
  const taken = ownedSteps(lists).some((o) => o.step.id === kind);
  const id = taken ? freshId(kind) : kind;
  return { lists: { ...lists, clip: insert(lists.clip, newStep(kind, id)) }, id };
}

const copyOf = (step: Step, id: string): Step => ({ ...(JSON.parse(JSON.stringify(step)) as Step), id });

/**
 * A clip's steps with copies of others: the n-th of a kind takes the place of the clip's n-th of that kind, and is added
 * where there is none. `ids`: the steps that now are copies, in the order of the copies.
 */
export function putInPlace(own: Step[], copies: readonly Step[]): { steps: Step[]; ids: string[] } {
  let steps = own;
  const ids: string[] = [];
  for (const copy of copies) {
    const there = steps.find((s) => s.kind === copy.kind && !ids.includes(s.id));
    const made = copyOf(copy, there?.id ?? freshId(copy.kind));
    steps = there ? steps.map((s) => (s === there ? made : s)) : insert(steps, made);
    ids.push(made.id);
  }
  return { steps, ids };
}

/** Puts copies of steps into the clip beside those that are there, where the working order wants them. */
export function addCopies(own: Step[], copies: readonly Step[]): { steps: Step[]; ids: string[] } {
  const made = copies.map((copy) => copyOf(copy, freshId(copy.kind)));
  return { steps: made.reduce(insert, own), ids: made.map((s) => s.id) };
}

/**
 * Takes the steps of a first pass into the clip: each sets the parameters of the clip's first step of its kind, or is
 * added where the working order wants it. `id`: the last one.
 */
export function takeSteps(lists: StepLists, steps: readonly Step[]): { lists: StepLists; id: string | undefined } {
  let { clip } = lists;
  let last: string | undefined;
  for (const step of steps) {
    const there = clip.find((s) => s.kind === step.kind);
    const params = JSON.parse(JSON.stringify(step.params)) as Step['params'];
    last = there?.id ?? freshId(step.kind);
    if (there) clip = clip.map((s) => (s === there ? { ...s, params, on: true, strength: 1 } : s));
    else clip = insert(clip, { ...step, params, id: last });
  }
  return { lists: { ...lists, clip }, id: last };
}

/** Puts a step of an owner at the place of another one of the same. */
export function placeStep(lists: StepLists, id: string, at: string): StepLists {
  const found = findStep(lists, id);
  const target = findStep(lists, at);
  if (!found || !target || found.owner !== target.owner || id === at) return lists;
  const steps = lists[found.owner];
  const [from, to] = [steps.findIndex((s) => s.id === id), steps.findIndex((s) => s.id === at)];
  return { ...lists, [found.owner]: steps.toSpliced(from, 1).toSpliced(to, 0, steps[from]) };
}

/** What the clip changes about an inherited step; nothing, when that is what it comes to. */
export function overrideStep(lists: StepLists, id: string, here: Override): StepLists {
  const others = Object.fromEntries(Object.entries(lists.overrides).filter(([key]) => key !== id));
  const idle = here.on !== false && (here.strength ?? 1) === 1;
  return { ...lists, overrides: idle ? others : { ...others, [id]: here } };
}

/**
 * Gives a step to the clip, the camera or the outing. Between camera and outing it keeps its id, so that what clips
 * change about it follows. A clip's own step gets a new one, since other clips have steps of the same id; a step that
 * comes to the clip takes with it what the clip had changed about it.
 */
export function giveStep(lists: StepLists, id: string, owner: Owner): { lists: StepLists; id: string } {
  const found = findStep(lists, id);
  if (!found || found.owner === owner) return { lists, id };
  const { [id]: here, ...others } = lists.overrides;
  const isShared = found.owner !== 'clip';
  const toClip = owner === 'clip';
  const step: Step = {
    ...found.step,
    id: isShared && !toClip ? id : freshId(found.step.kind),
    ...(toClip && here
      ? { on: found.step.on && here.on !== false, strength: found.step.strength * (here.strength ?? 1) }
      : {}),
  };
  const without = removeStep(lists, id);
  const overrides = toClip ? others : lists.overrides;
  return { lists: { ...without, overrides, [owner]: insert(without[owner], step) }, id: step.id };
}

/** Every step neutral, on and at full strength again; those of the camera and the outing are left alone. */
export const resetClipSteps = (lists: StepLists): StepLists => ({
  ...lists,
  clip: lists.clip.map((s) => newStep(s.kind, s.id)),
});

/** Moves a step one place earlier or later among those of its owner. */
export function moveStep(lists: StepLists, id: string, by: -1 | 1): StepLists {
  const found = findStep(lists, id);
  if (!found) return lists;
  const steps = lists[found.owner];
  const from = steps.findIndex((s) => s.id === id);
  const to = from + by;
  if (to < 0 || to >= steps.length) return lists;
  return { ...lists, [found.owner]: steps.toSpliced(from, 1).toSpliced(to, 0, steps[from]) };
}

/** Whether a step does nothing: off, without strength, or with neutral parameters. */
export function isIdle(step: Step): boolean {
  const kind = stepKind(step.kind);
  if (Object.values(step.params).some(isKeyframed)) return !step.on || step.strength === 0;
  return !step.on || step.strength === 0 || kind.isNeutral(kind.schema.parse(step.params));
}
