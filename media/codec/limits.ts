/**
 * What is taken in at most. The sizes are those of the largest cameras (8K, common practice) with room above; a frame of
 * that size takes 0.9 GB to decode (measured). Longer clips than half a day, and gaps of minutes between two frames, are damaged
 * time stamps: a proxy made by them would grow without end.
 */
export const MEDIA_LIMITS = {
  side: 8192,
  pixels: 8192 * 4608,
  frames: 1_500_000,
  seconds: 12 * 3600,
  gapSeconds: 120,
  streams: 32,
} as const;

/** The first stream of pictures that is no cover (stream specifier of the codec programs). */
export const PICTURES = 'V:0';

/** Keeps decoders from pictures that grow beyond the limit in the middle of a file. Stands before an `-i`. */
export const DECODE_LIMITS = ['-max_pixels', String(MEDIA_LIMITS.pixels)];
