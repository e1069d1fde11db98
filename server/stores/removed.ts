import type { Knex } from 'knex';
import type { Removable, Removed } from '@inkavo/core/model/removed';

/** How long removed items can be restored. By judgement: a weekend, and the week after it. */
export const KEPT_SECONDS = 7 * 86_400;

const TABLES: Record<Removable, string> = {
  outing: 'outings',
  camera: 'cameras',
  clip: 'clips',
  file: 'jobs',
  shelf: 'shelf',
  kept: 'kept',
};

/** Files that are no longer referenced. */
export interface Orphans {
  /** Content hashes of originals, with their proxies. */
  hashes: string[];
  /** Names of finished exports. */
  files: string[];
  /** Ids of tables. */
  luts: string[];
}

interface ClipRow {
  id: string;
  name: string;
  outing_id: string;
  camera_id: string;
  hash: string;
  bytes: number;
  removed_at: number | null;
}
interface NamedRow {
  id: string;
  name: string;
  removed_at: number | null;
}

const now = (): number => Date.now() / 1000;

/** Removed outings, cameras, clips and finished exports: restored, or permanently deleted. */
export class RemovedStore {
  constructor(private readonly db: Knex) {}

  /**
   * Removes items; a camera's clips are removed with it. Already removed ones are unaffected. Resolves with the number
   * removed.
   */
  async remove(kind: Removable, ids: string[]): Promise<number> {
    return this.db.transaction(async (trx) => {
      const standing = trx(TABLES[kind]).whereIn('id', ids).whereNull('removed_at');
      if (kind === 'file') void standing.where({ kind: 'export', state: 'done' });
      const found: string[] = await standing.pluck('id');
      const removed = { removed_at: now() };
      await trx(TABLES[kind]).whereIn('id', found).update(removed);
      if (kind === 'camera') await trx('clips').whereIn('camera_id', found).whereNull('removed_at').update(removed);
      return found.length;
    });
  }

  /**
   * Restores items: a camera with the clips removed with it, a clip with its camera. Resolves with the number restored.
   */
  async putBack(kind: Removable, ids: string[]): Promise<number> {
    return this.db.transaction(async (trx) => {
      const found = await trx<NamedRow>(TABLES[kind]).whereIn('id', ids).whereNotNull('removed_at');
      const back = { removed_at: null };
      for (const row of found) {
        await trx(TABLES[kind]).where({ id: row.id }).update(back);
        if (kind === 'camera') await trx('clips').where({ camera_id: row.id, removed_at: row.removed_at }).update(back);
        if (kind === 'clip') {
          const clip = (await trx<ClipRow>('clips').where({ id: row.id }).first('camera_id'))!;
          await trx('cameras').where({ id: clip.camera_id }).update(back);
        }
      }
      return found.length;
    });
  }

  /** Outings in which something was removed or restored. */
  async outingsOf(kind: Removable, ids: string[]): Promise<string[]> {
    if (kind === 'outing') return ids;
    if (kind === 'shelf') return [];
    if (kind === 'kept')
      return this.db('kept')
        .join('clips', 'clips.id', 'kept.clip_id')
        .whereIn('kept.id', ids)
        .distinct()
        .pluck('outing_id');
    const found: (string | null)[] = await this.db(TABLES[kind]).whereIn('id', ids).distinct().pluck('outing_id');
    return found.filter((id) => id !== null);
  }

