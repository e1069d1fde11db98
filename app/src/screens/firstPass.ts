import type { ClipClass } from '@inkavo/core/reading/estimate';
import type { FirstPass } from '@inkavo/core/reading/firstPass';
import type { Setting } from '@inkavo/core/reading/settings';
import { isLikely } from '../state/likely';

/** What a clip seems to be, after "looks like". */
export const FOUND: Record<ClipClass, string> = {
  water: 'water',
  haze: 'haze',
  flat: 'a flat recording',
  white: 'a wrong white',
  good: 'nothing wrong',
};

/** Where a clip was filmed, as it seems; nothing is ruled out by it. */
export const guessOf = (pass: FirstPass): Setting => (isLikely(pass) ? pass.setting : 'unsure');
