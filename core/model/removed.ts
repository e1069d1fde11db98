import { z } from 'zod';
import { idSchema } from './outing';

/**
 * Things that can be removed. Removing a camera removes its clips, an outing everything in it; a file is a finished
 * export, `shelf` anything on the shelf, `kept` a kept frame.
 */
export const REMOVABLE = ['outing', 'camera', 'clip', 'file', 'shelf', 'kept'] as const;
export type Removable = (typeof REMOVABLE)[number];

/** A removed item that can still be restored. */
export const removedSchema = z.object({
  kind: z.enum(REMOVABLE),
  id: idSchema,
  name: z.string(),
  /** The outing it belongs to; null for an outing itself and for files whose outing is gone. */
  outingName: z.string().nullable(),
  /** Number of clips in it; 0 for a file. */
  clips: z.number().int().nonnegative(),
  /** Disk space that is freed with it. Shared files are not counted. */
  bytes: z.number().nonnegative(),
  /** Seconds since 1970. */
  removedAt: z.number(),
  /** When it is deleted permanently, seconds since 1970. */
  goesAt: z.number(),
});
export type Removed = z.infer<typeof removedSchema>;

export const removalRequest = z.object({ kind: z.enum(REMOVABLE), ids: z.array(idSchema).min(1).max(500) });
