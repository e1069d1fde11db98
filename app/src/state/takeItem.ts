import type { StepLists } from '@inkavo/core/model/lists';
import type { ShelfItem } from '@inkavo/core/model/shelf';
import { addLut, putInPlace, setProfile } from './stepLists';

/**
 * The lists of a clip with a shelf item taken, and the step to take in hand: a recipe replaces the clip's steps of its
 * kinds, a table is added, a profile is set where the clip converts.
 */
export function takeItem(lists: StepLists, item: ShelfItem): { lists: StepLists; id?: string } {
  if (item.kind === 'lut') return addLut(lists, item);
  if (item.kind === 'profile') return setProfile(lists, item.profile);
  const { steps, ids } = putInPlace(lists.clip, item.steps);
  return { lists: { ...lists, clip: steps }, id: ids[0] };
}
