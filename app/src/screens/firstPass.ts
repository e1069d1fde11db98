import type { ClipClass } from '@inkavo/core/reading/estimate';
import type { FirstPass } from '@inkavo/core/reading/firstPass';
import type { Setting } from '@inkavo/core/reading/settings';
import { isLikely } from '../state/likely';

/** The kind of clip found, after "looks like". */
export const FOUND: Record<ClipClass, string> = {
  water: 'water',
  haze: 'haze',
  flat: 'a flat recording',
  white: 'a wrong white',
  good: 'nothing wrong',
};

/** The detected setting of a clip, which rules nothing out. */
export const guessOf = (pass: FirstPass): Setting => (isLikely(pass) ? pass.setting : 'unsure');
