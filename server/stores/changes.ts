import type { Knex } from 'knex';
import { type Change, type ChangeAnswer, sidesOf, type StepsState } from '@inkavo/core/model/change';
import { looseProblem, storedSteps } from '@inkavo/core/model/grade';
import { OWNERS, type Owner, type StepLists } from '@inkavo/core/model/lists';
import { mergeLists } from '@inkavo/core/model/merge';
import equal from 'fast-deep-equal';
import { badRequest, HttpError, notFound } from '../http/problems';

const TABLES: Record<Owner, string> = { clip: 'clips', camera: 'cameras', outing: 'outings' };
/** A device that was off the network for longer joins its changes all the same; only a repeat is not known as one. */
const KEPT_SECONDS = 90 * 86_400;

type Ids = Record<Owner, string>;

/** What is stored of a clip's steps, within a transaction. */
async function stateOf(trx: Knex, clipId: string): Promise<StepsState & { ids: Ids }> {
  const row = await trx('clips').where({ id: clipId }).first('camera_id', 'outing_id', 'overrides');
  if (!row) throw notFound('clip');
  const ids: Ids = { clip: clipId, camera: row.camera_id, outing: row.outing_id };
  const lists = { overrides: JSON.parse(row.overrides) } as StepLists;
  const revisions = {} as StepsState['revisions'];
  for (const owner of OWNERS) {
    const part = await trx(TABLES[owner]).where({ id: ids[owner] }).first('steps', 'revision');
    lists[owner] = storedSteps(part.steps);
    revisions[owner] = part.revision;
  }
  return { lists, revisions, ids };
}

/** Changes of steps: each is joined with what is stored, step by step. */
export class ChangeStore {
  constructor(private readonly db: Knex) {}

  /** Steps and revisions of a clip as they are stored. */
  state = async (clipId: string): Promise<StepsState> => {
    const { lists, revisions } = await this.db.transaction((trx) => stateOf(trx, clipId));
    return { lists, revisions };
  };

  /**
   * Stores a change in one transaction, joined with changes that were stored since it was made. One that was stored
   * before is answered as such. Throws a 409 `steps-conflict` where both touched the same step; nothing is stored then.
   */
  async add(clipId: string, change: Change): Promise<{ answer: ChangeAnswer; changed: Owner[] }> {
    return this.db.transaction(async (trx) => {
      const { lists: theirs, revisions, ids } = await stateOf(trx, clipId);
      const known = await trx('changes').where({ id: change.id }).first('clip_id');
      if (known && known.clip_id !== clipId)
        throw new HttpError(400, 'bad-request', 'id: a change of another clip has this id.');
      if (known) return { answer: { lists: theirs, revisions, joined: false }, changed: [] };

      const { base, next } = sidesOf(change, theirs);
      const { lists, clashes } = mergeLists(base, next, theirs);
      if (clashes.length > 0)
        throw new HttpError(409, 'steps-conflict', 'The same steps were changed elsewhere. Nothing was changed here.', {
          clashes,
          theirs: { lists: theirs, revisions },
        });
      const problem = looseProblem([...lists.camera, ...lists.outing], lists.overrides);
      if (problem) throw badRequest(problem);
      const changed = OWNERS.filter(
        (o) => !equal(lists[o], theirs[o]) || (o === 'clip' && !equal(lists.overrides, theirs.overrides)),
      );
      for (const owner of changed) {
        revisions[owner] += 1;
        await trx(TABLES[owner])
          .where({ id: ids[owner] })
          .update({
            steps: JSON.stringify(lists[owner]),
            revision: revisions[owner],
            ...(owner === 'clip' ? { overrides: JSON.stringify(lists.overrides) } : {}),
          });
      }
      await trx('changes').insert({ id: change.id, clip_id: clipId, stored_at: Date.now() / 1000 });
      return { answer: { lists, revisions, joined: !equal(lists, next) }, changed };
    });
  }

  /** Forgets changes that no device will repeat any more. */
  forgetOld = async (): Promise<void> => {
    await this.db('changes')
      .where('stored_at', '<', Date.now() / 1000 - KEPT_SECONDS)
      .delete();
  };
}
