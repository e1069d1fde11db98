/** Bands of luma by which the noise is told apart, and their number of 8-bit values. */
const BANDS = 16;
const BAND = 256 / BANDS;
/** A band with fewer blocks than this takes its neighbours' noise. */
const ENOUGH = 24;
/**
 * Blocks whose differences are noise alone are the quiet ones: this share of a band's blocks is taken to be quieter than the
 * noise as it is on average. Of 256 independent pixels a quarter of blocks has less than 0.94 of it.
 */
const QUIET = 0.25;
const QUIET_IS = 0.94;

/** What a frame's blocks differ by from the frame beside it, once moved. */
export interface Residuals {
  /** Mean luma of each block, 0–255. */
  luma: Float32Array;
  /** Noise variance of each block, in squared code values of the file: luma, and the mean of both chroma planes. */
  variance: Float32Array;
  chroma: Float32Array;
}

/** Noise variance by luma, 0–255: of luma and of chroma, in squared code values of the file. */
export interface NoiseLevel {
  luma: Float32Array;
  chroma: Float32Array;
}

const quiet = (values: number[]): number => values.sort((a, b) => a - b)[Math.floor(QUIET * values.length)] / QUIET_IS;

function curve(luma: Float32Array, variance: Float32Array): Float32Array {
  const bands: number[][] = Array.from({ length: BANDS }, () => []);
  // Blocks that a codec repeated hold no noise that another frame could tell.
  luma.forEach((l, i) => variance[i] > 0 && bands[Math.min(BANDS - 1, Math.floor(l / BAND))].push(variance[i]));
  const known = bands.map((b) => (b.length >= ENOUGH ? quiet(b) : undefined));
  const all = bands.flat();
  const whole = all.length > 0 ? quiet(all) : 0;
  const nearest = (band: number): number => {
    for (let d = 0; d < BANDS; d += 1) {
      const found = [known[band - d], known[band + d]].filter((v) => v !== undefined);
      if (found.length) return found.reduce((s, v) => s + v, 0) / found.length;
    }
    return whole;
  };
  const at = Array.from({ length: BANDS }, (_, b) => nearest(b));
  return Float32Array.from({ length: 256 }, (_, v) => {
    const p = Math.min(BANDS - 1, Math.max(0, (v - BAND / 2) / BAND));
    const low = Math.floor(p);
    const high = Math.min(BANDS - 1, low + 1);
    return at[low] + (p - low) * (at[high] - at[low]);
  });
}

/** How strong a frame's noise is, by how bright the picture is: what quiet blocks of each band of luma differ by. */
export const noiseLevel = ({ luma, variance, chroma }: Residuals): NoiseLevel => ({
  luma: curve(luma, variance),
  chroma: curve(luma, chroma),
});
