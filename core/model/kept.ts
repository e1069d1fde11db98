import { z } from 'zod';
import { stepsSchema } from './grade';
import { idSchema } from './outing';

const nameSchema = z.string().trim().min(1, 'A name is needed.').max(120);

/** A stored frame with its grade: for comparison, and, as a variant of its clip, for going back. */
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

/** Including its steps. */
export const keptWholeSchema = keptSchema.extend({
  /** All steps applied to the frame, for its picture. */
  steps: stepsSchema,
  /** The clip's own steps among them, for restoring. */
  own: stepsSchema,
});
export type KeptWhole = z.infer<typeof keptWholeSchema>;

export const keptRequest = keptWholeSchema.pick({ name: true, frame: true, steps: true, own: true });
export const keptPatch = z.object({ name: nameSchema });
