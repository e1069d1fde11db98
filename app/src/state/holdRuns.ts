import { joined } from '@inkavo/core/model/lists';
import type { HoldTrouble } from '@inkavo/core/reading/holdCheck';
import { api } from '../api/client';
import { ClipRuns, type ClipRun, type Named } from './clipRuns';
import { listsOf, lookOfOpened } from './lists';

/** A checked clip, and where its grade does not hold. */
export interface Checked extends Named {
  /** Revision from the outing's list when it was checked: changes with the grade. */
  look: string;
  troubles: HoldTrouble[];
}
export type HoldRun = ClipRun<Named, Checked>;

async function readOne({ id, name }: Named, signal: AbortSignal): Promise<Checked> {
  const opened = await api.clip(id);
  const { report } = await api.holdCheck(id, joined(listsOf(opened)), null, { signal });
  return { id, name, look: lookOfOpened(opened), troubles: report.troubles };
}

/** Hold checks of several clips. */
export const holdRuns = new ClipRuns<Named, Checked>({
  key: 'inkavo-hold-checks',
  told: 'The hold check of several clips is done: its outing shows what was found.',
  readOne,
});
