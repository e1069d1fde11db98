import { joined } from '@inkavo/core/model/lists';
import { lookOf } from '@inkavo/core/model/outing';
import type { HeldTrouble } from '@inkavo/core/reading/holdCheck';
import { api } from '../api/client';
import { ClipRuns, type ClipRun } from './clipRuns';
import { listsOf } from './lists';

interface ToCheck {
  id: string;
  name: string;
}

/** A clip that was checked, and where its grade does not hold. */
export interface Checked extends ToCheck {
  /** As in the outing's list, when it was checked: it changes with the grade. */
  look: string;
  troubles: HeldTrouble[];
}
export type HoldRun = ClipRun<ToCheck, Checked>;

async function readOne({ id, name }: ToCheck, signal: AbortSignal): Promise<Checked> {
  const opened = await api.clip(id);
  const { clip, camera, outing } = opened;
  const { report } = await api.holdCheck(id, joined(listsOf(opened)), null, { signal });
  const look = lookOf(clip.revision, camera.revision, outing.revision);
  return { id, name, look, troubles: report.troubles };
}

/** Hold checks of several clips. */
export const holdRuns = new ClipRuns<ToCheck, Checked>({
  key: 'inkavo-hold-checks',
  told: 'The hold check of several clips is done: its outing shows what was found.',
  readOne,
});
