import { statSync } from 'node:fs';
import { z } from 'zod';
import { cameraOf } from '@inkavo/core/intake/cameraTags';
import { frameOf } from '@inkavo/core/formats/timeline/timecode';
import { factsSchema, PROBE_VERSION, type AudioTrack, type MediaFacts } from '@inkavo/core/model/facts';
import { seenFields, taggedFields, type Fields } from './fields';
import { DECODE_LIMITS, MEDIA_LIMITS, PICTURES } from './limits';
import { isVariable, measuredRate, nearestRate, rateOf } from './rates';
import { seekAhead, type Stamp } from './seeking';
import { MediaError, QUIET, run, SAFE_INPUT, type RunOptions } from './run';
import { soundTracks } from './soundTracks';

const streamSchema = z.object({
  index: z.number(),
  codec_type: z.string().optional(),
  codec_name: z.string().optional(),
  width: z.number().optional(),
  height: z.number().optional(),
  pix_fmt: z.string().optional(),
  color_range: z.string().optional(),
  color_space: z.string().optional(),
  color_primaries: z.string().optional(),
  color_transfer: z.string().optional(),
  chroma_location: z.string().optional(),
  field_order: z.string().optional(),
  sample_aspect_ratio: z.string().optional(),
  r_frame_rate: z.string().optional(),
  avg_frame_rate: z.string().optional(),
  start_time: z.string().optional(),
  duration: z.string().optional(),
  channels: z.number().optional(),
  sample_rate: z.string().optional(),
  disposition: z.object({ attached_pic: z.number().optional() }).optional(),
  side_data_list: z.array(z.object({ rotation: z.number().optional() })).optional(),
  tags: z.record(z.string(), z.string()).optional(),
});
const probeSchema = z.object({
  streams: z.array(streamSchema).default([]),
  format: z
    .object({
      format_name: z.string().optional(),
      start_time: z.string().optional(),
      duration: z.string().optional(),
      bit_rate: z.string().optional(),
      tags: z.record(z.string(), z.string()).optional(),
    })
    .optional(),
});
type Stream = z.infer<typeof streamSchema>;

/** A probed file: its properties, and the times of its frames. */
export interface Probe {
  facts: MediaFacts;
  /** Each frame's time stamp in seconds, in presentation order, relative to the first. */
  times: number[];
  /** Indices of keyframes in `times`, increasing. */
  keys: number[];
}

/** ffprobe reads headers and packets; a typical file needs 0.3 GB of address space (measured). */
export const PROBE = { timeoutMs: 120_000, memory: 2 ** 30, cpuSeconds: 60 } as const;

/**
 * Reads the properties of a video file. Throws a {@link MediaError} with a message for files that are empty, truncated,
 * not video, sound only, or unsupported.
 */
export async function probe(path: string, signal?: AbortSignal): Promise<Probe> {
  const { size } = statSync(path);
  if (size === 0) throw new MediaError('The file is empty.');
  // In parallel, each in its own process; when one rejects the file, the others are stopped.
  const rest = new AbortController();
  const options = { signal: signal ? AbortSignal.any([signal, rest.signal]) : rest.signal, ...PROBE };
  const [stamps, first] = [timeStamps(path, options), firstFrame(path, options.signal)];
  // Their errors only count if the file's properties are valid.
  const later = Promise.allSettled([stamps, first]);
  try {
    const described = await describe(path, options);
    const { video, format, sounds } = described;
    const lying = await stamps;
    const shown = [...lying].sort((a, b) => a.seconds - b.seconds);
    const sorted = shown.map((s) => s.seconds);
    if (sorted.length === 0)
      throw new MediaError('There are no frames in this file: it was cut off before the first one.');
    checkStamps(sorted);
    if (!(await first)) throw new MediaError('No frame of this file can be decoded.');
    const times = sorted.map((t) => t - sorted[0]);
    const tagged = taggedFields(video.field_order);
    const middle = times[times.length >> 1] - 1;
    const fields = tagged ? await seenFields(path, tagged, middle, options) : 'progressive';
    const ahead = await seekAhead(path, { format: format?.format_name ?? '', codec: video.codec_name ?? '' }, lying);
    const tracks = await soundTracks(path, sounds, options);
    const keys = shown.flatMap(({ key }, index) => (key ? [index] : []));
    return { facts: factsOf({ ...described, fields, ahead, tracks }, sorted, size), times, keys };
  } finally {
    rest.abort();
    await later;
  }
}

interface Description {
  video: Stream;
  sounds: Stream[];
  timecode: string | undefined;
  format: z.infer<typeof probeSchema>['format'];
}

