import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { QUIET, run, SAFE_INPUT } from '../codec/run';
import { FILE_CODES, proxySize } from '../frames/proxy';
import { decodingFrom, evenFilter, originalIndex, type Source } from '../frames/rest';

/** Maximum width in pixels of a picture for tracking. */
const WIDTH = 480;

export interface LumaFrames {
  width: number;
  height: number;
  /** 8-bit luma (the file's code values in its own range), concatenated. */
  luma: Uint8Array;
  frames: number;
}

/** Luma of all frames of an inclusive range, downsampled. From the proxy if there is one. */
export async function lumaFrames(
  source: Source,
  { proxy, first, last }: { proxy?: string; first: number; last: number },
  signal?: AbortSignal,
): Promise<LumaFrames> {
  const { path, facts } = source;
  const from = proxy ? proxySize({ facts }) : facts;
  const width = Math.min(from.width, WIDTH) & ~1;
  const height = Math.max(2, Math.round((from.height * width) / from.width) & ~1);
  const rate = facts.frameRate.num / facts.frameRate.den;
  // Seeks half a frame early, so that rounding never skips the first one.
  const sought = ['-ss', Math.max(0, (first - 0.5) / rate).toFixed(6)];
  const { seek, filters } = proxy ? { seek: sought, filters: [] } : decodingFrom(source, originalIndex(source, first));
  const filter = [
    ...filters,
    ...(facts.variableRate && !proxy ? [evenFilter(source, first)] : []),
    `scale=${width}:${height}:flags=area:in_range=full:out_range=full`,
    ...(proxy ? FILE_CODES : []),
    'format=gray',
  ].join(',');
  const raw = await run(
    'ffmpeg',
    [
      ...QUIET,
      ...DECODE_LIMITS,
      ...SAFE_INPUT,
      ...seek,
      ...['-i', proxy ?? path, '-an', '-sn', '-dn', '-map', `0:${PICTURES}`, '-vf', filter],
      ...['-fps_mode', 'passthrough', '-frames:v', String(last - first + 1), '-f', 'rawvideo', '-'],
    ],
    { signal },
  );
  return { width, height, luma: new Uint8Array(raw), frames: Math.floor(raw.length / (width * height)) };
}