  /** Restorable items, newest first. Items removed as part of a larger one are not listed separately. */
  async list(): Promise<Removed[]> {
    const { db } = this;
    const outings: NamedRow[] = await db('outings').select('id', 'name', 'removed_at');
    const outingOf = new Map(outings.map((o) => [o.id, o]));
    const cameras: (NamedRow & { outing_id: string })[] = await db('cameras').whereNotNull('removed_at');
    const cameraOf = new Map(cameras.map((c) => [c.id, c]));
    const clips: ClipRow[] = await db('clips')
      .join('media', 'media.hash', 'clips.hash')
      .select('clips.id', 'clips.name', 'outing_id', 'camera_id', 'clips.hash', 'media.bytes', 'clips.removed_at');
    const files = await db('jobs')
      .whereNotNull('removed_at')
      .select('id', 'file_name', 'file_bytes', 'outing_id', 'removed_at');
    const kept = await db('kept')
      .join('clips', 'clips.id', 'kept.clip_id')
      .whereNotNull('kept.removed_at')
      .whereNull('clips.removed_at')
      .select('kept.id', 'kept.name', 'kept.removed_at', 'clips.outing_id');
    const shelf = await db('shelf').whereNotNull('removed_at').select('id', 'title', 'removed_at');

    /** Bytes of files that no other clip uses. */
    const ownBytes = (own: ClipRow[]): number => {
      const ids = new Set(own.map((c) => c.id));
      const shared = new Set(clips.filter((c) => !ids.has(c.id)).map((c) => c.hash));
      const sizes = new Map(own.filter((c) => !shared.has(c.hash)).map((c) => [c.hash, Number(c.bytes)]));
      return [...sizes.values()].reduce((sum, b) => sum + b, 0);
    };
    const item = (kind: Removable, row: NamedRow, outingId: string | null, own: ClipRow[]): Removed => ({
      kind,
      id: row.id,
      name: row.name,
      outingName: outingId === null ? null : (outingOf.get(outingId)?.name ?? null),
      clips: own.length,
      bytes: ownBytes(own),
      removedAt: row.removed_at!,
      goesAt: row.removed_at! + KEPT_SECONDS,
    });
    const stands = (outingId: string): boolean => outingOf.get(outingId)?.removed_at === null;
    return [
      ...outings
        .filter((o) => o.removed_at !== null)
        .map((o) =>
          item(
            'outing',
            o,
            null,
            clips.filter((c) => c.outing_id === o.id),
          ),
        ),
      ...cameras
        .filter((c) => stands(c.outing_id))
        .map((c) =>
          item(
            'camera',
            c,
            c.outing_id,
            clips.filter((clip) => clip.camera_id === c.id),
          ),
        ),
      ...clips
        .filter(
          (c) => c.removed_at !== null && stands(c.outing_id) && cameraOf.get(c.camera_id)?.removed_at !== c.removed_at,
        )
        .map((c) => item('clip', c, c.outing_id, [c])),
      ...files.map((f) => ({
        ...item('file', { id: f.id, name: f.file_name, removed_at: f.removed_at }, f.outing_id, []),
        bytes: Number(f.file_bytes ?? 0),
      })),
      ...kept.filter((k) => stands(k.outing_id)).map((k) => item('kept', k, k.outing_id, [])),
      ...shelf.map((s) => item('shelf', { id: s.id, name: s.title, removed_at: s.removed_at }, null, [])),
    ].sort((a, b) => b.removedAt - a.removedAt);
  }

  /**
   * Permanently deletes rows removed before a time (seconds since 1970) in one transaction. Items with work in progress
   * stay. Resolves with the unreferenced files, which may only then be deleted.
   */
  async purge(before: number): Promise<Orphans> {
    return this.db.transaction(async (trx) => {
      const busy = trx('jobs').whereIn('state', ['waiting', 'running']).whereNotNull('outing_id').select('outing_id');
      const old = (table: string): Promise<string[]> =>
        trx(table)
          .where('removed_at', '<=', before)
          .whereNotIn(table === 'outings' ? 'id' : 'outing_id', busy)
          .pluck('id');
      const [outings, cameras, clips] = [await old('outings'), await old('cameras'), await old('clips')];
      const goes = (q: Knex.QueryBuilder): void =>
        void q.whereIn('id', clips).orWhereIn('camera_id', cameras).orWhereIn('outing_id', outings);
      const touched: string[] = await trx('clips').where(goes).distinct().pluck('hash');
      await trx('clips').where(goes).delete();
      await trx('cameras').whereIn('id', cameras).orWhereIn('outing_id', outings).delete();
      await trx('jobs').whereIn('outing_id', outings).whereNot({ kind: 'export' }).delete();
      await trx('outings').whereIn('id', outings).delete();

      const used = new Set<string>(await trx('clips').whereIn('hash', touched).pluck('hash'));
      const waiting: string[] = await trx('jobs').whereIn('state', ['waiting', 'running']).pluck('payload');
      const hashes = touched.filter((h) => !used.has(h) && !waiting.some((payload) => payload.includes(h)));
      await trx('media').whereIn('hash', hashes).delete();

      const gone = () => trx('jobs').where({ kind: 'export' }).where('removed_at', '<=', before);
      const files: string[] = await gone().whereNotNull('file_name').pluck('file_name');
      await gone().delete();
      await trx('kept').where('removed_at', '<=', before).delete();
      return { hashes, files, luts: await purgeShelf(trx, before) };
    });
  }
}

/** Deletes removed shelf items; a table in use by steps stays. Resolves with the tables whose files may be deleted. */
async function purgeShelf(trx: Knex.Transaction, before: number): Promise<string[]> {
  const rows: { id: string; kind: string }[] = await trx('shelf')
    .where('removed_at', '<=', before)
    .select('id', 'kind');
  const uses = async (id: string): Promise<boolean> => {
    const like = `%${id}%`;
    for (const [table, column] of [
      ...['clips', 'cameras', 'outings'].map((t) => [t, 'steps']),
      ['clips', 'overrides'],
      ...['steps', 'own'].map((c) => ['kept', c]),
      ['shelf', 'body'],
      ['jobs', 'payload'],
    ])
      if (await trx(table).where(column, 'like', like).first('id')) return true;
    return false;
  };
  const gone: string[] = [];
  const others = rows.filter((r) => r.kind !== 'lut').map((r) => r.id);
  await trx('shelf').whereIn('id', others).delete();
  for (const { id, kind } of rows) if (kind === 'lut' && !(await uses(id))) gone.push(id);
  await trx('shelf').whereIn('id', gone).delete();
  return gone;
}
