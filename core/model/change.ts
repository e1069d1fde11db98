import { z } from 'zod';
import { overridesSchema, stepsSchema } from './grade';
import { OWNERS, stepListsSchema, type StepLists } from './lists';
import equal from 'fast-deep-equal';
import { clashSchema } from './merge';
import { clipPatch, idSchema } from './outing';

const sides = <T extends z.ZodType>(list: T) => z.object({ base: list, next: list });

/**
 * A change of a clip's steps: for each part that changed, what it was made from and what it became. The id makes a
 * repeat harmless: a change that was stored already is answered as stored.
 */
export const changeSchema = z.object({
  id: z.string().regex(/^[\w-]{8,64}$/),
  camera: sides(stepsSchema).optional(),
  clip: sides(stepsSchema).optional(),
  outing: sides(stepsSchema).optional(),
  overrides: sides(overridesSchema).optional(),
});
export type Change = z.infer<typeof changeSchema>;

const PARTS = [...OWNERS, 'overrides'] as const;

/** The change from one state of the lists to another; undefined: they are the same. */
export function changeOf(id: string, base: StepLists, next: StepLists): Change | undefined {
  const changed = PARTS.filter((part) => !equal(base[part], next[part]));
  if (changed.length === 0) return undefined;
  return { id, ...Object.fromEntries(changed.map((part) => [part, { base: base[part], next: next[part] }])) };
}

/** Both sides of a change as whole lists; what it does not touch is taken from `current`. */
export function sidesOf(change: Change, current: StepLists): { base: StepLists; next: StepLists } {
  const side = (which: 'base' | 'next'): StepLists =>
    Object.fromEntries(PARTS.map((part) => [part, change[part]?.[which] ?? current[part]])) as StepLists;
  return { base: side('base'), next: side('next') };
}

/** A change of one of several clips: of what it is called, cut to and so on, of its own steps, or of both. */
const clipChangeSchema = z.object({
  id: idSchema,
  patch: clipPatch.optional(),
  /** Laid onto the steps as they are then; where somebody changed the same step meanwhile, this change counts. */
  steps: sides(stepsSchema).optional(),
});
export type ClipChange = z.infer<typeof clipChangeSchema>;
/** Changes of several clips, which are stored all or none. */
export const clipsRequest = z.object({ changes: z.array(clipChangeSchema).min(1).max(2000) });

const revisionsSchema = z.object({ clip: z.number(), camera: z.number(), outing: z.number() });

/** What the server has of a clip's steps. */
export const stepsStateSchema = z.object({ lists: stepListsSchema, revisions: revisionsSchema });
export type StepsState = z.infer<typeof stepsStateSchema>;

/** What a refusal says besides, where both sides changed the same step: the clashes, and what the server has. */
export const conflictSchema = z.looseObject({ clashes: z.array(clashSchema), theirs: stepsStateSchema });

/** The answer to a change that is stored: the lists as they are now, with what came from elsewhere. */
export const changeAnswerSchema = stepsStateSchema.extend({
  /** Another change was joined with this one. */
  joined: z.boolean(),
});
export type ChangeAnswer = z.infer<typeof changeAnswerSchema>;
