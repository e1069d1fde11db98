import { newStep } from '../model/grade';
import type { Proposal } from './firstPass';
import { inCodeValues, noiseInWords, type PredictedNoise } from './noiseAfter';

/**
 * Noise from which reduction is offered: about four 8-bit code values per channel (common practice: clearly visible at
 * full size, and typical of dim light and of red raised under water).
 */
const SEEN_LIGHT = 3 / 255;
const SEEN_COLOUR = 6 / 255;
/** A channel is named if its noise exceeds green's by this factor. */
const STANDS_OUT = 1.5;

/** The noise level, and the noisiest channel, in words. */
function said(seen: PredictedNoise): string {
  const { red, green, blue } = seen;
  const [most, channel] = red > blue ? [red, 'red'] : [blue, 'blue'];
  const one = most > STANDS_OUT * green ? `, ${inCodeValues(most)} in ${channel}` : '';
  return `Noise of ${noiseInWords(seen)}${one}`;
}

/**
 * Proposes noise reduction where noise is clearly visible; otherwise null. It costs processing time, as its reason
 * states, so it is offered but not selected by default. `steps`: whether the noise was predicted after steps.
 */
export function proposeNoise(seen: PredictedNoise, steps: boolean): Proposal | null {
  if (seen.light < SEEN_LIGHT && seen.colour < SEEN_COLOUR) return null;
  const after = steps ? ' after these steps' : '';
  return {
    step: newStep('noise', 'first-noise', { amount: 1 }),
    reason: `${said(seen)}${after}. Adjacent frames are averaged where they show the same; exports take several times as long.`,
  };
}
