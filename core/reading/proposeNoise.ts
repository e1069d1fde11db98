import { newStep } from '../model/grade';
import type { Proposal } from './firstPass';
import { inCodeValues, noiseInWords, type SeenNoise } from './noiseAfter';

/**
 * Noise from which taking it out is offered: about four code values of 8 bits on each channel (common practice: plainly seen at
 * full size, and what dim light and a red that was raised under water come to).
 */
const SEEN_LIGHT = 3 / 255;
const SEEN_COLOUR = 6 / 255;
/** A channel is named where it has so many times the noise of green. */
const STANDS_OUT = 1.5;

/** The noise, and the channel that stands out, in words. */
function said(seen: SeenNoise): string {
  const { red, green, blue } = seen;
  const [most, channel] = red > blue ? [red, 'red'] : [blue, 'blue'];
  const one = most > STANDS_OUT * green ? `, ${inCodeValues(most)} in ${channel}` : '';
  return `Noise of ${noiseInWords(seen)}${one}`;
}

/**
 * A step that takes noise out, where it is plainly seen; else null. It has a price, which its reason tells: to be offered, not
 * taken unasked. `steps`: whether the noise was told after some.
 */
export function proposeNoise(seen: SeenNoise, steps: boolean): Proposal | null {
  if (seen.light < SEEN_LIGHT && seen.colour < SEEN_COLOUR) return null;
  const after = steps ? ' after these steps' : '';
  return {
    step: newStep('noise', 'first-noise', { amount: 1 }),
    reason: `${said(seen)}${after}. Frames next to each other are averaged where they show the same; an export takes several times as long.`,
  };
}
