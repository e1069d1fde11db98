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

/** A long-running task, stored in the database so that it survives a crash. */
export const jobSchema = z.object({
  id: idSchema,
  kind: z.enum(['import', 'proxy', 'export', 'render', 'copy']),
  state: z.enum(JOB_STATES),
  /** Its subject for display: a file or clip name. */
  title: z.string(),
  outingId: idSchema.nullable(),
  clipId: idSchema.nullable(),
  /** Progress, 0–1. */
  progress: z.number().min(0).max(1),
  /** Estimated seconds remaining, when known. */
  secondsLeft: z.number().nullable(),
  /** Why it failed, or a note. */
  message: z.string().nullable(),
  /** Bytes to import; null: unknown, or another kind of work. */
  bytes: z.number().nullable().default(null),
  /** Pixels per frame decoded for a proxy, an export or a film; null: unknown, or not applicable. */
  pixels: z.number().nullable().default(null),
  /** Frames per second; null: not known yet, or not applicable. */
  framesPerSecond: z.number().nullable().default(null),
  /** Position in the queue: lower is sooner. */
  rank: z.number(),
  /** Name, size and format title of the output of an export, and what is known once it is complete. */
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

/** An action on several jobs. */
export const jobsRequest = z.object({
  ids: z.array(idSchema).min(1).max(2000),
  /**
   * stop: waiting and running ones. again: failed and stopped ones are queued again. forget: those that ended without a
   * file are removed from the list.
   */
  act: z.enum(['stop', 'again', 'forget']),
});
export type JobsRequest = z.infer<typeof jobsRequest>;

/** Clips to deliver in one form, and in additional ones. */
export const deliveryRequest = z.object({
  clipIds: z.array(idSchema).min(1).max(500),
  delivery: deliverySchema,
  also: z.array(deliverySchema).max(40).default([]),
});

/** The queue of exports. */
export const queueSchema = z.object({
  /** No new ones are started. */
  paused: z.boolean(),
  /** Id of the folder to which finished files are also copied. */
  into: idSchema.nullable(),
});
export type Queue = z.infer<typeof queueSchema>;

/** The expected outcome of a delivery. */
export const expectedSchema = z.object({
  bytes: z.number(),
  seconds: z.number(),
  width: z.number().int(),
  height: z.number().int(),
  /** The expected file name. */
  name: z.string(),
});
export type Expected = z.infer<typeof expectedSchema>;

/** Named export settings. */
export const presetSchema = z.object({
  id: idSchema,
  name: z.string().trim().min(1, 'A name is needed.').max(60),
  delivery: deliverySchema,
});
export type Preset = z.infer<typeof presetSchema>;
export const presetRequest = presetSchema.omit({ id: true });
