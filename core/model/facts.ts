import { z } from 'zod';

/**
 * Incremented when probing finds more about a file than before; files probed by an earlier version are probed again.
 */
export const PROBE_VERSION = 4;

const audioTrackSchema = z.object({
  codec: z.string(),
  channels: z.number(),
  /** Samples per second. */
  sampleRate: z.number(),
  /** Its index among the file's sound tracks, from 0. */
  index: z.number().int().nonnegative().default(0),
});
export type AudioTrack = z.infer<typeof audioTrackSchema>;

/** Properties of a file, in display orientation. Probed once, stored with the clip. */
export const factsSchema = z.object({
  /** The {@link PROBE_VERSION} that wrote them. */
  probed: z.number().int().default(1),
  codec: z.string(),
  /** Display size, after rotation and with square pixels. */
  width: z.number().int().positive(),
  height: z.number().int().positive(),
  /** Degrees clockwise that the file asks for: 0, 90, 180, 270. Decoded frames are already rotated. */
  rotation: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]),
  /** Progressive, or interlaced with this field first. Frames are processed deinterlaced. */
  fields: z.enum(['progressive', 'topFirst', 'bottomFirst']).default('progressive'),
  /** Pixel aspect ratio as stored, width over height. Frames are processed with square pixels. */
  pixelAspect: z
    .object({ num: z.number().int().positive(), den: z.number().int().positive() })
    .default({ num: 1, den: 1 }),
  depth: z.union([z.literal(8), z.literal(10), z.literal(12)]),
  chroma: z.enum(['420', '422', '444']),
  range: z.enum(['limited', 'full']),
  matrix: z.enum(['bt709', 'bt2020', 'bt601']),
  /** Horizontal siting of chroma samples relative to luma. */
  chromaSite: z.enum(['left', 'center']),
  /** Tags as written in the file, for display and passing on; null when absent. */
  tags: z.object({
    range: z.string().nullable(),
    matrix: z.string().nullable(),
    primaries: z.string().nullable(),
    transfer: z.string().nullable(),
    /** Field order, where the file is tagged as interlaced. */
    fields: z.string().nullable().default(null),
  }),
  /** Nominal frames per second as a fraction. */
  frameRate: z.object({ num: z.number().int().positive(), den: z.number().int().positive() }),
  variableRate: z.boolean(),
  /** Time stamp of the first frame in seconds. */
  startSeconds: z.number(),
  /** Seconds before a frame at which decoding must begin for an exact seek; 0: the container's index handles it. */
  seekAhead: z.number().nonnegative().default(0),
  durationSeconds: z.number().positive(),
  frames: z.number().int().positive(),
  /** The first decodable sound track: used for playback and films. */
  audio: audioTrackSchema.nullable(),
  /** Further ones, included in exports of the clip. */
  otherAudio: z.array(audioTrackSchema).default([]),
  /** Number of sound tracks, and of those that cannot be decoded. */
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

/** The decodable sound tracks, in file order. */
export const audioTracks = ({ audio, otherAudio }: Pick<MediaFacts, 'audio' | 'otherAudio'>): AudioTrack[] =>
  audio ? [audio, ...otherAudio] : [];

/** Clips with more frames are long: their proxies are made in parts. */
export const LONG_FRAMES = 1800;

export const fps = (f: Pick<MediaFacts, 'frameRate'>): number => f.frameRate.num / f.frameRate.den;

/** Duration in seconds. */
export const clipSeconds = (f: Pick<MediaFacts, 'frameRate' | 'frames'>): number => f.frames / fps(f);

/** Seconds from the first frame at which frame n is shown. */
export const secondsOf = (f: Pick<MediaFacts, 'frameRate'>, frame: number): number => frame / fps(f);
