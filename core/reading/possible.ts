import type { ClipClass } from './estimate';

import type { Setting } from './settings';

/** Possible classes of a clip by where it was filmed. */
export const POSSIBLE: Record<Setting, readonly ClipClass[]> = {
  water: ['water'],
  haze: ['haze', 'flat'],
  air: ['flat', 'white', 'good'],
  unsure: ['water', 'haze', 'flat', 'white', 'good'],
};

/** Where a clip of a class was filmed. */
export const settingOf = (found: ClipClass): Setting => (found === 'water' || found === 'haze' ? found : 'air');
