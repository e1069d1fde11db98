import { z } from 'zod';
import { idSchema } from './outing';

export const JOB_STATES = ['waiting', 'running', 'done', 'failed', 'stopped'] as const;

/** A piece of long work. It lives in the database, so it outlives a crash. */
export const jobSchema = z.object({
  id: idSchema,
  kind: z.enum(['import', 'proxy', 'export', 'render']),
  state: z.enum(JOB_STATES),
  /** What a person calls it: a file or clip name. */
  title: z.string(),
  outingId: idSchema.nullable(),
  clipId: idSchema.nullable(),
  /** Share done, 0–1. */
  progress: z.number().min(0).max(1),
  /** Seconds left, when they can be told. */
  secondsLeft: z.number().nullable(),
  /** Why it failed, or what is worth knowing. */
  message: z.string().nullable(),
  /** Bytes of what is brought in; null: unknown, or another kind of work. */
  bytes: z.number().nullable().default(null),
  /** Name, size and format title of the finished file of an export. */
  file: z.object({ name: z.string(), bytes: z.number().nullable(), format: z.string() }).nullable(),
  /** Seconds since 1970. */
  createdAt: z.number(),
});
export type Job = z.infer<typeof jobSchema>;

/** What a delivery is encoded as. */
export const deliverySchema = z.object({
  codec: z.enum(['h264', 'h265', 'ffv1']),
  /** Constant quality, lower is better; ignored by ffv1. */
  quality: z.number().int().min(8).max(40).default(18),
  /** Mean bitrate in Mbit/s; when given it takes the place of quality. */
  megabits: z.number().min(0.5).max(400).optional(),
});
export type Delivery = z.infer<typeof deliverySchema>;

/** How the formats are offered. */
export const DELIVERY_INFO = {
  h264: { title: 'H.264, 8 bit', use: 'plays everywhere', extension: 'mp4' },
  h265: { title: 'H.265, 10 bit', use: 'smaller, finer tones', extension: 'mp4' },
  ffv1: { title: 'FFV1, lossless', use: 'for further work; large', extension: 'mkv' },
} as const satisfies Record<Delivery['codec'], { title: string; use: string; extension: string }>;

export const deliveryRequest = z.object({ clipIds: z.array(idSchema).min(1).max(500), delivery: deliverySchema });
