import { z } from 'zod';

/** Raised when more is found out about a file than before: what was stored by an earlier version is then found out again. */
export const PROBE_VERSION = 4;

const audioTrackSchema = z.object({
  codec: z.string(),
  channels: z.number(),
  /** Samples a second. */
  sampleRate: z.number(),
  /** Its place among the file's sound tracks, from 0. */
  index: z.number().int().nonnegative().default(0),
});
export type AudioTrack = z.infer<typeof audioTrackSchema>;

/** What a file says of itself, in display orientation. Probed once, stored with the clip. */
export const factsSchema = z.object({
  /** The {@link PROBE_VERSION} by which it was found out. */
  probed: z.number().int().default(1),
  codec: z.string(),
  /** Display size, after rotation and with square pixels. */
  width: z.number().int().positive(),
  height: z.number().int().positive(),
  /** Degrees clockwise that the file asks for: 0, 90, 180, 270. Decoded frames are already turned. */
  rotation: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]),
  /** Scan: progressive, or interlaced with this field first. Frames are worked on deinterlaced. */
  fields: z.enum(['progressive', 'topFirst', 'bottomFirst']).default('progressive'),
  /** Pixel aspect ratio as stored, width over height. Frames are worked on with square pixels. */
  pixelAspect: z
    .object({ num: z.number().int().positive(), den: z.number().int().positive() })
    .default({ num: 1, den: 1 }),
  depth: z.union([z.literal(8), z.literal(10), z.literal(12)]),
  chroma: z.enum(['420', '422', '444']),
  range: z.enum(['limited', 'full']),
  matrix: z.enum(['bt709', 'bt2020', 'bt601']),
  /** Where chroma samples sit against luma horizontally. */
  chromaSite: z.enum(['left', 'center']),
  /** Tags as written in the file, for showing and for passing on; null when absent. */
  tags: z.object({
    range: z.string().nullable(),
    matrix: z.string().nullable(),
    primaries: z.string().nullable(),
    transfer: z.string().nullable(),
    /** Order of the fields of a frame, where it is tagged as made of two. */
    fields: z.string().nullable().default(null),
  }),
  /** Nominal frames per second as a fraction. */
  frameRate: z.object({ num: z.number().int().positive(), den: z.number().int().positive() }),
  variableRate: z.boolean(),
  /** Seconds of the first frame's time stamp. */
  startSeconds: z.number(),
  /** Seconds before a frame at which decoding begins so that a seek is exact; 0: the container's index sees to it. */
  seekAhead: z.number().nonnegative().default(0),
  durationSeconds: z.number().positive(),
  frames: z.number().int().positive(),
  /** The first sound track that can be decoded: it plays with the clip, and films have it. */
  audio: audioTrackSchema.nullable(),
  /** Further ones; exports of the clip have them, too. */
  otherAudio: z.array(audioTrackSchema).default([]),
  /** Sound tracks in all, and those among them that cannot be decoded. */
  soundTracks: z.number().int().nonnegative().default(1),
  unreadSoundTracks: z.number().int().nonnegative().default(0),
  bitrate: z.number().nonnegative(),
  recordedAt: z.string().nullable(),
  /** Time code of the first frame (SMPTE ST 12-1), a semicolon before the frames of drop-frame counting. */
  timecode: z.string().nullable().default(null),
  /** The camera that the file's tags name. */
  camera: z.string().nullable().default(null),
});

export type MediaFacts = z.infer<typeof factsSchema>;

/** The sound tracks that can be decoded, in the file's order. */
export const audioTracks = ({ audio, otherAudio }: Pick<MediaFacts, 'audio' | 'otherAudio'>): AudioTrack[] =>
  audio ? [audio, ...otherAudio] : [];

/** A clip of more frames is long: its proxy takes a while, and is made in parts. */
export const LONG_FRAMES = 1800;

export const fps = (f: Pick<MediaFacts, 'frameRate'>): number => f.frameRate.num / f.frameRate.den;

/** Seconds of all frames. */
export const clipSeconds = (f: Pick<MediaFacts, 'frameRate' | 'frames'>): number => f.frames / fps(f);

/** Seconds from the first frame at which frame n is shown. */
export const secondsOf = (f: Pick<MediaFacts, 'frameRate'>, frame: number): number => frame / fps(f);
