import type { Step } from '@inkavo/core/model/grade';
import { mergeLists } from '@inkavo/core/model/merge';
import { changeOf } from '@inkavo/core/model/change';
import { api } from '../api/client';
import { newChangeId } from './deviceLog';
import { listsOf } from './lists';

/**
 * Changes the own steps of a clip that is not open here: the difference between `from` and `to` is merged into the
 * server's current steps. On a conflict this change wins. Rejects with an `ApiError`.
 */
export async function putSteps(clipId: string, from: Step[], to: Step[]): Promise<void> {
  const now = listsOf(await api.clip(clipId));
  const { lists } = mergeLists({ ...now, clip: from }, { ...now, clip: to }, now, 'mine');
  const id = newChangeId();
  const change = changeOf(id, now, lists);
  if (change) await api.change(clipId, change);
}
