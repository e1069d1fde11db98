import { randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import type { FileResult, Job, Queue } from '@inkavo/core/model/job';
import { notFound } from '../http/problems';
import { fileOf, kindOf, payloadSchema, stoppedText, type NewJob, type Payload } from './newJob';

interface JobRow {
  id: string;
  kind: Job['kind'];
  state: Job['state'];
  title: string;
  outing_id: string | null;
  clip_id: string | null;
  payload: string;
  progress: number;
  message: string | null;
  file_name: string | null;
  file_bytes: number | null;
  attempts: number;
  rank: number;
  pixels: number | null;
  result: string | null;
  created_at: number;
  removed_at: number | null;
}

const jobOf = (row: JobRow): Job => {
  const payload = JSON.parse(row.payload) as Payload;
  const format = fileOf(payload)?.title ?? '';
  const result = row.result ? (JSON.parse(row.result) as FileResult) : null;
  return {
    id: row.id,
    kind: row.kind,
    state: row.state,
    title: row.title,
    outingId: row.outing_id,
    clipId: row.clip_id,
    progress: row.progress,
    secondsLeft: null,
    bytes: (payload.kind === 'import' ? payload.bytes : undefined) ?? null,
    message: row.message,
    framesPerSecond: null,
    pixels: row.pixels,
    rank: row.rank,
    file: row.file_name ? { name: row.file_name, bytes: row.file_bytes, format, result } : null,
    createdAt: row.created_at,
  };
};

export interface JobChange {
  state?: Job['state'];
  progress?: number;
  message?: string | null;
  clipId?: string;
  fileBytes?: number;
  result?: FileResult;
}

/** Maximum number of finished jobs in a list. */
const MOST_ENDED = 500;

/** A job is given up after this many starts that ended in a crash. */
const MAX_ATTEMPTS = 3;

/** Maximum length of a name in bytes of UTF-8: file systems allow 255, and ".part" and a number are appended. */
const MAX_NAME_BYTES = 200;

/** A name valid on any file system, without extension. */
export function fileStem(name: string): string {
  const plain = name
    .replace(/\.[a-z0-9]{2,4}$/i, '')
    .normalize('NFC')
    .replace(/[^\p{L}\p{N} ._-]+/gu, '_');
  let stem = '';
  for (const c of plain) {
    if (Buffer.byteLength(stem + c) > MAX_NAME_BYTES) break;
    stem += c;
  }
  return stem.trim().replace(/^\.+/, '') || 'clip';
}

/** The queue in the database. */
export class JobStore {
  constructor(private readonly db: Knex) {}

  async add(job: NewJob): Promise<Job> {
    const id = await this.db.transaction((trx) => this.insert(job, trx));
    return this.get(id);
  }

  /** Adds several jobs atomically. */
  async addAll(jobs: NewJob[]): Promise<Job[]> {
    const ids = await this.db.transaction(async (trx) => {
      const added = [];
      for (const job of jobs) added.push(await this.insert(job, trx));
      return added;
    });
    return Promise.all(ids.map((id) => this.get(id)));
  }

  /** Adds a job within a transaction. Resolves with its id. */
  async insert(
    { id = randomUUID(), payload, title, stem, outingId, clipId, yields = 0, pixels }: NewJob,
    trx: Knex.Transaction,
  ) {
    const now = Date.now() / 1000;
    const file = fileOf(payload);
    await trx('jobs')
      .insert({
        id,
        kind: kindOf(payload),
        state: 'waiting',
        title,
        outing_id: outingId ?? null,
        clip_id: clipId ?? null,
        payload: JSON.stringify(payload),
        file_name: file ? await this.freeName(stem ?? title, file.extension, trx) : null,
        rank: now + yields,
        pixels: pixels ?? null,
        created_at: now,
      })
      .onConflict('id')
      .ignore();
    return id;
  }

  /** The file name for this stem: a number is appended if it is taken. */
  async freeName(name: string, extension: string, trx: Knex = this.db): Promise<string> {
    const stem = fileStem(name);
    for (let n = 1; ; n += 1) {
      const free = n === 1 ? `${stem}.${extension}` : `${stem} (${n}).${extension}`;
      if (!(await trx('jobs').where({ file_name: free }).first())) return free;
    }
  }

  async get(id: string): Promise<Job> {
    const row = await this.db<JobRow>('jobs').where({ id }).first();
    if (!row) throw notFound('job');
    return jobOf(row);
  }

  /** The existing ones of some jobs. */
  async some(ids: readonly string[]): Promise<Job[]> {
    return (await this.db<JobRow>('jobs').whereIn('id', ids)).map(jobOf);
  }

  /** All waiting and running jobs, and finished ones, newest first: exports, and failed imports. */
  async list(): Promise<Job[]> {
    const underWay = await this.db<JobRow>('jobs').whereIn('state', ['waiting', 'running']).orderBy('rank', 'desc');
    const ended = await this.db<JobRow>('jobs')
      .whereNull('removed_at')
      .where(
        (q) =>
          void q
            .whereIn('state', ['failed', 'stopped'])
            .orWhere((done) => void done.whereIn('kind', ['export', 'copy']).andWhere({ state: 'done' })),
      )
      .orderBy('rank', 'desc')
      .limit(MOST_ENDED);
    return [...underWay, ...ended].map(jobOf);
  }

  async ofOuting(outingId: string): Promise<Job[]> {
    const rows = await this.db<JobRow>('jobs')
      .where({ outing_id: outingId })
      .whereIn('kind', ['import', 'proxy', 'render'])
      .whereIn('state', ['waiting', 'running', 'failed', 'stopped'])
      .orderBy('created_at');
    return rows.map(jobOf);
  }

  /** The next waiting job of these kinds, marked as running. */
  async take(kinds: Job['kind'][]): Promise<{ job: Job; payload: Payload } | undefined> {
    return this.db.transaction(async (trx) => {
      const row = await trx<JobRow>('jobs').where({ state: 'waiting' }).whereIn('kind', kinds).orderBy('rank').first();
      if (!row) return undefined;
      await trx('jobs')
        .where({ id: row.id })
        .update({ state: 'running', progress: 0, message: null, attempts: row.attempts + 1 });
      return {
        job: jobOf({ ...row, state: 'running', progress: 0, message: null }),
        payload: payloadSchema.parse(JSON.parse(row.payload)),
      };
    });
  }

  /** Whether a job of a kind waits that has priority over a running one. */
  async isOvertaken(id: string): Promise<boolean> {
    const { kind, rank } = await this.get(id);
    return (await this.db('jobs').where({ kind, state: 'waiting' }).andWhere('rank', '<', rank).first()) !== undefined;
  }

  /** Updates a job's row, and in the same transaction runs `also`, which may change more of the row. */
  async update(id: string, set: JobChange, also?: (trx: Knex.Transaction) => Promise<JobChange | void>): Promise<Job> {
    await this.db.transaction(async (trx) => {
      const { state, progress, message, clipId, fileBytes, result } = { ...set, ...(await also?.(trx)) };
      const columns = {
        ...{ state, progress, message, clip_id: clipId, file_bytes: fileBytes },
        result: result && JSON.stringify(result),
      };
      const row = Object.fromEntries(Object.entries(columns).filter(([, v]) => v !== undefined));
      await trx('jobs').where({ id }).update(row);
    });
    return this.get(id);
  }

  /**
   * A running job interrupted in an orderly way, as by stopping the server: it waits again, and its start does not
   * count.
   */
  async release(id: string): Promise<void> {
    await this.db('jobs')
      .where({ id, state: 'running' })
      .update({ state: 'waiting', progress: 0, attempts: this.db.raw('max(attempts - 1, 0)') });
  }

  /** Moves a job in the queue. */
  async move(id: string, rank: number): Promise<Job> {
    await this.get(id);
    await this.db('jobs').where({ id }).update({ rank });
    return this.get(id);
  }

  /** Moves waiting jobs with this payload in the queue. Resolves with whether there is one. */
  async moveByPayload(payload: Payload, rank: number): Promise<boolean> {
    const waiting = { kind: kindOf(payload), state: 'waiting', payload: JSON.stringify(payload) };
    return (await this.db('jobs').where(waiting).update({ rank })) > 0;
  }

  /** Settings of the export queue. */
  async queue(trx: Knex | Knex.Transaction = this.db): Promise<Queue> {
    const row = (await trx('queue').where({ id: 1 }).first()) as { paused: number; into: string | null };
    return { paused: Boolean(row.paused), into: row.into };
  }
  async setQueue(part: Partial<Queue>): Promise<Queue> {
    if (Object.keys(part).length > 0) await this.db('queue').where({ id: 1 }).update(part);
    return this.queue();
  }

  /** What a job was given to do. */
  async payload(id: string): Promise<Payload> {
    const row = await this.db<JobRow>('jobs').where({ id }).first('payload');
    if (!row) throw notFound('job');
    return payloadSchema.parse(JSON.parse(row.payload));
  }

  /** State of a job; undefined: it does not exist. */
  async stateOf(id: string): Promise<Job['state'] | undefined> {
    return (await this.db<JobRow>('jobs').where({ id }).first('state'))?.state;
  }

  /** Stops the waiting ones of some jobs, and in the same transaction runs `also` with the payload of each. */
  stopWaiting(ids: readonly string[], also: (payload: Payload, trx: Knex.Transaction) => Promise<void>): Promise<void> {
    return this.db.transaction(async (trx) => {
      const rows = await trx<JobRow>('jobs').whereIn('id', ids).andWhere({ state: 'waiting' });
      for (const row of rows) {
        const payload = payloadSchema.parse(JSON.parse(row.payload));
        await trx('jobs')
          .where({ id: row.id })
          .update({ state: 'stopped', message: stoppedText(payload) });
        await also(payload, trx);
      }
    });
  }

  /** Queues the unsuccessful ones of some jobs again, and in the same transaction runs `also`. */
  again(ids: readonly string[], also: (payload: Payload, trx: Knex.Transaction) => Promise<void>): Promise<void> {
    return this.db.transaction(async (trx) => {
      const rows = await trx<JobRow>('jobs').whereIn('id', ids).whereIn('state', ['failed', 'stopped']);
      await trx('jobs')
        .whereIn(
          'id',
          rows.map((row) => row.id),
        )
        .update({ state: 'waiting', message: null, progress: 0, attempts: 0 });
      for (const row of rows) await also(payloadSchema.parse(JSON.parse(row.payload)), trx);
    });
  }

  remove = async (ids: readonly string[]): Promise<void> => {
    await this.db('jobs').whereIn('id', ids).delete();
  };

  /**
   * After a crash: running jobs wait again; those that crashed too often are given up, with a message. Resolves with
   * the payloads of these.
   */
  async recover(): Promise<Payload[]> {
    const given = await this.db<JobRow>('jobs').where({ state: 'running' }).andWhere('attempts', '>=', MAX_ATTEMPTS);
    await this.db('jobs')
      .whereIn(
        'id',
        given.map((row) => row.id),
      )
      .update({
        state: 'failed',
        message: `The program ended ${MAX_ATTEMPTS} times while it worked on this. It is not tried again by itself.`,
      });
    await this.db('jobs').where({ state: 'running' }).update({ state: 'waiting', progress: 0 });
    return given.map((row) => payloadSchema.parse(JSON.parse(row.payload)));
  }
}
