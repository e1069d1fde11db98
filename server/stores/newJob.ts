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
  /** The file to take in; an upload is moved, a card's file copied. */
  from: z.string(),
  /** The further chapters of a recording, in order; they are joined. */
  more: z.array(z.string()).optional(),
  /** What the files are called, where they do not lie under their names. */
  names: z.array(z.string()).optional(),
  /** Bytes of all of it, where they are known. */
  bytes: z.number().optional(),
  move: z.boolean(),
  name: z.string(),
  /** Name of its camera; null: the one that the file's tags name. */
  camera: z.string().nullable(),
  /** Its kind, should it be new. */
  cameraKind: z.enum(CAMERA_KINDS).optional(),
  /** What a new clip begins with in place of the steps that lie ready: steps, a dive log's file and second. */
  begin: z
    .object({
      steps: stepsSchema.optional(),
      dive: z.object({ log: z.string(), offset: z.number() }).optional(),
    })
    .optional(),
});

/** What each kind of job has to know; stored with it, so that it can run again. */
export const payloadSchema = z.discriminatedUnion('kind', [
  importSchema,
  /** A clip of the demo that is rendered onto the card, and then brought in. */
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
  /** Several clips as one file; its job is of the kind `export` as well. */
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
  /** A finished file that is put into a folder of the server's machine besides. */
  z.object({ kind: z.literal('copy'), name: z.string(), into: idSchema }),
  /** A report, a contact sheet or a timeline; its job is of the kind `export` as well. */
  z.object({
    kind: z.literal('document'),
    form: z.enum(DOCUMENTS),
    clipIds: z.array(idSchema),
    dissolve: z.number(),
  }),
]);
export type Payload = z.infer<typeof payloadSchema>;
export type PayloadOf<K extends Payload['kind']> = Extract<Payload, { kind: K }>;

/** The ending and the title of the file that comes of it; undefined where none does. */
export function fileOf(payload: Payload): { extension: string; title: string } | undefined {
  if (payload.kind === 'document') return DOCUMENT_INFO[payload.form];
  return payload.kind === 'export' || payload.kind === 'film' ? DELIVERY_INFO[payload.delivery.codec] : undefined;
}
/** The kind of a job with this payload: films and documents are exports too. */
export const kindOf = (payload: Payload): Job['kind'] =>
  payload.kind === 'film' || payload.kind === 'document' ? 'export' : payload.kind;

/** What is said of a job that a person has stopped. */
export const stoppedText = ({ kind }: Payload): string =>
  kind === 'proxy' ? 'Stopped. What is made of it is used if it is tried again.' : 'Stopped. No file was left.';

export interface NewJob {
  /** Left out: a new one. A job whose id is there already is not added again. */
  id?: string;
  payload: Payload;
  /** What a person calls it; the file of an export is named after it. */
  title: string;
  /** Name of its file without an ending; left out: the title. */
  stem?: string;
  outingId?: string;
  clipId?: string;
  /** Seconds by which others that come later go before. */
  yields?: number;
  /** Pixels of the frames that it decodes. */
  pixels?: number;
}

/** Pixels of so many frames of a file, by default of all. */
export const pixelsOf = ({ width, height, ...facts }: MediaFacts, frames = facts.frames): number =>
  frames * width * height;

/** Pixels of a file that are made into a proxy in a second: 110 (4K HEVC, 10 bit) to 150 million on two cores, measured. */
const PROXY_PIXELS = 130e6;
/** The job that makes a clip's proxy. What takes long lets shorter ones that come meanwhile go before. */
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
