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

/** The codec's name of a planar pixel format. */
export const pixelFormatName = (f: Pick<PlanarFormat, 'depth' | 'chroma'>): string =>
  `yuv${f.chroma}p${f.depth === 8 ? '' : `${f.depth}le`}`;

/**
 * The pixel format to ask the decoder for, so that it hands out the code values as they are. At 8 bits it has a format
 * of its own for full range; the plain one would be squeezed into limited range.
 */
export const decodedPixelFormat = (f: Pick<PlanarFormat, 'depth' | 'chroma' | 'range'>): string =>
  f.depth === 8 && f.range === 'full' ? `yuvj${f.chroma}p` : pixelFormatName(f);

/**
 * Seconds to seek to so that the first frame out is the one shown at `times[index]`: half a frame before it, so that
 * rounding in time stamps cannot skip it.
 */
export function seekSeconds(times: readonly number[], index: number, frameSeconds: number): number {
  if (index === 0) return 0;
  return (times[index] + times[index - 1]) / 2 || Math.max(0, times[index] - frameSeconds / 2);
}

/**
 * Input arguments that seek to a time counted from the first frame. Where sound begins before the picture, or time does
 * not begin at 0, plain seeking counts from elsewhere: from the start of whichever stream is first.
 */
export const seekArgs = (facts: Pick<MediaFacts, 'startSeconds'>, seconds: number): string[] =>
  seconds > 0 ? ['-seek_timestamp', '1', '-ss', (facts.startSeconds + seconds).toFixed(6)] : [];
