import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { decodedPixelFormat, planarFormatOf, seekArgs, seekSeconds } from '../codec/formats';
import { conformFilters, filterArgs, isInterlaced } from '../codec/conform';
import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { MediaError, QUIET, run, SAFE_INPUT } from '../codec/run';

/** Source of frames of an original. */
export interface Source {
  path: string;
  facts: MediaFacts;
  times: readonly number[];
  /** Indices of keyframes in `times`, increasing, if known. */
  keys?: readonly number[];
}

/** Time stamps within this many seconds of the midpoint between two frames of the even timeline count as before it. */
const NEAR = 1e-4;

/** Index of the original's frame shown at frame n of the clip's even timeline. */
export function originalIndex({ facts, times }: Source, frame: number): number {
  if (!facts.variableRate) return Math.min(times.length - 1, Math.max(0, frame));
  const seconds = (frame + 0.5) / fps(facts);
  const after = times.findIndex((t) => t > seconds + NEAR);
  return Math.max(0, (after < 0 ? times.length : after) - 1);
}

/**
 * The filter from the original's frames, starting at that for frame n of the clip's timeline, to the timeline:
 * equivalent to {@link originalIndex}.
 */
export function evenFilter(source: Source, frame: number): string {
  const { num, den } = source.facts.frameRate;
  const ahead = source.times[originalIndex(source, frame)] - (frame * den) / num - NEAR;
  return `setpts=PTS-STARTPTS+${ahead.toFixed(6)}/TB,fps=${num}/${den}:round=near:start_time=0`;
}

/** Input arguments so that the original's frame at an index is decoded first, as processed. */
export function decodingFrom({ facts, times }: Source, index: number): { seek: string[]; filters: string[] } {
  // Deinterlacing needs the adjacent frames.
  const lead = isInterlaced(facts) && index > 0 ? 1 : 0;
  const first = index - lead;
  if (facts.seekAhead === 0) {
    const at = seekSeconds(times, first, 1 / fps(facts));
    return { seek: seekArgs(facts, at), filters: conformFilters(facts, lead) };
  }
  let begin = first;
  while (begin > 0 && times[begin] > times[first] - facts.seekAhead) begin -= 1;
  // Counted from the file's first frame.
  if (begin === 0) return { seek: [], filters: conformFilters(facts, index) };
  // Time stamps may be rounded to whole frames: a quarter of a frame early is never rounded to the previous one.
  const quarter = Math.min(1 / fps(facts), times[first] - times[first - 1]) / 4;
  const sought = `trim=start=${(times[first] - times[begin] - quarter).toFixed(6)}`;
  return { seek: seekArgs(facts, times[begin] - quarter), filters: [sought, ...conformFilters(facts, lead)] };
}

/** Decodes `count` frames of the original, starting at an index, through `more` filters. */
const decodeArgs = (source: Source, index: number, count = 1, more: readonly string[] = []): string[] => {
  const { seek, filters } = decodingFrom(source, index);
  return [
    ...QUIET,
    // Only a few frames are needed: frame threading would only multiply memory use.
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

/** A decoded frame at full size and in the file's own planar format. */
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
 * Decoded frames of the clip's timeline, in order: the distinct frames of the original, concatenated, and the index
 * among them for each. A damaged file may give fewer.
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

/** Size of a picture scaled down to `width`; never enlarged. */
export function fitWidth(
  facts: Pick<MediaFacts, 'width' | 'height'>,
  width: number,
): { width: number; height: number } {
  const w = Math.min(facts.width, Math.max(16, Math.round(width)));
  return { width: w, height: Math.max(1, Math.round((facts.height * w) / facts.width)) };
}

/** A part of a frame in the file's pixels, after rotation. Even numbers, so that chroma stays aligned. */
export interface FramePart {
  x: number;
  y: number;
  width: number;
  height: number;
}

/**
 * A still frame, or a part of it: from the original, at 16 bits and 4:4:4, averaged down to at most `width`. Code
 * values are the original's times 2^(16 − depth).
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

/** The same from a decoded picture. */
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

/** The filter that makes a still frame from a decoded one, or from a part of it, and the resulting format. */
function scaling(facts: MediaFacts, width: number, part?: FramePart): { filter: string; format: PlanarFormat } {
  const whole = part ?? facts;
  const size = fitWidth(whole, width);
  const native = size.width === whole.width;
  // Equal ranges on both sides leave code values unchanged. With explicit siting, chroma is interpolated exactly as in
  // the CPU backend for exports.
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
