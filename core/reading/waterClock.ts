import { depthAt, type DiveLog } from '../model/diveLog';
import { brightColour } from './brightColour';
import type { ReadFrame } from './readFrames';

/** Alignment of a clip's colour with a dive log. */
export interface ClockFit {
  /** Second of the dive at the clip's first frame. */
  offset: number;
  /** Correlation of colour and depth there, 0–1. */
  agreement: number;
}

/** Minimum correlation. */
export const SURE = 0.8;

/**
 * Finds the second of a dive at which a clip begins from its colour: red relative to green falls with depth, so the
 * offset with the strongest negative correlation is used. Null where the depth does not change or no offset correlates.
 * `frames` and their `seconds` are spread over the clip.
 */
export function clockByColour(frames: readonly ReadFrame[], seconds: readonly number[], log: DiveLog): ClockFit | null {
  const reds = frames.map((f) => {
    const [r, g] = brightColour([f]);
    return Math.log(Math.max(1e-4, r) / Math.max(1e-4, g));
  });
  const clip = Math.max(...seconds);
  const end = log.samples[log.samples.length - 1].seconds;
  const step = Math.max(0.25, (end - clip) / 4000);
  let best: ClockFit | null = null;
  for (let offset = 0; offset + clip <= end + 1e-6; offset += step) {
    const agreement = -correlation(
      reds,
      seconds.map((t) => depthAt(log, t + offset)),
    );
    if (agreement > (best?.agreement ?? 0)) best = { offset, agreement };
  }
  return best && best.agreement >= SURE ? best : null;
}

function correlation(a: readonly number[], b: readonly number[]): number {
  const mean = (v: readonly number[]): number => v.reduce((s, x) => s + x, 0) / v.length;
  const [ma, mb] = [mean(a), mean(b)];
  let [ab, aa, bb] = [0, 0, 0];
  a.forEach((x, i) => {
    ab += (x - ma) * (b[i] - mb);
    aa += (x - ma) ** 2;
    bb += (b[i] - mb) ** 2;
  });
  // A depth that varies by less than a decimetre carries no information.
  return bb / b.length < 0.01 || aa === 0 ? 0 : ab / Math.sqrt(aa * bb);
}
