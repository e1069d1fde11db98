import { z } from 'zod';
import { stepsSchema } from './grade';
import { idSchema } from './outing';

const nameSchema = z.string().trim().min(1, 'A name is needed.').max(120);

/** A frame that was kept with its grade: to hold others against it, and, as a variant of its clip, to go back to. */
export const keptSchema = z.object({
  id: idSchema,
  clipId: idSchema,
  clipName: z.string(),
  name: nameSchema,
  frame: z.number().int().nonnegative(),
  /** Seconds since 1970. */
  createdAt: z.number(),
});
export type Kept = z.infer<typeof keptSchema>;

/** With its steps. */
export const keptWholeSchema = keptSchema.extend({
  /** All steps that the frame passes, for its picture. */
  steps: stepsSchema,
  /** The clip's own among them, to be taken up again. */
  own: stepsSchema,
});
export type KeptWhole = z.infer<typeof keptWholeSchema>;

export const keptRequest = keptWholeSchema.pick({ name: true, frame: true, steps: true, own: true });
export const keptPatch = z.object({ name: nameSchema });