/** A file's streams, checked against the limits. */
export async function describe(path: string, options: RunOptions): Promise<Description> {
  const ask = ['-v', 'error', ...SAFE_INPUT, '-of', 'json'];
  const json = await run('ffprobe', [...ask, '-show_streams', '-show_format', '-i', path], {
    ...options,
    maxOutput: 4 << 20,
  });
  const { streams, format } = probeSchema.parse(JSON.parse(json.toString()));
  if (streams.length > MEDIA_LIMITS.streams)
    throw new MediaError(`This file holds ${streams.length} streams, more than ${MEDIA_LIMITS.streams}.`);
  const video = streams.find((s) => s.codec_type === 'video' && !s.disposition?.attached_pic);
  const sounds = streams.filter((s) => s.codec_type === 'audio');
  if (!video)
    throw new MediaError(
      sounds.length ? 'This file holds sound only, no picture.' : 'There is no picture in this file.',
    );
  if (video.codec_name === 'ansi' || !video.width || !video.height) throw new MediaError('This is not a video file.');
  if (Math.max(video.width, video.height) > MEDIA_LIMITS.side || video.width * video.height > MEDIA_LIMITS.pixels)
    throw new MediaError(
      `The picture is larger than ${MEDIA_LIMITS.side} × ${MEDIA_LIMITS.pixels / MEDIA_LIMITS.side} pixels.`,
    );
  // On the video stream, on a track of its own, or on the whole file.
  const timecode = [video, ...streams, format].map((s) => s?.tags?.timecode ?? s?.tags?.TIMECODE).find((t) => t);
  return { video, sounds, timecode, format };
}

/** Whether a frame can be decoded: headers can be intact in a file whose frames are missing. */
async function firstFrame(path: string, signal: AbortSignal): Promise<boolean> {
  const sums = await run(
    'ffmpeg',
    [
      ...QUIET,
      ...DECODE_LIMITS,
      ...SAFE_INPUT,
      '-i',
      path,
      '-map',
      `0:${PICTURES}`,
      '-frames:v',
      '1',
      '-f',
      'framemd5',
      '-',
    ],
    { signal, timeoutMs: PROBE.timeoutMs },
  );
  return /^0,/m.test(sums.toString());
}

/**
 * Time stamps of the frames in seconds, in file order. Counted while reading, so that counting stops when there are too
 * many. Frames before the start of a losslessly trimmed clip, kept as references only, are excluded.
 */
async function timeStamps(path: string, options: RunOptions): Promise<Stamp[]> {
  const stamps: Stamp[] = [];
  let rest = '';
  const take = (line: string): void => {
    const [shown, decoded, flags = ''] = line.split(',');
    const seconds = Number.parseFloat(shown);
    const early = seconds - Number.parseFloat(decoded);
    if (Number.isFinite(seconds) && !flags.includes('D'))
      stamps.push({ seconds, early: early > 0 ? early : 0, key: flags.startsWith('K') });
    if (stamps.length > MEDIA_LIMITS.frames)
      throw new MediaError(
        `This clip has more than ${MEDIA_LIMITS.frames} frames, which is more than can be worked on.`,
      );
  };
  await run(
    'ffprobe',
    [
      '-v',
      'error',
      ...SAFE_INPUT,
      '-select_streams',
      PICTURES,
      '-show_entries',
      'packet=pts_time,dts_time,flags',
      '-of',
      'csv=p=0',
      '-i',
      path,
    ],
    {
      ...options,
      onOutput(chunk) {
        const lines = (rest + chunk.toString()).split('\n');
        rest = lines.pop()!;
        lines.forEach(take);
      },
    },
  );
  take(rest);
  return stamps;
}

/** Rejects implausible time stamps. `stamps` are increasing. */
function checkStamps(stamps: readonly number[]): void {
  const length = stamps[stamps.length - 1] - stamps[0];
  if (length > MEDIA_LIMITS.seconds)
    throw new MediaError(
      `By its time stamps this clip is ${Math.round(length / 3600)} hours long, more than ${MEDIA_LIMITS.seconds / 3600}: they are damaged.`,
    );
  const gap = stamps.findIndex((t, i) => i > 0 && t - stamps[i - 1] > MEDIA_LIMITS.gapSeconds);
  if (gap > 0)
    throw new MediaError(
      `Frame ${gap} comes ${Math.round(stamps[gap] - stamps[gap - 1])} seconds after the one before: the time stamps are damaged.`,
    );
}

