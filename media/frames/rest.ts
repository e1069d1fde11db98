import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { decodedPixelFormat, planarFormatOf, seekArgs, seekSeconds } from '../codec/formats';
import { conformFilters, filterArgs, isInterlaced } from '../codec/conform';
import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { MediaError, QUIET, run, SAFE_INPUT } from '../codec/run';

/** Where frames of one original come from. */
export interface Source {
  path: string;
  facts: MediaFacts;
  times: readonly number[];
  /** Indices of keyframes in `times`, rising, where they are known. */
  keys?: readonly number[];
}

/** A time stamp that lies this near to the middle between two frames of the even timeline, in seconds, is before it. */
const NEAR = 1e-4;

/** Index into the original's frames of frame n of the clip's even timeline. */
export function originalIndex({ facts, times }: Source, frame: number): number {
  if (!facts.variableRate) return Math.min(times.length - 1, Math.max(0, frame));
  const seconds = (frame + 0.5) / fps(facts);
  const after = times.findIndex((t) => t > seconds + NEAR);
  return Math.max(0, (after < 0 ? times.length : after) - 1);
}

/**
 * The filter that brings frames of the original, from that of frame n of the clip's timeline on, to that timeline: the same as
 * {@link originalIndex} frame by frame.
 */
export function evenFilter(source: Source, frame: number): string {
  const { num, den } = source.facts.frameRate;
  const ahead = source.times[originalIndex(source, frame)] - (frame * den) / num - NEAR;
  return `setpts=PTS-STARTPTS+${ahead.toFixed(6)}/TB,fps=${num}/${den}:round=near:start_time=0`;
}

/** How decoding begins so that the original's frame at an index is the first to come out, as it is worked on. */
export function decodingFrom({ facts, times }: Source, index: number): { seek: string[]; filters: string[] } {
  // Deinterlacing needs the frames on either side.
  const lead = isInterlaced(facts) && index > 0 ? 1 : 0;
  const first = index - lead;
  if (facts.seekAhead === 0) {
    const at = seekSeconds(times, first, 1 / fps(facts));
    return { seek: seekArgs(facts, at), filters: conformFilters(facts, lead) };
  }
  let begin = first;
  while (begin > 0 && times[begin] > times[first] - facts.seekAhead) begin -= 1;
  // From the file's first frame on they are counted.
  if (begin === 0) return { seek: [], filters: conformFilters(facts, index) };
  // Time stamps may be rounded to whole frames: a quarter of one before a frame is never rounded to the one before.
  const quarter = Math.min(1 / fps(facts), times[first] - times[first - 1]) / 4;
  const sought = `trim=start=${(times[first] - times[begin] - quarter).toFixed(6)}`;
  return { seek: seekArgs(facts, times[begin] - quarter), filters: [sought, ...conformFilters(facts, lead)] };
}

/** Decodes `count` frames of the original, from an index on, through `more` filters. */
const decodeArgs = (source: Source, index: number, count = 1, more: readonly string[] = []): string[] => {
  const { seek, filters } = decodingFrom(source, index);
  return [
    ...QUIET,
    // Few frames are wanted: threads that each decode a frame of their own would only multiply the memory.
    '-threads',
    '4',
    '-thread_type',
    'slice',
    ...DECODE_LIMITS,
    ...SAFE_INPUT,
    ...seek,
    '-i',
    source.path,
    '-map',
    `0:${PICTURES}`,
    '-an',
    '-sn',
    '-frames:v',
    String(count),
    ...filterArgs([...filters, ...more]),
  ];
};

/** A decoded frame at its full size and in the file's own planar format. */
export async function decodeFrame(source: Source, frame: number, signal?: AbortSignal): Promise<PlanarPicture> {
  const format = planarFormatOf(source.facts);
  const raw = await run(
    'ffmpeg',
    [
      ...decodeArgs(source, originalIndex(source, frame)),
      ...['-pix_fmt', decodedPixelFormat(format), '-f', 'rawvideo', '-'],
    ],
    { signal },
  );
  return pictureFrom(raw, format);
}

/**
 * Decoded frames of the clip's timeline, in order: as many of the original as they are made from, one after the other, and
 * which of these each of them is. A file that is damaged may give fewer.
 */
