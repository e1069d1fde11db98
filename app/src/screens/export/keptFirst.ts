import { flushClips, usePending } from '../../state/clipKeeper';
import { keeper, useKeep } from '../../state/keeper';

/** Exports use saved steps, so the displayed state must be saved first. Throws with a message otherwise. */
export async function keptFirst(clipIds: readonly string[]): Promise<void> {
  await Promise.all([keeper.flush(), flushClips()]);
  const pending = Object.keys(usePending.getState().clips).some((id) => clipIds.includes(id));
  if (pending || useKeep.getState().state !== 'kept')
    throw new Error('What is shown is not kept on the server yet, so it cannot be exported.');
}
