import { randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import type { z } from 'zod';
import type { MediaFacts } from '@inkavo/core/model/facts';
import type { ClipDive } from '@inkavo/core/model/diveLog';
import { newStep, type Overrides, type Step } from '@inkavo/core/model/grade';
import type { Clip, clipPatch, GradeChange, Owner } from '@inkavo/core/model/outing';
import { LAID_OUT } from '@inkavo/core/steps';
import type { Probe } from '@inkavo/media/codec';
import type { Source } from '@inkavo/media/frames/rest';
import { HttpError, notFound } from '../http';

interface ClipRow {
  id: string;
  outing_id: string;
  camera_id: string;
  hash: string;
  name: string;
  position: number;
  in_frame: number;
  out_frame: number;
  reference_frame: number;
  steps: string;
  overrides: string;
  dive: string | null;
  revision: number;
  removed: number;
  bytes: number;
  facts: string;
  proxy: Clip['proxy'];
}

const clipOf = (row: ClipRow): Clip => ({
  id: row.id,
  outingId: row.outing_id,
  cameraId: row.camera_id,
  name: row.name,
  hash: row.hash,
  bytes: row.bytes,
  facts: JSON.parse(row.facts),
  position: row.position,
  inFrame: row.in_frame,
  outFrame: row.out_frame,
  referenceFrame: row.reference_frame,
  steps: JSON.parse(row.steps),
  overrides: JSON.parse(row.overrides),
  revision: row.revision,
  dive: row.dive ? JSON.parse(row.dive) : null,
  proxy: row.proxy,
});

/** What lies ready on a new clip. */
const laidOut = (): Step[] => LAID_OUT.map((kind) => newStep(kind, kind));

const overridesOf = (part: { steps: Step[]; overrides?: Overrides }): { overrides?: string } =>
  part.overrides ? { overrides: JSON.stringify(part.overrides) } : {};

const TABLES: Record<Owner, string> = { clip: 'clips', camera: 'cameras', outing: 'outings' };

/** Clips and the files behind them in the database. */
export class ClipStore {
  constructor(private readonly db: Knex) {}

  private rows = () =>
    this.db<ClipRow>('clips')
      .join('media', 'media.hash', 'clips.hash')
      .select('clips.*', 'media.bytes', 'media.facts', 'media.proxy');

  async get(id: string): Promise<Clip> {
    const row = await this.rows().where('clips.id', id).first();
    if (!row) throw notFound('clip');
    return clipOf(row);
  }

  async ofOuting(outingId: string): Promise<Clip[]> {
    const rows = await this.rows().where({ outing_id: outingId, removed: false }).orderBy('position');
    return rows.map(clipOf);
  }

  /** Remembers a file that is in the library. */
  async addMedia(hash: string, bytes: number, { facts, times }: Probe): Promise<void> {
    await this.db('media')
      .insert({ hash, bytes, facts: JSON.stringify(facts), times: JSON.stringify(times) })
      .onConflict('hash')
      .ignore();
  }

  async media(hash: string): Promise<{ facts: MediaFacts; times: number[]; proxy: Clip['proxy'] } | undefined> {
    const row = await this.db('media').where({ hash }).first();
    return row && { facts: JSON.parse(row.facts), times: JSON.parse(row.times), proxy: row.proxy };
  }

  async source(clip: Pick<Clip, 'hash'>, path: string): Promise<Source> {
    const media = await this.media(clip.hash);
    if (!media) throw notFound('file');
    return { path, facts: media.facts, times: media.times };
  }

  setProxy = async (hash: string, proxy: Clip['proxy']): Promise<string[]> => {
    await this.db('media').where({ hash }).update({ proxy });
    return this.db('clips').where({ hash }).pluck('outing_id');
  };

  /** Puts a file into an outing. The same file again gives the clip that is there (put back if it was removed). */
  async add(outingId: string, cameraId: string, name: string, hash: string): Promise<{ clip: Clip; isNew: boolean }> {
    return this.db.transaction(async (trx) => {
      const known = await trx<ClipRow>('clips').where({ outing_id: outingId, hash }).first();
      if (known?.removed) await trx('clips').where({ id: known.id }).update({ removed: false });
      const id = known?.id ?? randomUUID();
      if (!known) {
        const { facts } = (await trx('media').where({ hash }).first()) as { facts: string };
        const { frames } = JSON.parse(facts) as MediaFacts;
        const last = await trx('clips').where({ outing_id: outingId }).max('position as position').first();
        await trx('clips').insert({
          id,
          outing_id: outingId,
          camera_id: cameraId,
          hash,
          name,
          position: (last?.position ?? 0) + 1,
          in_frame: 0,
          out_frame: frames - 1,
          reference_frame: Math.min(frames - 1, Math.floor(frames * 0.1)),
          steps: JSON.stringify(laidOut()),
        });
      }
      const row = await this.rows().transacting(trx).where('clips.id', id).first();
      return { clip: clipOf(row!), isNew: !known };
    });
  }

  async update(id: string, patch: z.infer<typeof clipPatch>): Promise<Clip> {
    const clip = await this.get(id);
    const inFrame = patch.inFrame ?? clip.inFrame;
    const outFrame = patch.outFrame ?? clip.outFrame;
    const last = clip.facts.frames - 1;
    if (inFrame > outFrame || outFrame > last)
      throw new HttpError(400, `In must come before out, and out is at most frame ${last}.`);
    if ((patch.referenceFrame ?? 0) > last) throw new HttpError(400, `The last frame is ${last}.`);
    const columns = {
      name: patch.name,
      camera_id: patch.cameraId,
      in_frame: patch.inFrame,
      out_frame: patch.outFrame,
      reference_frame: patch.referenceFrame,
      position: patch.position,
      removed: patch.removed,
    };
    const set = Object.fromEntries(Object.entries(columns).filter(([, v]) => v !== undefined));
    if (Object.keys(set).length) await this.db('clips').where({ id }).update(set);
    return this.get(id);
  }

  /** Gives a clip a dive log, or takes it away. */
  async setDive(id: string, dive: ClipDive | null): Promise<Clip> {
    await this.get(id);
    await this.db('clips')
      .where({ id })
      .update({ dive: dive && JSON.stringify(dive) });
    return this.get(id);
  }

  /**
   * Stores changed steps, all or none. Throws a 409 when one of them was changed elsewhere since.
   * Resolves with the new revisions.
   */
  async change(clip: Clip, change: GradeChange): Promise<Partial<Record<Owner, number>>> {
    const ids: Record<Owner, string> = { clip: clip.id, camera: clip.cameraId, outing: clip.outingId };
    return this.db.transaction(async (trx) => {
      const revisions: Partial<Record<Owner, number>> = {};
      for (const owner of Object.keys(TABLES) as Owner[]) {
        const part = change[owner];
        if (!part) continue;
        const revision = part.revision + 1;
        const changed = await trx(TABLES[owner])
          .where({ id: ids[owner], revision: part.revision })
          .update({ steps: JSON.stringify(part.steps), revision, ...overridesOf(part) });
        if (!changed)
          throw new HttpError(409, 'These steps were changed in another window since they were opened here.');
        revisions[owner] = revision;
      }
      return revisions;
    });
  }
}
