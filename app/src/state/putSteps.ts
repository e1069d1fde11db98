import type { Step } from '@inkavo/core/model/grade';
import { mergeLists } from '@inkavo/core/model/merge';
import { changeOf } from '@inkavo/core/model/change';
import { api } from '../api/client';
import { newChangeId } from './deviceLog';
import { listsOf } from './lists';

/**
 * Makes a change of a clip's own steps that is not open here: what leads from `from` to `to` is laid onto the steps as
 * the server has them now. Where somebody changed the same step meanwhile, this change counts. Rejects with an `ApiError`.
 */
export async function putSteps(clipId: string, from: Step[], to: Step[]): Promise<void> {
  const now = listsOf(await api.clip(clipId));
  const { lists } = mergeLists({ ...now, clip: from }, { ...now, clip: to }, now, 'mine');
  const id = newChangeId();
  const change = changeOf(id, now, lists);
  if (change) await api.change(clipId, change);
}
