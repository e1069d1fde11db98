/**
 * Rearranges a picture's 16-bit samples so that a general-purpose compressor works well on them: vertical differences,
 * zigzag-encoded (0, −1, 1, −2 …), all low bytes first, then all high bytes. Twelve bits are kept: all of a file's own
 * 8, 10 or 12, and averages to within a sixteenth of an 8-bit step.
 */

const BITS = 12;
const DROPPED = 16 - BITS;
const MOST = 2 ** BITS - 1;

const kept = (sample: number): number => Math.min(MOST, (sample + (1 << (DROPPED - 1))) >> DROPPED);

/** Packs planes of samples (0–65535), row by row, each `width` samples long. Returns two bytes per sample. */
export function packSamples(samples: Uint16Array, width: number): Uint8Array {
  const { length } = samples;
  const packed = new Uint8Array(2 * length);
  const above = new Int32Array(width);
  for (let row = 0; row < length; row += width)
    for (let x = 0; x < width; x += 1) {
      const value = kept(samples[row + x]);
      const difference = value - above[x];
      above[x] = value;
      const folded = (difference << 1) ^ (difference >> 31);
      packed[row + x] = folded;
      packed[length + row + x] = folded >> 8;
    }
  return packed;
}

/** Inverse of {@link packSamples}. */
export function unpackSamples(packed: Uint8Array, width: number): Uint16Array<ArrayBuffer> {
  const length = packed.length / 2;
  const samples = new Uint16Array(length);
  const above = new Int32Array(width);
  for (let row = 0; row < length; row += width)
    for (let x = 0; x < width; x += 1) {
      const folded = packed[row + x] | (packed[length + row + x] << 8);
      above[x] += (folded >>> 1) ^ -(folded & 1);
      samples[row + x] = above[x] << DROPPED;
    }
  return samples;
}
