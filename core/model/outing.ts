import { z } from 'zod';
import { clipDiveSchema } from './diveLog';
import { factsSchema } from './facts';
import { retimeSchema } from './retime';
import { SETTINGS } from '../reading/settings';
import { overridesSchema, stepsSchema } from './grade';

export const idSchema = z.string().regex(/^[\w-]{1,64}$/);
const nameSchema = z.string().trim().min(1, 'A name is needed.').max(120);
const revisionSchema = z.number().int().nonnegative();
const frameSchema = z.number().int().nonnegative();

export const CAMERA_KINDS = ['action', 'drone', 'dive', 'phone', 'other'] as const;

/** A day's shoot. */
export const outingSchema = z.object({
  id: idSchema,
  name: nameSchema,
  place: z.string().max(120),
  /** Day, as YYYY-MM-DD. */
  date: z.iso.date(),
  steps: stepsSchema,
  /** Revision of `steps`. */
  revision: revisionSchema,
});
export type Outing = z.infer<typeof outingSchema>;

/** One source within an outing; its steps are applied before those of its clips. */
export const cameraSchema = z.object({
  id: idSchema,
  outingId: idSchema,
  name: nameSchema,
  kind: z.enum(CAMERA_KINDS),
  /** Setting in which its clips are filmed, once the user has answered. */
  setting: z.enum(SETTINGS).nullable().default(null),
  steps: stepsSchema,
  revision: revisionSchema,
});
export type Camera = z.infer<typeof cameraSchema>;

/** One file in an outing. Frames count on the clip's even timeline, from 0; `inFrame` and `outFrame` are both kept. */
export const clipSchema = z.object({
  id: idSchema,
  outingId: idSchema,
  cameraId: idSchema,
  name: nameSchema,
  /** Original file name of the recording. */
  file: z.string(),
  /** SHA-256 of the original, hexadecimal, and its size. */
  hash: z.string().regex(/^[0-9a-f]{64}$/),
  bytes: z.number().int().nonnegative(),
  facts: factsSchema,
  position: z.number(),
  inFrame: frameSchema,
  outFrame: frameSchema,
  /** The representative frame. */
  referenceFrame: frameSchema,
  steps: stepsSchema,
  /** Overrides of the inherited steps. */
  overrides: overridesSchema,
  /** Revision of `steps` and `overrides`. */
  revision: revisionSchema,
  /** Its dive log, and the clip's offset in it. */
  dive: clipDiveSchema.nullable().default(null),
  /** Marked as done by the user. */
  checked: z.boolean().default(false),
  /** Retiming; null: as recorded. */
  retime: retimeSchema.nullable().default(null),
  /** State of the proxy for moving pictures. */
  proxy: z.enum(['waiting', 'ready', 'failed']),
});
export type Clip = z.infer<typeof clipSchema>;

/** Progress of a clip, derived from what was done with it. */
export const CLIP_STATES = ['new', 'work', 'checked', 'exported'] as const;
export type ClipState = (typeof CLIP_STATES)[number];

/** A clip as listed in its outing: without its steps, which may be long. */
export const listedClipSchema = clipSchema.omit({ steps: true, overrides: true, dive: true, facts: true }).extend({
  facts: factsSchema.pick({
    codec: true,
    width: true,
    height: true,
    fields: true,
    pixelAspect: true,
    soundTracks: true,
    unreadSoundTracks: true,
    depth: true,
    range: true,
    matrix: true,
    tags: true,
    frameRate: true,
    variableRate: true,
    frames: true,
    durationSeconds: true,
    recordedAt: true,
  }),
  /** Number of own steps that have an effect. */
  work: z.number().int().nonnegative(),
  state: z.enum(CLIP_STATES),
  /** Changes when its graded picture may have changed, see {@link lookOf}. */
  look: z.string(),
});
export type ListedClip = z.infer<typeof listedClipSchema>;

/** Changes when a clip's picture may have changed: the revisions of its own steps, its camera's and its outing's. */
export const lookOf = (clip: number, camera: number, outing: number): string => `${clip}.${camera}.${outing}`;

export const outingRequest = z.object({
  name: nameSchema,
  place: z.string().trim().max(120).default(''),
  date: z.iso.date('A day is written as YYYY-MM-DD.'),
});
// Without defaults, which would be filled into a patch.
export const outingPatch = outingRequest.extend({ place: z.string().trim().max(120) }).partial();

export const clipPatch = z
  .object({
    name: nameSchema,
    cameraId: idSchema,
    inFrame: frameSchema,
    outFrame: frameSchema,
    referenceFrame: frameSchema,
    checked: z.boolean(),
    retime: retimeSchema.nullable(),
    /** Sort key among the outing's clips; to move a clip between two others, a number between theirs. */
    position: z.number(),
  })
  .partial();

/** Initial representative frame of a clip of this many frames, until its pictures are analysed. */
export const usualFrame = (frames: number): number => Math.min(frames - 1, Math.floor(frames * 0.1));

/** Splits a clip: from this frame on it becomes another clip with this id. */
export const splitRequest = z.object({ frame: frameSchema, as: idSchema });

export const cameraRequest = z.object({ name: nameSchema, kind: z.enum(CAMERA_KINDS).optional() });
export const cameraPatch = z
  .object({ name: nameSchema, kind: z.enum(CAMERA_KINDS), setting: z.enum(SETTINGS).nullable() })
  .partial();

/** The clips in which a step of a camera or an outing acts. */
export const stepClipsSchema = z.object({
  /** False: in all of them, including future ones. */
  limited: z.boolean(),
  /** Clips in which it acts. */
  clipIds: z.array(idSchema).max(5000),
});
export type StepClips = z.infer<typeof stepClipsSchema>;
