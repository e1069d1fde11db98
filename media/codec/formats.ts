import type { MediaFacts } from '@inkavo/core/model/facts';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';

/** The planar format in which decoded frames of a file arrive. */
export const planarFormatOf = (f: MediaFacts): PlanarFormat => ({
  width: f.width,
  height: f.height,
  depth: f.depth,
  chroma: f.chroma,
  range: f.range,
  matrix: f.matrix,
  chromaSite: f.chromaSite,
});

/** The codec library's name of a planar pixel format. */
export const pixelFormatName = (f: Pick<PlanarFormat, 'depth' | 'chroma'>): string =>
  `yuv${f.chroma}p${f.depth === 8 ? '' : `${f.depth}le`}`;

/**
 * The pixel format to request from the decoder so that it returns code values unchanged. At 8 bits full range has a
 * format of its own; the plain one would be scaled to limited range.
 */
export const decodedPixelFormat = (f: Pick<PlanarFormat, 'depth' | 'chroma' | 'range'>): string =>
  f.depth === 8 && f.range === 'full' ? `yuvj${f.chroma}p` : pixelFormatName(f);

/**
 * Seconds to seek to so that decoding starts with the frame shown at `times[index]`: half a frame earlier, so that
 * rounded time stamps cannot skip it.
 */
export function seekSeconds(times: readonly number[], index: number, frameSeconds: number): number {
  if (index === 0) return 0;
  return (times[index] + times[index - 1]) / 2 || Math.max(0, times[index] - frameSeconds / 2);
}

/**
 * Input arguments for seeking relative to the first frame. Plain seeking is relative to the start of whichever stream
 * begins first, which may be the sound.
 */
export const seekArgs = (facts: Pick<MediaFacts, 'startSeconds'>, seconds: number): string[] =>
  seconds > 0 ? ['-seek_timestamp', '1', '-ss', (facts.startSeconds + seconds).toFixed(6)] : [];
