import type { KindControls } from '../kinds/types';

/** Picks that add colours to a region, or exclude them. */
export const regionPicks: NonNullable<KindControls['picks']> = {
  like: { hint: 'Tap a colour to choose, or drag over it', run: (picks, area) => picks.like(area, false) },
  unlike: { hint: 'Tap a colour to leave out, or drag over it', run: (picks, area) => picks.like(area, true) },
};