function factsOf(
  described: Description & { fields: Fields; ahead: number; tracks: AudioTrack[] },
  stamps: number[],
  bytes: number,
): MediaFacts {
  const { video, sounds, tracks, timecode, format, fields, ahead } = described;
  const pixel = pixelFormat(video.pix_fmt ?? '');
  const rotation = rotationOf(video);
  const turned = rotation === 90 || rotation === 270;
  const pixelAspect = aspectOf(video.sample_aspect_ratio);
  const squared = squareWidth(video.width!, pixelAspect);
  const [width, height] = turned ? [video.height!, squared] : [squared, video.height!];
  const measured = measuredRate(stamps);
  const rate = rateOf(video, measured);
  const variableRate = isVariable(stamps);
  const frameRate = variableRate && measured ? nearestRate(measured) : rate;
  const frameSeconds = frameRate.den / frameRate.num;
  const durationSeconds = stamps[stamps.length - 1] - stamps[0] + frameSeconds;
  return factsSchema.parse({
    probed: PROBE_VERSION,
    codec: video.codec_name ?? 'unknown',
    width,
    height,
    rotation,
    fields,
    pixelAspect,
    ...pixel,
    range: video.color_range === 'pc' || (video.pix_fmt ?? '').startsWith('yuvj') ? 'full' : 'limited',
    matrix: matrixOf(video.color_space, Math.min(width, height)),
    chromaSite: video.chroma_location === 'center' ? 'center' : 'left',
    tags: {
      range: tag(video.color_range),
      matrix: tag(video.color_space),
      primaries: tag(video.color_primaries),
      transfer: tag(video.color_transfer),
      fields: taggedFields(video.field_order) ? video.field_order : null,
    },
    frameRate,
    variableRate,
    startSeconds: stamps[0],
    seekAhead: ahead,
    durationSeconds,
    frames: variableRate ? Math.max(1, Math.round(durationSeconds / frameSeconds)) : stamps.length,
    audio: tracks.at(0) ?? null,
    otherAudio: tracks.slice(1),
    soundTracks: sounds.length,
    unreadSoundTracks: sounds.length - tracks.length,
    bitrate: Number(format?.bit_rate ?? (bytes * 8) / durationSeconds) || 0,
    recordedAt: format?.tags?.creation_time ?? video.tags?.creation_time ?? null,
    timecode: timecode && frameOf(timecode, frameRate) !== null ? timecode : null,
    camera: cameraOf({ ...video.tags, ...format?.tags }),
  });
}

/** A pixel aspect ratio beyond this, or its inverse, comes from a damaged header. */
const MOST_ASPECT = 4;
/** … and one this close to 1 from rounding: pixels count as square. */
const LEAST_ASPECT = 0.01;

/** Pixel aspect ratio; square if the file does not state one. */
function aspectOf(text: string | undefined): { num: number; den: number } {
  const [num, den] = (text ?? '').split(':').map(Number);
  const ratio = num / den;
  const isMeant = ratio <= MOST_ASPECT && ratio >= 1 / MOST_ASPECT && Math.abs(ratio - 1) > LEAST_ASPECT;
  return isMeant ? { num, den } : { num: 1, den: 1 };
}

/** Width with square pixels; rounded to even if it changes, so that chroma is aligned. */
function squareWidth(width: number, { num, den }: { num: number; den: number }): number {
  if (num === den) return width;
  const square = Math.min(MEDIA_LIMITS.side, Math.round((width * num) / den));
  return square + (square % 2);
}

const tag = (value: string | undefined): string | null => (!value || value === 'unknown' ? null : value);

export function pixelFormat(name: string): { depth: 8 | 10 | 12; chroma: '420' | '422' | '444' } {
  // Alpha is not used; the decoder omits it.
  const match = /^yuv[ja]?(420|422|444)p(?:(10|12)le)?$/.exec(name);
  if (!match)
    throw new MediaError(
      `Pictures stored as "${name || 'unknown'}" are not supported: only Y'CbCr at 8, 10 or 12 bits.`,
    );
  return { depth: Number(match[2] ?? 8) as 8 | 10 | 12, chroma: match[1] as '420' | '422' | '444' };
}

export function rotationOf(video: Stream): 0 | 90 | 180 | 270 {
  // The side data is counterclockwise.
  const anticlockwise = video.side_data_list?.find((s) => s.rotation !== undefined)?.rotation ?? 0;
  return ((((Math.round(-anticlockwise / 90) * 90) % 360) + 360) % 360) as 0 | 90 | 180 | 270;
}

/** The file's own matrix; without a tag, BT.709 from 720 lines on and BT.601 below (common practice). */
function matrixOf(name: string | undefined, shortSide: number): 'bt709' | 'bt2020' | 'bt601' {
  if (name === 'bt709') return 'bt709';
  if (name === 'bt2020nc' || name === 'bt2020c') return 'bt2020';
  if (name === 'smpte170m' || name === 'bt470bg' || name === 'fcc') return 'bt601';
  return shortSide >= 720 ? 'bt709' : 'bt601';
}
