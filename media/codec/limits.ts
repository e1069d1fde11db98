/**
 * Input limits. Sizes exceed those of the largest cameras (8K, common practice); decoding a frame of that size takes
 * 0.9 GB (measured). Clips longer than half a day, and gaps of minutes between frames, are damaged time stamps: a proxy
 * would grow without end.
 */
export const MEDIA_LIMITS = {
  side: 8192,
  pixels: 8192 * 4608,
  frames: 1_500_000,
  seconds: 12 * 3600,
  gapSeconds: 120,
  streams: 32,
} as const;

/** The first video stream that is not cover art (stream specifier of the codec programs). */
export const PICTURES = 'V:0';

/** Stops decoders from accepting pictures that exceed the limit in the middle of a file. Goes before an `-i`. */
export const DECODE_LIMITS = ['-max_pixels', String(MEDIA_LIMITS.pixels)];
