import { z } from 'zod';
import { deliverySchema } from './delivery';
import { idSchema } from './outing';

export const JOB_STATES = ['waiting', 'running', 'done', 'failed', 'stopped'] as const;

/** A finished file. */
export const fileResultSchema = z.object({
  frames: z.number().int(),
  seconds: z.number(),
  width: z.number().int(),
  height: z.number().int(),
  /** SHA-256, hexadecimal. */
  sha256: z.string(),
});
export type FileResult = z.infer<typeof fileResultSchema>;

/** A piece of long work. It lives in the database, so it outlives a crash. */
export const jobSchema = z.object({
  id: idSchema,
  kind: z.enum(['import', 'proxy', 'export', 'render', 'copy']),
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
  /** Pixels of the frames that are decoded for a proxy, an export or a film; null: not known, or no such work. */
  pixels: z.number().nullable().default(null),
  /** Frames that are made in a second; null: not known yet, or no such work. */
  framesPerSecond: z.number().nullable().default(null),
  /** Place in the queue: lower is sooner. */
  rank: z.number(),
  /** Name, size and format title of the finished file of an export, and what is known of it once it is whole. */
  file: z
    .object({
      name: z.string(),
      bytes: z.number().nullable(),
      format: z.string(),
      result: fileResultSchema.nullable().default(null),
    })
    .nullable(),
  /** Seconds since 1970. */
  createdAt: z.number(),
});
export type Job = z.infer<typeof jobSchema>;

/** What is done to several jobs at once. */
export const jobsRequest = z.object({
  ids: z.array(idSchema).min(1).max(2000),
  /** stop: what waits or runs. again: what failed or was stopped waits anew. forget: what ended without a file leaves the list. */
  act: z.enum(['stop', 'again', 'forget']),
});
export type JobsRequest = z.infer<typeof jobsRequest>;

/** Clips, each to be delivered in one form, and in others besides. */
export const deliveryRequest = z.object({
  clipIds: z.array(idSchema).min(1).max(500),
  delivery: deliverySchema,
  also: z.array(deliverySchema).max(40).default([]),
});

/** The queue of exports. */
export const queueSchema = z.object({
  /** It begins no new ones. */
  paused: z.boolean(),
  /** Id of the folder that finished files are also put into. */
  into: idSchema.nullable(),
});
export type Queue = z.infer<typeof queueSchema>;

/** What a delivery is expected to be. */
export const expectedSchema = z.object({
  bytes: z.number(),
  seconds: z.number(),
  width: z.number().int(),
  height: z.number().int(),
  /** The name that the file gets, as things stand. */
  name: z.string(),
});
export type Expected = z.infer<typeof expectedSchema>;

/** Settings of exports, kept under a name. */
export const presetSchema = z.object({
  id: idSchema,
  name: z.string().trim().min(1, 'A name is needed.').max(60),
  delivery: deliverySchema,
});
export type Preset = z.infer<typeof presetSchema>;
export const presetRequest = presetSchema.omit({ id: true });
