import { flushClips, usePending } from '../../state/clipKeeper';
import { keeper, useKeep } from '../../state/keeper';

/** What is exported is what is kept, so what is shown must be kept first. Throws with a sentence when it is not. */
export async function keptFirst(clipIds: readonly string[]): Promise<void> {
  await Promise.all([keeper.flush(), flushClips()]);
  const pending = Object.keys(usePending.getState().clips).some((id) => clipIds.includes(id));
  if (pending || useKeep.getState().state !== 'kept')
    throw new Error('What is shown is not kept on the server yet, so it cannot be exported.');
}
