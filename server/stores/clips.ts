import { randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import { LRUCache } from 'lru-cache';
import type { z } from 'zod';
import { factsSchema, type MediaFacts } from '@inkavo/core/model/facts';
import type { ClipDive } from '@inkavo/core/model/diveLog';
import { hasNoEffect, newStep, storedSteps, type Step } from '@inkavo/core/model/grade';
import { positionAmong, type Placed } from '@inkavo/core/model/order';
import {
  listedClipSchema,
  usualFrame,
  type Clip,
  type clipPatch,
  type ListedClip,
  type splitRequest,
  lookOf,
} from '@inkavo/core/model/outing';
import { LAID_OUT } from '@inkavo/core/steps';
import type { Probe } from '@inkavo/media/codec';
import type { Source } from '@inkavo/media/frames/rest';
import { badRequest, notFound } from '../http/problems';
import { wasRemoved } from './outings';
import { splitClip } from './splitClip';

export interface ClipRow {
  id: string;
  outing_id: string;
  camera_id: string;
  hash: string;
  name: string;
  file: string;
  position: number;
  in_frame: number;
  out_frame: number;
  reference_frame: number;
  steps: string;
  overrides: string;
  dive: string | null;
  revision: number;
  removed_at: number | null;
  bytes: number;
  facts: string;
  proxy: Clip['proxy'];
  checked: number;
  retime: string | null;
}

/** Facts from the database; a file imported by an earlier version lacks newer ones. */
const storedFacts = (text: string): MediaFacts => factsSchema.parse(JSON.parse(text));
/** Columns of a file's facts. */
const stored = ({ facts, times, keys }: Probe): Record<keyof Probe, string> => ({
  facts: JSON.stringify(facts),
  times: JSON.stringify(times),
  keys: JSON.stringify(keys),
});

const clipOf = (row: ClipRow): Clip => ({
  id: row.id,
  outingId: row.outing_id,
  cameraId: row.camera_id,
  name: row.name,
  file: row.file,
  hash: row.hash,
  bytes: row.bytes,
  facts: storedFacts(row.facts),
  position: row.position,
  inFrame: row.in_frame,
  outFrame: row.out_frame,
  referenceFrame: row.reference_frame,
  steps: storedSteps(row.steps),
  overrides: JSON.parse(row.overrides),
  revision: row.revision,
  dive: row.dive ? JSON.parse(row.dive) : null,
  checked: row.checked === 1,
  retime: row.retime ? JSON.parse(row.retime) : null,
  proxy: row.proxy,
});

/** Columns for lists. */
interface ListedRow extends ClipRow {
  camera_revision: number;
  outing_revision: number;
  exported: number;
}

/** {@link lookOf}, in queries that join these three. */
const LOOK = "clips.revision || '.' || cameras.revision || '.' || outings.revision";

function listedOf(row: ListedRow): ListedClip {
  const { steps, ...clip } = clipOf(row);
  const work = steps.filter((s) => !hasNoEffect(s)).length;
  const begun = work > 0 ? 'work' : 'new';
  return listedClipSchema.parse({
    ...clip,
    work,
    state: row.exported ? 'exported' : clip.checked ? 'checked' : begun,
    look: lookOf(row.revision, row.camera_revision, row.outing_revision),
  });
}

/** The default steps of a new clip. */
const laidOut = (): Step[] => LAID_OUT.map((kind) => newStep(kind, kind));

/** An imported file, and where it belongs. */
export interface TakenIn {
  hash: string;
  bytes: number;
  probed: Probe | undefined;
  outingId: string;
  cameraId: string;
  name: string;
  /** Its initial state if it is new. */
  begin?: { steps?: Step[]; dive?: ClipDive };
}

/** Clips and their files in the database. */
export class ClipStore {
  private readonly sources = new LRUCache<string, Source>({ max: 32 });

  constructor(private readonly db: Knex) {}

  private rows = (trx: Knex | Knex.Transaction = this.db) =>
    trx<ClipRow>('clips')
      .join('media', 'media.hash', 'clips.hash')
      .select('clips.*', 'media.bytes', 'media.facts', 'media.proxy');

  async get(id: string, trx: Knex | Knex.Transaction = this.db): Promise<Clip> {
    const row = await this.rows(trx).where('clips.id', id).first();
    if (!row) throw notFound('clip');
    if (row.removed_at !== null) throw wasRemoved('clip');
    return clipOf(row);
  }

  /** The clips of an outing in order, without their steps. */
  async ofOuting(outingId: string): Promise<ListedClip[]> {
    const exported = this.db('jobs')
      .whereRaw('jobs.clip_id = clips.id')
      .where({ kind: 'export', state: 'done' })
      .whereNull('jobs.removed_at')
      // If changed since, the export is outdated. Older exports do not record their state.
      .whereRaw(`coalesce(json_extract(jobs.payload, '$.look'), ${LOOK}) = ${LOOK}`)
      .select(this.db.raw('count(*)'));
    const rows: ListedRow[] = await this.rows()
      .join('cameras', 'cameras.id', 'clips.camera_id')
      .join('outings', 'outings.id', 'clips.outing_id')
      .where({ 'clips.outing_id': outingId, 'clips.removed_at': null })
      .orderBy('position')
      .select('cameras.revision as camera_revision', 'outings.revision as outing_revision')
      .select({ exported });
    return rows.map(listedOf);
  }

  async media(hash: string, db: Knex = this.db): Promise<(Probe & { proxy: Clip['proxy'] }) | undefined> {
    const row = await db('media').where({ hash }).first();
    const { facts, times, keys, proxy } = row ?? {};
    return row && { facts: storedFacts(facts), times: JSON.parse(times), keys: JSON.parse(keys), proxy };
  }

  /** Content hashes of all known files. */
  hashes = async (): Promise<string[]> => this.db('media').pluck('hash');

  /** Source of a clip's frames; recent ones are cached, since a long clip has a million time stamps. */
  async source(clip: Pick<Clip, 'hash'>, path: string): Promise<Source> {
    const kept = this.sources.get(path);
    if (kept) return kept;
    const media = await this.media(clip.hash);
    if (!media) throw notFound('file');
    const source = { path, facts: media.facts, times: media.times, keys: media.keys };
    this.sources.set(path, source);
    return source;
  }

  /** Ids of the clips of a file. */
  ofFile = async (hash: string): Promise<string[]> =>
    this.db('clips').where({ hash }).whereNull('removed_at').pluck('id');

  /** Files probed by an earlier version. */
  outdated = async (version: number): Promise<string[]> =>
    this.db('media').whereRaw("coalesce(json_extract(facts, '$.probed'), 1) < ?", version).pluck('hash');

  /** Clips of a file with their names and outings; removed ones, which may be restored, last. */
  namesOf = async (hash: string, trx: Knex.Transaction): Promise<Pick<Clip, 'id' | 'name' | 'outingId'>[]> =>
    trx('clips').where({ hash }).orderBy('removed_at').select('id', 'name', { outingId: 'outing_id' });

  /** Files with a complete proxy. */
  withProxy = async (): Promise<string[]> => this.db('media').where({ proxy: 'ready' }).pluck('hash');

  transaction = <T>(work: (trx: Knex.Transaction) => Promise<T>): Promise<T> => this.db.transaction(work);

  /**
   * Stores newly probed facts of a file, with `more` in the same transaction. Its clips keep in, out and representative
   * frame as far as possible.
   */
  async lookedAgain<T>(hash: string, probed: Probe, more: (trx: Knex.Transaction) => Promise<T>): Promise<T> {
    const last = probed.facts.frames - 1;
    const made = await this.db.transaction(async (trx) => {
      await trx('media').where({ hash }).update(stored(probed));
      const within = (column: string) => trx.raw('min(??, ?)', [column, last]);
      await trx('clips')
        .where({ hash })
        .update({
          in_frame: within('in_frame'),
          out_frame: within('out_frame'),
          reference_frame: within('reference_frame'),
        });
      return more(trx);
    });
    this.sources.clear();
    return made;
  }

  /** Stores the state of a file's proxy. Resolves with the outings that show it. */
  setProxy = async (hash: string, proxy: Clip['proxy'], trx: Knex | Knex.Transaction = this.db): Promise<string[]> => {
    await trx('media').where({ hash }).update({ proxy });
    return trx('clips').where({ hash }).pluck('outing_id');
  };

  /** Changes the representative frame of a file's clips, unless the user has chosen one or begun to work. */
  setStanding = async (hash: string, frame: number, trx: Knex.Transaction): Promise<void> => {
    const { facts } = (await trx('media').where({ hash }).first()) as { facts: string };
    const usual = usualFrame((JSON.parse(facts) as MediaFacts).frames);
    await trx('clips').where({ hash, revision: 0, reference_frame: usual }).update({ reference_frame: frame });
  };

  /**
   * Adds a file to an outing, within a transaction. If it is already there, returns that clip (restored if it was
   * removed).
   */
  async takeIn(file: TakenIn, trx: Knex.Transaction): Promise<{ clip: Clip; isNew: boolean }> {
    const { hash, bytes, probed, outingId, cameraId, name, begin } = file;
    if (probed)
      await trx('media')
        .insert({ hash, bytes, ...stored(probed) })
        .onConflict('hash')
        .ignore();
    // Of several clips cut from it, the first that was not removed, or else the first.
    const known = await trx<ClipRow>('clips')
      .where({ outing_id: outingId, hash })
      .orderByRaw('removed_at is not null, in_frame')
      .first();
    if (known && known.removed_at !== null)
      await trx('clips').where({ id: known.id }).update({ removed_at: null, camera_id: cameraId });
    const id = known?.id ?? randomUUID();
    if (!known) {
      const { facts } = (await trx('media').where({ hash }).first()) as { facts: string };
      const { frames, recordedAt } = JSON.parse(facts) as MediaFacts;
      const others = await trx('clips')
        .join('media', 'media.hash', 'clips.hash')
        .where({ outing_id: outingId })
        .orderBy('position')
        .select<(Placed & { position: number })[]>(
          'name',
          'position',
          trx.raw(`json_extract(media.facts, '$.recordedAt') as recordedAt`),
        );
      await trx('clips').insert({
        id,
        outing_id: outingId,
        camera_id: cameraId,
        hash,
        name,
        file: name,
        position: positionAmong(others, { name, recordedAt }),
        in_frame: 0,
        out_frame: frames - 1,
        reference_frame: usualFrame(frames),
        steps: JSON.stringify(begin?.steps ?? laidOut()),
        dive: begin?.dive ? JSON.stringify(begin.dive) : null,
      });
    }
    const row = await this.rows(trx).where('clips.id', id).first();
    return { clip: clipOf(row!), isNew: !known };
  }

  async update(id: string, patch: z.infer<typeof clipPatch>, trx: Knex | Knex.Transaction = this.db): Promise<Clip> {
    const clip = await this.get(id, trx);
    const inFrame = patch.inFrame ?? clip.inFrame;
    const outFrame = patch.outFrame ?? clip.outFrame;
    const last = clip.facts.frames - 1;
    if (inFrame > outFrame || outFrame > last)
      throw badRequest(`In must come before out, and out is at most frame ${last}.`);
    if ((patch.referenceFrame ?? 0) > last) throw badRequest(`The last frame is ${last}.`);
    if (patch.cameraId !== undefined) {
      const camera = await trx('cameras')
        .where({ id: patch.cameraId, outing_id: clip.outingId, removed_at: null })
        .first();
      if (!camera) throw badRequest('cameraId: this outing has no such camera.');
    }
    const columns = {
      name: patch.name,
      camera_id: patch.cameraId,
      in_frame: patch.inFrame,
      out_frame: patch.outFrame,
      reference_frame: patch.referenceFrame,
      checked: patch.checked,
      retime: patch.retime && JSON.stringify(patch.retime),
      position: patch.position,
    };
    const set = Object.fromEntries(Object.entries(columns).filter(([, v]) => v !== undefined));
    if (Object.keys(set).length) await trx('clips').where({ id }).update(set);
    return this.get(id, trx);
  }

  /** Splits a clip, see {@link splitClip}. Resolves with both. */
  async split(id: string, request: z.infer<typeof splitRequest>): Promise<{ clip: Clip; rest: Clip }> {
    await this.get(id);
    await this.db.transaction((trx) => splitClip(id, request, trx));
    return { clip: await this.get(id), rest: await this.get(request.as) };
  }

  /** Sets or removes a clip's dive log. */
  async setDive(id: string, dive: ClipDive | null): Promise<Clip> {
    await this.get(id);
    await this.db('clips')
      .where({ id })
      .update({ dive: dive && JSON.stringify(dive) });
    return this.get(id);
  }
}
