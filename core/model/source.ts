import { z } from 'zod';
import { CAMERA_KINDS, idSchema } from './outing';

/** A place on the server's machine to import from: the memory card, a plugged-in disk, an allowed folder. */
export const sourceSchema = z.object({
  id: idSchema,
  kind: z.enum(['card', 'disk', 'folder']),
  name: z.string(),
  path: z.string(),
  /** False: the folder or card is currently missing. */
  present: z.boolean(),
  /** Finished files may be copied here. */
  writable: z.boolean(),
});
export type Source = z.infer<typeof sourceSchema>;

export const folderPatch = z.object({ writable: z.boolean() });
export const folderRequest = z.object({ path: z.string().trim().min(1, 'A folder is needed.').max(1000) });

/** Properties of a file from its headers, without decoding. */
export const headerSchema = z.object({
  codec: z.string(),
  width: z.number(),
  height: z.number(),
  rotation: z.number(),
  fps: z.number(),
  depth: z.number(),
  seconds: z.number(),
  /** Codec of its sound; null: none. */
  sound: z.string().nullable(),
  recordedAt: z.string().nullable(),
  /** The camera that its tags name. */
  camera: z.string().nullable(),
});
export type FileHeader = z.infer<typeof headerSchema>;

/** A video file of a source. */
export const cardFileSchema = z.object({
  /** Path in the source, with / as separator. */
  path: z.string(),
  /** Its folders, outermost first. */
  folders: z.array(z.string()),
  folder: z.string(),
  name: z.string(),
  bytes: z.number(),
  /** Null: it could not be opened. */
  header: headerSchema.nullable(),
  /** Why it could not. */
  problem: z.string().nullable(),
});
export type CardFile = z.infer<typeof cardFileSchema>;

/** One recording: a file, or its chapters in order. */
export const recordingSchema = z.object({
  paths: z.array(z.string()).min(1),
  name: z.string(),
  bytes: z.number(),
  seconds: z.number().nullable(),
  format: z.string(),
  problem: z.string().nullable(),
});
export type Recording = z.infer<typeof recordingSchema>;

/** Files that appear to be from one camera. */
export const detectedCameraSchema = z.object({
  name: z.string(),
  kind: z.enum(CAMERA_KINDS),
  /** The property that distinguished it from the others. */
  reason: z.string(),
  recordings: z.array(recordingSchema),
});
export type DetectedCamera = z.infer<typeof detectedCameraSchema>;

export const sourceContentSchema = z.object({
  source: sourceSchema,
  cameras: z.array(detectedCameraSchema),
  /** Files that are not clips: sidecars, thumbnails, low-resolution copies. */
  leftAlone: z.number(),
  /** Bytes available in the library. */
  freeBytes: z.number(),
});
export type SourceContent = z.infer<typeof sourceContentSchema>;

export const importRequest = z.object({
  source: idSchema.default('card'),
  clips: z
    .array(
      z.object({
        /** One file, or the chapters of a recording in order. */
        paths: z.array(z.string().min(1).max(1000)).min(1).max(200),
        /** Its camera's name; omitted: from the file or its folder. */
        camera: z.string().trim().min(1).max(100).optional(),
        /** The kind of a newly added camera. */
        kind: z.enum(CAMERA_KINDS).optional(),
      }),
    )
    .min(1)
    .max(500),
});
