import { decodedPixelFormat } from '../codec/formats';
import { MediaError, QUIET, run } from '../codec/run';
import { writeWhole } from '../files';
import { clipFrames } from '../reading/clipFrames';
import { BACKGROUND } from './proxy';
import type { Source } from './rest';

/** Number of frames in a strip. */
export const STRIP_FRAMES = 12;
const STRIP_HEIGHT = 54;

export interface StripOptions {
  proxy?: string;
  /** Range of the clip, inclusive. Default: all. */
  first?: number;
  last?: number;
  signal?: AbortSignal;
}

/**
 * The filmstrip under the picture: one JPEG of {@link STRIP_FRAMES} pictures side by side. From the proxy if there is
 * one.
 */
export async function stripOf(
  source: Source,
  { proxy, first = 0, last = source.facts.frames - 1, signal }: StripOptions = {},
): Promise<Buffer> {
  const frames = last - first + 1;
  const count = STRIP_FRAMES;
  const pictures = await clipFrames(source, { proxy, inFrame: first, outFrame: last, count }, { signal });
  if (pictures.length === 0) throw new MediaError('No frame of this clip could be decoded.');
  // A short clip has fewer frames, and a damaged one gives fewer.
  const shown = Array.from({ length: count }, (_, k) => {
    const wanted = first + (k * frames) / count;
    return pictures.reduce((best, p) => (Math.abs(p.frame - wanted) < Math.abs(best.frame - wanted) ? p : best));
  });
  const { format } = shown[0].picture;
  const filter = [
    `scale=-2:${STRIP_HEIGHT}:in_range=full:out_range=full`,
    'format=yuv420p',
    `setparams=range=${format.range === 'full' ? 'pc' : 'tv'}`,
    'scale=out_range=full',
    'format=yuvj420p',
    `tile=${count}x1`,
  ].join(',');
  const input = Buffer.concat(shown.map(({ picture }) => Buffer.from(picture.y.buffer)));
  return run(
    'ffmpeg',
    [
      ...[...QUIET, '-f', 'rawvideo', '-pix_fmt', decodedPixelFormat({ ...format, range: 'limited' })],
      ...['-s', `${format.width}x${format.height}`, '-i', '-'],
      ...['-vf', filter, '-frames:v', '1', '-q:v', '4', '-f', 'mjpeg', '-'],
    ],
    { input, signal, nice: BACKGROUND },
  );
}

/** Writes the strip of a whole clip to a file. */
export async function makeStrip(source: Source, path: string, options: StripOptions = {}): Promise<void> {
  writeWhole(path, await stripOf(source, options));
}
