import { z } from 'zod';
import { MOST_STEPS, overridesSchema, stepIdSchema, stepsSchema, type Step } from './grade';
import { OWNERS, stepListsSchema, type StepLists } from './lists';
import equal from 'fast-deep-equal';
import { clashSchema } from './merge';
import { clipPatch, idSchema } from './outing';

const sides = <T extends z.ZodType>(part: T) => z.object({ base: part, next: part });

const orderSchema = z
  .array(stepIdSchema)
  .max(MOST_STEPS)
  .refine((ids) => new Set(ids).size === ids.length, 'A step is named twice.');

/**
 * Steps before and after a change. With `order`, which names all of them, the lists hold only those that differ: a step
 * in `order` that is in neither list is unchanged. A step that follows something through a clip has thousands of keys
 * and should not be sent with every edit of another.
 */
const stepSidesSchema = sides(stepsSchema)
  .extend({ order: sides(orderSchema).optional() })
  .refine(
    ({ base, next, order }) =>
      !order || (base.every((s) => order.base.includes(s.id)) && next.every((s) => order.next.includes(s.id))),
    'The order lacks a step.',
  );
export type StepSides = z.infer<typeof stepSidesSchema>;

/**
 * A change of a clip's steps: for each part that changed, its state before and after. The id makes retries idempotent:
 * a change that is already stored is answered as stored.
 */
export const changeSchema = z.object({
  id: z.string().regex(/^[\w-]{8,64}$/),
  camera: stepSidesSchema.optional(),
  clip: stepSidesSchema.optional(),
  outing: stepSidesSchema.optional(),
  overrides: sides(overridesSchema).optional(),
});
export type Change = z.infer<typeof changeSchema>;

const ids = (steps: readonly Step[]): string[] => steps.map((s) => s.id);

/** The difference between two lists of steps, without those that are unchanged. */
export function stepSides(base: readonly Step[], next: readonly Step[]): StepSides {
  const stays = ({ id }: Step): boolean => {
    const [before, after] = [base, next].map((steps) => steps.find((s) => s.id === id));
    return before !== undefined && equal(before, after);
  };
  return {
    base: base.filter((s) => !stays(s)),
    next: next.filter((s) => !stays(s)),
    order: { base: ids(base), next: ids(next) },
  };
}

/**
 * Expands both sides to whole lists: unchanged steps are taken from `current`, and are absent on both sides if absent
 * there.
 */
export function wholeSides({ base, next, order }: StepSides, current: readonly Step[]): { base: Step[]; next: Step[] } {
  if (!order) return { base, next };
  const changed = new Set([...ids(base), ...ids(next)]);
  const whole = (named: readonly string[], steps: readonly Step[]): Step[] =>
    named.flatMap((id) => (changed.has(id) ? steps : current).find((s) => s.id === id) ?? []);
  return { base: whole(order.base, base), next: whole(order.next, next) };
}

/** The change from one state of the lists to another; undefined if they are equal. */
export function changeOf(id: string, base: StepLists, next: StepLists): Change | undefined {
  const change: Change = { id };
  for (const owner of OWNERS) if (!equal(base[owner], next[owner])) change[owner] = stepSides(base[owner], next[owner]);
  if (!equal(base.overrides, next.overrides)) change.overrides = { base: base.overrides, next: next.overrides };
  return Object.keys(change).length > 1 ? change : undefined;
}

/** Expands both sides of a change, or of none, to whole lists; what it does not touch is taken from `current`. */
export function sidesOf(change: Change | undefined, current: StepLists): { base: StepLists; next: StepLists } {
  const [base, next] = [{ ...current }, { ...current }];
  for (const owner of OWNERS) {
    const part = change?.[owner];
    if (part) ({ base: base[owner], next: next[owner] } = wholeSides(part, current[owner]));
  }
  if (change?.overrides) ({ base: base.overrides, next: next.overrides } = change.overrides);
  return { base, next };
}

/** A change of one of several clips: of its properties, of its own steps, or of both. */
const clipChangeSchema = z.object({
  id: idSchema,
  patch: clipPatch.optional(),
  /** Merged into the current steps; on a conflict this change wins. */
  steps: stepSidesSchema.optional(),
});
export type ClipChange = z.infer<typeof clipChangeSchema>;
/** Changes of several clips, stored atomically. */
export const clipsRequest = z.object({ changes: z.array(clipChangeSchema).min(1).max(2000) });

const revisionsSchema = z.object({ clip: z.number(), camera: z.number(), outing: z.number() });

/** The server's state of a clip's steps; also the response to a stored change. */
export const stepsStateSchema = z.object({ lists: stepListsSchema, revisions: revisionsSchema });
export type StepsState = z.infer<typeof stepsStateSchema>;

/**
 * Extra members of a conflict response, where both sides changed the same step: the clashes, and the server's state.
 */
export const conflictSchema = z.looseObject({ clashes: z.array(clashSchema), theirs: stepsStateSchema });
