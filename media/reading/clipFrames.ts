import { fps } from '@inkavo/core/model/facts';
import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { conformFilters } from '../codec/conform';
import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { QUIET, run, SAFE_INPUT } from '../codec/run';
import { FILE_CODES, GOP, proxySize } from '../frames/proxy';
import type { Source } from '../frames/rest';

/** Pixels that a picture for reading is wide, at most. */
const WIDTH = 480;
/** Pictures that stand for a clip. */
export const READ_FRAMES = 24;
/** Of either clip, when they are matched. */
export const MATCH_FRAMES = 12;
/** So many keyframes of a proxy are enough to stand for a stretch. */
const ENOUGH = 12;

export interface ReadPicture {
  picture: PlanarPicture;
  frame: number;
  seconds: number;
}

/**
 * Pictures spread evenly over a stretch of a clip, each pixel one of the file's, not an average. From the proxy where
 * there is one, which is quick; it holds the file's code values at 8 bits. Frames count from the clip's first.
 */
export async function clipFrames(
  source: Source,
  {
    proxy,
    inFrame,
    outFrame,
    count = READ_FRAMES,
  }: { proxy?: string; inFrame: number; outFrame: number; count?: number },
  signal?: AbortSignal,
): Promise<ReadPicture[]> {
  const { facts } = source;
  const length = outFrame - inFrame + 1;
  // Of a long stretch of a proxy only keyframes are decoded, which lie a fixed number of frames apart.
  const whole = proxy !== undefined && length >= ENOUGH * GOP;
  const first = whole ? Math.ceil(inFrame / GOP) * GOP : inFrame;
  const spaced = Math.max(1, Math.floor(length / count));
  const every = whole ? Math.ceil(spaced / GOP) * GOP : spaced;
  const unit = whole ? GOP : 1;
  const from = proxy ? proxySize(source) : facts;
  const width = Math.min(from.width, WIDTH) & ~1;
  const height = Math.max(2, Math.round((from.height * width) / from.width) & ~1);
  const format: PlanarFormat = {
    width,
    height,
    depth: proxy || facts.depth === 8 ? 8 : 10,
    chroma: '420',
    range: facts.range,
    matrix: facts.matrix,
    chromaSite: facts.chromaSite,
  };
  const rate = `${facts.frameRate.num}/${facts.frameRate.den}`;
  // Into a proxy it is sought, half a frame early, so that rounding never leaves out the first one.
  const sought = proxy !== undefined && !whole && first > 0;
  const begin = sought ? 0 : first / unit;
  const filter = [
    ...(proxy ? [] : conformFilters(facts)),
    ...(facts.variableRate && !proxy ? [`fps=${rate}:round=near`] : []),
    `select='between(n,${begin},${begin + (outFrame - first) / unit})*not(mod(n-${begin},${every / unit}))'`,
    `scale=${width}:${height}:flags=neighbor:in_range=full:out_range=full`,
    ...(proxy ? FILE_CODES : []),
    `format=${format.depth === 8 ? 'yuv420p' : 'yuv420p10le'}`,
  ].join(',');
  const raw = await run(
    'ffmpeg',
    [
      ...QUIET,
      ...DECODE_LIMITS,
      ...SAFE_INPUT,
      ...(whole ? ['-skip_frame', 'nokey'] : []),
      ...(sought ? ['-ss', ((first - 0.5) / fps(facts)).toFixed(6)] : []),
      '-i',
      proxy ?? source.path,
      '-an',
      '-sn',
      '-dn',
      '-map',
      `0:${PICTURES}`,
      '-vf',
      filter,
      '-fps_mode',
      'passthrough',
      '-frames:v',
      String(Math.ceil((outFrame - first + 1) / every)),
      '-f',
      'rawvideo',
      '-',
    ],
    { signal, timeoutMs: 600_000 },
  );
  const bytes = pictureBytes(format);
  const data = new Uint8Array(raw).buffer;
  return Array.from({ length: Math.floor(raw.length / bytes) }, (_, i) => ({
    picture: planesOver(data.slice(i * bytes, (i + 1) * bytes), format),
    frame: first + i * every,
    seconds: (first + i * every) / fps(facts),
  }));
}