export async function decodeFrames(
  source: Source,
  wanted: readonly number[],
  signal?: AbortSignal,
): Promise<{ format: PlanarFormat; frames: ArrayBuffer; order: number[] }> {
  const format = planarFormatOf(source.facts);
  const indices = wanted.map((n) => originalIndex(source, n));
  const first = indices[0];
  const count = indices[indices.length - 1] - first + 1;
  const raw = await run(
    'ffmpeg',
    [
      ...decodeArgs(source, first, count),
      ...['-fps_mode', 'passthrough', '-pix_fmt', decodedPixelFormat(format), '-f', 'rawvideo', '-'],
    ],
    { signal },
  );
  return { format, frames: new Uint8Array(raw).buffer, order: indices.map((i) => i - first) };
}

/** Size of a picture scaled to fit `width`, never enlarged. */
export function fitWidth(
  facts: Pick<MediaFacts, 'width' | 'height'>,
  width: number,
): { width: number; height: number } {
  const w = Math.min(facts.width, Math.max(16, Math.round(width)));
  return { width: w, height: Math.max(1, Math.round((facts.height * w) / facts.width)) };
}

/** A part of a frame in the file's pixels, upright. Even numbers, so that chroma samples stay where they are. */
export interface FramePart {
  x: number;
  y: number;
  width: number;
  height: number;
}

/**
 * A frame at rest, or a part of it: from the original, at 16 bits and 4:4:4, averaged down to at most `width`. Code
 * values keep their meaning: each is the original's times 2^(16 − depth).
 */
export async function restFrame(
  source: Source,
  frame: number,
  width: number,
  signal?: AbortSignal,
  part?: FramePart,
): Promise<PlanarPicture> {
  const { filter, format } = scaling(source.facts, width, part);
  const raw = await run(
    'ffmpeg',
    [...decodeArgs(source, originalIndex(source, frame), 1, [filter]), '-f', 'rawvideo', '-'],
    { signal },
  );
  return pictureFrom(raw, format);
}

/** The same of a picture that is decoded already. */
export async function restOf(
  picture: PlanarPicture,
  facts: MediaFacts,
  width: number,
  signal?: AbortSignal,
  part?: FramePart,
): Promise<PlanarPicture> {
  const { filter, format } = scaling(facts, width, part);
  const from = picture.format;
  const raw = await run(
    'ffmpeg',
    [
      ...QUIET,
      ...['-f', 'rawvideo', '-pix_fmt', decodedPixelFormat(from), '-s', `${from.width}x${from.height}`, '-i', '-'],
      ...['-vf', filter, '-f', 'rawvideo', '-'],
    ],
    { signal, input: Buffer.from(picture.y.buffer) },
  );
  return pictureFrom(raw, format);
}

/** The filter that makes a frame at rest of a decoded one, or of a part of it, and what comes of it. */
function scaling(facts: MediaFacts, width: number, part?: FramePart): { filter: string; format: PlanarFormat } {
  const whole = part ?? facts;
  const size = fitWidth(whole, width);
  const native = size.width === whole.width;
  // The same range on both sides leaves code values alone. With its place stated, chroma is interpolated exactly as the
  // CPU backend does it for exports.
  const flags = `${native ? 'bilinear' : 'area'}+accurate_rnd+full_chroma_int+full_chroma_inp`;
  const site = `in_h_chr_pos=${facts.chromaSite === 'left' ? 0 : 128}:in_v_chr_pos=128`;
  const cut = part ? `crop=${part.width}:${part.height}:${part.x}:${part.y}:exact=1,` : '';
  const filter = `${cut}scale=${size.width}:${size.height}:flags=${flags}:in_range=full:out_range=full:${site},format=yuv444p16le`;
  return { filter, format: { ...planarFormatOf(facts), ...size, depth: 16, chroma: '444' } };
}

function pictureFrom(raw: Buffer, format: PlanarFormat): PlanarPicture {
  const copy = new Uint8Array(raw).buffer;
  try {
    return planesOver(copy, format);
  } catch {
    throw new MediaError('This frame cannot be decoded: the file is damaged here.');
  }
}
