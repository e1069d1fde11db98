import type { Knex } from 'knex';
import { type Change, sidesOf, type StepSides, type StepsState, wholeSides } from '@inkavo/core/model/change';
import {
  actsHere,
  detachedProblem,
  storedSteps,
  type Override,
  type Overrides,
  type Step,
} from '@inkavo/core/model/grade';
import type { StepClips } from '@inkavo/core/model/outing';
import { OWNERS, type Owner, type StepLists } from '@inkavo/core/model/lists';
import { mergeLists } from '@inkavo/core/model/merge';
import equal from 'fast-deep-equal';
import { badRequest, HttpError, notFound } from '../http/problems';

const TABLES: Record<Owner, string> = { clip: 'clips', camera: 'cameras', outing: 'outings' };
/** A device that was offline for longer still merges its changes; only retries are not detected any more. */
const KEPT_SECONDS = 90 * 86_400;

type Ids = Record<Owner, string>;

/** The stored steps of a clip, within a transaction. */
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

/**
 * Stores lists where they differ from the stored ones, within a transaction, and increments revisions. Resolves with
 * the owners that changed. Throws a 400 {@link HttpError} for values that a step of a camera or an outing cannot have.
 */
async function store(
  trx: Knex,
  lists: StepLists,
  { lists: theirs, revisions, ids }: StepsState & { ids: Ids },
): Promise<Owner[]> {
  const problem = detachedProblem([...lists.camera, ...lists.outing], lists.overrides);
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
  return changed;
}

export type SharedOwner = Exclude<Owner, 'clip'>;

/** A step of a camera or an outing, and the clips that inherit it, within a transaction. */
async function sharedStep(trx: Knex, owner: SharedOwner, ownerId: string, stepId: string) {
  const row = await trx(TABLES[owner]).where({ id: ownerId }).first('steps', 'revision');
  const steps: Step[] = row ? storedSteps(row.steps) : [];
  const step = steps.find((s) => s.id === stepId);
  if (!step) throw notFound('step');
  const rows: { id: string; overrides: string; revision: number }[] = await trx('clips')
    .where({ [owner === 'camera' ? 'camera_id' : 'outing_id']: ownerId })
    .orderBy('position')
    .select('id', 'overrides', 'revision');
  const clips = rows.map((c) => ({ ...c, overrides: JSON.parse(c.overrides) as Overrides }));
  return { step, steps, revision: Number(row.revision), clips };
}

/** A clip's override for having or leaving out a step; undefined if that is the default. */
const saidOf = (limited: boolean, wanted: boolean): boolean | undefined => (wanted === !limited ? undefined : wanted);

/** Changes of steps: each is merged with the stored steps. */
export class ChangeStore {
  constructor(private readonly db: Knex) {}

  /** The stored steps and revisions of a clip. */
  state = async (clipId: string): Promise<StepsState> => {
    const { lists, revisions } = await this.db.transaction((trx) => stateOf(trx, clipId));
    return { lists, revisions };
  };

  /**
   * Stores a change in one transaction, merged with changes stored since it was made. A retry of a stored change is
   * answered as stored. Throws a 409 `steps-conflict` if both touched the same step, and stores nothing.
   */
  async add(clipId: string, change: Change): Promise<{ answer: StepsState; changed: Owner[] }> {
    return this.db.transaction(async (trx) => {
      const { lists: theirs, revisions, ids } = await stateOf(trx, clipId);
      const known = await trx('changes').where({ id: change.id }).first('clip_id');
      if (known && known.clip_id !== clipId)
        throw new HttpError(400, 'bad-request', 'id: a change of another clip has this id.');
      if (known) return { answer: { lists: theirs, revisions }, changed: [] };

      const { base, next } = sidesOf(change, theirs);
      const { lists, clashes } = mergeLists(base, next, theirs);
      if (clashes.length > 0)
        throw new HttpError(409, 'steps-conflict', 'The same steps were changed elsewhere. Nothing was changed here.', {
          clashes,
          theirs: { lists: theirs, revisions },
        });
      const changed = await store(trx, lists, { lists: theirs, revisions, ids });
      await trx('changes').insert({ id: change.id, clip_id: clipId, stored_at: Date.now() / 1000 });
      return { answer: { lists, revisions }, changed };
    });
  }

  /**
   * Merges a change of a clip's own steps into the stored ones, within a transaction. On a conflict this change wins.
   */
  async lay(clipId: string, sides: StepSides, trx: Knex.Transaction): Promise<void> {
    const state = await stateOf(trx, clipId);
    const { lists: now } = state;
    const { base, next } = wholeSides(sides, now.clip);
    const { lists } = mergeLists({ ...now, clip: base }, { ...now, clip: next }, now, 'mine');
    await store(trx, lists, state);
  }

  /** The clips in which a shared step acts. Throws a 404 {@link HttpError} if its owner has no such step. */
  stepClips = (owner: SharedOwner, ownerId: string, stepId: string): Promise<StepClips> =>
    this.db.transaction(async (trx) => {
      const { step, clips } = await sharedStep(trx, owner, ownerId, stepId);
      const acts = clips.filter((c) => actsHere({ ...step, on: true }, c.overrides[stepId]));
      return { limited: step.limited ?? false, clipIds: acts.map((c) => c.id) };
    });

  /**
   * Limits a shared step to clips, or lets it act in all, in one transaction. Other overrides of the clips stay.
   * Resolves with the clips whose picture may have changed.
   */
  limit = (owner: SharedOwner, ownerId: string, stepId: string, { limited, clipIds }: StepClips): Promise<string[]> =>
    this.db.transaction(async (trx) => {
      const { steps, revision, clips } = await sharedStep(trx, owner, ownerId, stepId);
      // Undefined is omitted.
      const next = steps.map((s) => (s.id === stepId ? { ...s, limited: limited || undefined } : s));
      await trx(TABLES[owner])
        .where({ id: ownerId })
        .update({ steps: JSON.stringify(next), revision: revision + 1 });
      for (const clip of clips) {
        const here: Override = { ...clip.overrides[stepId], on: saidOf(limited, clipIds.includes(clip.id)) };
        if (here.on === undefined) delete here.on;
        const overrides = { ...clip.overrides, [stepId]: here };
        if (Object.keys(here).length === 0) delete overrides[stepId];
        if (equal(overrides, clip.overrides)) continue;
        await trx('clips')
          .where({ id: clip.id })
          .update({ overrides: JSON.stringify(overrides), revision: clip.revision + 1 });
      }
      return clips.map((c) => c.id);
    });

  /** Deletes change ids that no device will retry any more. */
  forgetOld = async (): Promise<void> => {
    await this.db('changes')
      .where('stored_at', '<', Date.now() / 1000 - KEPT_SECONDS)
      .delete();
  };
}
