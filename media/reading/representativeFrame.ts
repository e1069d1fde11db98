import { lumaFrames } from './lumaFrames';
import type { Source } from '../frames/rest';

/** Candidate positions as shares of the clip's length. */
const PLACES = [0.2, 0.35, 0.5, 0.65, 0.8];
/**
 * The default frame stays unless its score is below this share of the best: the demo's lie at 0.98 and above, a blurred
 * start at 0.41, a dark one at 0.57.
 */
const GOOD_ENOUGH = 0.75;
/** Penalty of a frame at either end relative to the middle. */
const END_LOSS = 0.2;
const BINS = 64;
/** Pixel distances of the fine and the coarse differences whose ratio measures sharpness. */
const FINE = 1;
const COARSE = 6;

/** Entropy of a picture's levels, 0–1: low if it is dark, overexposed or empty. */
function spreadOf(luma: Uint8Array): number {
  const counts = new Float64Array(BINS);
  for (const v of luma) counts[(v * BINS) >> 8] += 1;
  let bits = 0;
  for (const n of counts) if (n > 0) bits -= (n / luma.length) * Math.log2(n / luma.length);
  return bits / Math.log2(BINS);
}

/** Ratio of fine to coarse differences: drops with blur, independent of contrast. */
function sharpnessOf(luma: Uint8Array, width: number): number {
  let [fine, coarse] = [0, 0];
  const end = luma.length - COARSE * width;
  for (let i = 0; i < end; i += 3) {
    fine += Math.abs(luma[i] - luma[i + FINE]) + Math.abs(luma[i] - luma[i + FINE * width]);
    coarse += Math.abs(luma[i] - luma[i + COARSE]) + Math.abs(luma[i] - luma[i + COARSE * width]);
  }
  return coarse === 0 ? 0 : fine / coarse;
}

/**
 * The representative frame of a clip: `usual`, unless it is clearly less sharp or worse exposed than others (a hand in
 * front of the lens, the camera being raised); then the best of the candidates, preferring the middle. Read from the
 * proxy.
 */
export async function representativeFrame(
  source: Source,
  { proxy, usual }: { proxy: string; usual: number },
  signal?: AbortSignal,
): Promise<number> {
  const last = source.facts.frames - 1;
  const candidates = [...new Set([usual, ...PLACES.map((p) => Math.round(p * last))])];
  const scores = await Promise.all(
    candidates.map(async (frame) => {
      const { luma, width, frames } = await lumaFrames(source, { proxy, first: frame, last: frame }, signal);
      return frames ? spreadOf(luma) * sharpnessOf(luma, width) : 0;
    }),
  );
  if (scores[0] >= GOOD_ENOUGH * Math.max(...scores)) return usual;
  const weighed = candidates.map((frame, i) => scores[i] * (1 - END_LOSS * Math.abs((2 * frame) / last - 1)));
  return candidates[weighed.indexOf(Math.max(...weighed))];
}
