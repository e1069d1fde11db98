import { z } from 'zod';
import { deliverySchema, DELIVERY_INFO } from '@inkavo/core/model/delivery';
import { DOCUMENT_INFO, DOCUMENTS } from '@inkavo/core/model/document';
import type { MediaFacts } from '@inkavo/core/model/facts';
import { stepsSchema } from '@inkavo/core/model/grade';
import type { Job } from '@inkavo/core/model/job';
import { CAMERA_KINDS, idSchema, type Clip } from '@inkavo/core/model/outing';
import { retimeSchema } from '@inkavo/core/model/retime';

const importSchema = z.object({
  kind: z.literal('import'),
  outingId: idSchema,
  /** The file to import; an upload is moved, a card's file copied. */
  from: z.string(),
  /** Further chapters of a recording, in order, to be joined. */
  more: z.array(z.string()).optional(),
  /** Display names of files that are stored under other names. */
  names: z.array(z.string()).optional(),
  /** Total bytes, if known. */
  bytes: z.number().optional(),
  move: z.boolean(),
  name: z.string(),
  /** Name of its camera; null: from the file's tags. */
  camera: z.string().nullable(),
  /** Its kind, if it is new. */
  cameraKind: z.enum(CAMERA_KINDS).optional(),
  /** Replaces the default steps of a new clip: steps, a dive log's file and offset. */
  begin: z
    .object({
      steps: stepsSchema.optional(),
      dive: z.object({ log: z.string(), offset: z.number() }).optional(),
    })
    .optional(),
});

/** Parameters of each kind of job; stored with it, so that it can be restarted. */
export const payloadSchema = z.discriminatedUnion('kind', [
  importSchema,
  /** A clip of the demo to be rendered onto the card, and then imported. */
  z.object({ kind: z.literal('render'), intake: importSchema }),
  z.object({ kind: z.literal('proxy'), hash: z.string() }),
  z.object({
    kind: z.literal('export'),
    hash: z.string(),
    steps: stepsSchema,
    delivery: deliverySchema,
    inFrame: z.number(),
    outFrame: z.number(),
    retime: retimeSchema.optional(),
    /** The clip's `look` when it was queued. */
    look: z.string().optional(),
  }),
  /** Several clips as one file; its job is also of kind `export`. */
  z.object({
    kind: z.literal('film'),
    shots: z
      .array(
        z.object({
          hash: z.string(),
          steps: stepsSchema,
          inFrame: z.number(),
          outFrame: z.number(),
          retime: retimeSchema.nullable(),
        }),
      )
      .min(1),
    delivery: deliverySchema,
    dissolve: z.number(),
    levelled: z.boolean(),
  }),
  /** A finished file to be copied to a folder of the server's machine. */
  z.object({ kind: z.literal('copy'), name: z.string(), into: idSchema }),
  /** A report, a contact sheet or a timeline; its job is also of kind `export`. */
  z.object({
    kind: z.literal('document'),
    form: z.enum(DOCUMENTS),
    clipIds: z.array(idSchema),
    dissolve: z.number(),
  }),
]);
export type Payload = z.infer<typeof payloadSchema>;
export type PayloadOf<K extends Payload['kind']> = Extract<Payload, { kind: K }>;

/** Extension and title of the resulting file; undefined if there is none. */
export function fileOf(payload: Payload): { extension: string; title: string } | undefined {
  if (payload.kind === 'document') return DOCUMENT_INFO[payload.form];
  return payload.kind === 'export' || payload.kind === 'film' ? DELIVERY_INFO[payload.delivery.codec] : undefined;
}
/** The kind of a job with this payload: films and documents count as exports. */
export const kindOf = (payload: Payload): Job['kind'] =>
  payload.kind === 'film' || payload.kind === 'document' ? 'export' : payload.kind;

/** Message of a job stopped by the user. */
export const stoppedText = ({ kind }: Payload): string =>
  kind === 'proxy' ? 'Stopped. What is made of it is used if it is tried again.' : 'Stopped. No file was left.';

export interface NewJob {
  /** Omitted: a new one. A job with an existing id is not added again. */
  id?: string;
  payload: Payload;
  /** Display name; the file of an export is named after it. */
  title: string;
  /** File name without extension; omitted: the title. */
  stem?: string;
  outingId?: string;
  clipId?: string;
  /** Seconds by which later jobs may overtake it. */
  yields?: number;
  /** Number of pixels that it decodes. */
  pixels?: number;
}

/** Pixels of this many frames of a file, by default of all. */
export const pixelsOf = ({ width, height, ...facts }: MediaFacts, frames = facts.frames): number =>
  frames * width * height;

/** Pixels per second when making a proxy: 110 (4K HEVC, 10 bit) to 150 million on two cores, measured. */
const PROXY_PIXELS = 130e6;
/** The job that makes a clip's proxy. Long ones let shorter, later ones overtake. */
export function proxyJob(hash: string, clip: Pick<Clip, 'id' | 'name' | 'outingId' | 'facts'>): NewJob {
  const pixels = pixelsOf(clip.facts);
  return {
    payload: { kind: 'proxy', hash },
    title: clip.name,
    outingId: clip.outingId,
    clipId: clip.id,
    yields: pixels / PROXY_PIXELS,
    pixels,
  };
}
