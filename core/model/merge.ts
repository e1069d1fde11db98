import equal from 'fast-deep-equal';
import { z } from 'zod';
import { overrideSchema, stepSchema, type Override, type Step } from './grade';
import { OWNERS, type Owner, type StepLists } from './lists';

/**
 * A conflict: both sides changed the same step of an owner (null: removed), the same override, or the order of an
 * owner's steps.
 */
export const clashSchema = z.discriminatedUnion('of', [
  z.object({
    of: z.literal('step'),
    owner: z.enum(OWNERS),
    id: z.string(),
    mine: stepSchema.nullable(),
    theirs: stepSchema.nullable(),
  }),
  z.object({
    of: z.literal('override'),
    id: z.string(),
    mine: overrideSchema.nullable(),
    theirs: overrideSchema.nullable(),
  }),
  z.object({ of: z.literal('order'), owner: z.enum(OWNERS) }),
]);
export type Clash = z.infer<typeof clashSchema>;

export type Side = 'mine' | 'theirs';

export interface Merged {
  lists: StepLists;
  clashes: Clash[];
}

/** Three-way merge of one value: a change by one side only wins; undefined: both changed it, differently. */
function mergeValue<T>(base: T, mine: T, theirs: T): { value: T } | undefined {
  if (equal(mine, theirs) || equal(base, mine)) return { value: theirs };
  return equal(base, theirs) ? { value: mine } : undefined;
}

const byId = (steps: readonly Step[]): Map<string, Step> => new Map(steps.map((s) => [s.id, s]));

/** The ids that both lists have, in the first one's order. */
const shared = (of: readonly Step[], other: readonly Step[]): string[] =>
  of.map((s) => s.id).filter((id) => other.some((s) => s.id === id));

/** Inserts ids missing from `order` behind their predecessor in `from`. */
function withAdded(order: readonly string[], from: readonly Step[]): string[] {
  const result = [...order];
  from.forEach(({ id }, i) => {
    if (result.includes(id)) return;
    const before = from.slice(0, i).findLast((s) => result.includes(s.id));
    result.splice(before ? result.indexOf(before.id) + 1 : 0, 0, id);
  });
  return result;
}

/** Three-way merge of one owner's steps. On a conflict, `prefer` decides. */
function mergeSteps(
  owner: Owner,
  base: readonly Step[],
  mine: readonly Step[],
  theirs: readonly Step[],
  prefer: Side,
): { steps: Step[]; clashes: Clash[] } {
  const clashes: Clash[] = [];
  const [b, m, t] = [base, mine, theirs].map(byId);
  const kept = new Map<string, Step>();
  for (const id of new Set([...t.keys(), ...m.keys()])) {
    const [ours, other] = [m.get(id) ?? null, t.get(id) ?? null];
    const merged = mergeValue(b.get(id) ?? null, ours, other);
    if (!merged) clashes.push({ of: 'step', owner, id, mine: ours, theirs: other });
    const step = merged ? merged.value : prefer === 'mine' ? ours : other;
    if (step) kept.set(id, step);
  }
  const moved = (side: readonly Step[]): boolean => !equal(shared(base, side), shared(side, base));
  const sameOrder = equal(shared(mine, theirs), shared(theirs, mine));
  if (!sameOrder && moved(mine) && moved(theirs)) clashes.push({ of: 'order', owner });
  const lead: Side = moved(mine) && (!moved(theirs) || prefer === 'mine') ? 'mine' : 'theirs';
  const [first, second] = lead === 'mine' ? [mine, theirs] : [theirs, mine];
  const order = withAdded(
    first.map((s) => s.id),
    second,
  );
  return { steps: order.flatMap((id) => kept.get(id) ?? []), clashes };
}

/** Three-way merge of a clip's overrides. */
function mergeOverrides(
  base: StepLists['overrides'],
  mine: StepLists['overrides'],
  theirs: StepLists['overrides'],
  prefer: Side,
): { overrides: StepLists['overrides']; clashes: Clash[] } {
  const clashes: Clash[] = [];
  const overrides: StepLists['overrides'] = {};
  const of = (side: StepLists['overrides'], id: string): Override | null => (Object.hasOwn(side, id) ? side[id] : null);
  for (const id of new Set([...Object.keys(theirs), ...Object.keys(mine)])) {
    const [ours, other] = [of(mine, id), of(theirs, id)];
    const merged = mergeValue(of(base, id), ours, other);
    if (!merged) clashes.push({ of: 'override', id, mine: ours, theirs: other });
    const value = merged ? merged.value : prefer === 'mine' ? ours : other;
    if (value) overrides[id] = value;
  }
  return { overrides, clashes };
}

/**
 * Three-way merge of two concurrent changes of the same lists, step by step: a change by one side only wins. Where both
 * changed the same step differently, `prefer` decides, and the conflict is listed.
 */
export function mergeLists(base: StepLists, mine: StepLists, theirs: StepLists, prefer: Side = 'mine'): Merged {
  const clashes: Clash[] = [];
  const lists = { ...theirs };
  for (const owner of OWNERS) {
    const merged = mergeSteps(owner, base[owner], mine[owner], theirs[owner], prefer);
    lists[owner] = merged.steps;
    clashes.push(...merged.clashes);
  }
  const merged = mergeOverrides(base.overrides, mine.overrides, theirs.overrides, prefer);
  return { lists: { ...lists, overrides: merged.overrides }, clashes: [...clashes, ...merged.clashes] };
}
