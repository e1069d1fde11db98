import { randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import { z } from 'zod';
import { stepsSchema } from '@inkavo/core/model/grade';
import { deliverySchema, DELIVERY_INFO, type Job } from '@inkavo/core/model/job';
import { idSchema } from '@inkavo/core/model/outing';
import { notFound } from '../http';

/** What each kind of job has to know; stored with it, so that it can run again. */
export const payloadSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('import'),
    outingId: idSchema,
    /** The file to take in; an upload is moved, a card's file copied. */
    from: z.string(),
    move: z.boolean(),
    name: z.string(),
    camera: z.string(),
  }),
  z.object({ kind: z.literal('proxy'), hash: z.string() }),
  z.object({
    kind: z.literal('export'),
    hash: z.string(),
    steps: stepsSchema,
    delivery: deliverySchema,
    inFrame: z.number(),
    outFrame: z.number(),
  }),
]);
export type Payload = z.infer<typeof payloadSchema>;
export type PayloadOf<K extends Payload['kind']> = Extract<Payload, { kind: K }>;

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
  created_at: number;
}

export interface NewJob {
  payload: Payload;
  title: string;
  outingId?: string;
  clipId?: string;
  /** Name of the file that an export makes, without extension; made unique here. */
  fileStem?: string;
}

const jobOf = (row: JobRow): Job => {
  const payload = JSON.parse(row.payload) as Payload;
  const format = payload.kind === 'export' ? DELIVERY_INFO[payload.delivery.codec].title : '';
  return {
    id: row.id,
    kind: row.kind,
    state: row.state,
    title: row.title,
    outingId: row.outing_id,
    clipId: row.clip_id,
    progress: row.progress,
    secondsLeft: null,
    message: row.message,
    file: row.file_name ? { name: row.file_name, bytes: row.file_bytes, format } : null,
    createdAt: row.created_at,
  };
};

/** After so many starts that ended in a crash, a job is given up. */
const MAX_ATTEMPTS = 3;

/** The queue in the database. */
export class JobStore {
  constructor(private readonly db: Knex) {}

  async add({ payload, title, outingId, clipId, fileStem }: NewJob): Promise<Job> {
    const id = randomUUID();
    await this.db.transaction(async (trx) => {
      const fileName = payload.kind === 'export' && fileStem ? await this.freeName(trx, fileStem, payload) : null;
      await trx('jobs').insert({
        id,
        kind: payload.kind,
        state: 'waiting',
        title,
        outing_id: outingId ?? null,
        clip_id: clipId ?? null,
        payload: JSON.stringify(payload),
        file_name: fileName,
        created_at: Date.now() / 1000,
      });
    });
    return this.get(id);
  }

  private async freeName(trx: Knex.Transaction, stem: string, payload: PayloadOf<'export'>): Promise<string> {
    const { extension } = DELIVERY_INFO[payload.delivery.codec];
    const plain =
      stem
        .replace(/\.[a-z0-9]{2,4}$/i, '')
        .replace(/[^\p{L}\p{N} ._-]+/gu, '_')
        .slice(0, 100) || 'clip';
    for (let n = 1; ; n += 1) {
      const name = n === 1 ? `${plain}.${extension}` : `${plain} (${n}).${extension}`;
      if (!(await trx('jobs').where({ file_name: name }).first())) return name;
    }
  }

  async get(id: string): Promise<Job> {
    const row = await this.db<JobRow>('jobs').where({ id }).first();
    if (!row) throw notFound('job');
    return jobOf(row);
  }

  /** Exports, newest first, and intake that is under way or went wrong. */
  async list(): Promise<Job[]> {
    const rows = await this.db<JobRow>('jobs')
      .where({ kind: 'export' })
      .orWhereIn('state', ['waiting', 'running', 'failed'])
      .orderBy('created_at', 'desc')
      .limit(500);
    return rows.map(jobOf);
  }

  async ofOuting(outingId: string): Promise<Job[]> {
    const rows = await this.db<JobRow>('jobs')
      .where({ outing_id: outingId })
      .whereIn('kind', ['import', 'proxy'])
      .whereIn('state', ['waiting', 'running', 'failed'])
      .orderBy('created_at');
    return rows.map(jobOf);
  }

  /** The next waiting job of these kinds, marked as running. */
  async take(kinds: Payload['kind'][]): Promise<{ job: Job; payload: Payload } | undefined> {
    return this.db.transaction(async (trx) => {
      const row = await trx<JobRow>('jobs')
        .where({ state: 'waiting' })
        .whereIn('kind', kinds)
        .orderBy('created_at')
        .first();
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

  async update(
    id: string,
    set: { state?: Job['state']; progress?: number; message?: string | null; clipId?: string; fileBytes?: number },
  ): Promise<Job> {
    const columns = {
      state: set.state,
      progress: set.progress,
      message: set.message,
      clip_id: set.clipId,
      file_bytes: set.fileBytes,
    };
    await this.db('jobs')
      .where({ id })
      .update(Object.fromEntries(Object.entries(columns).filter(([, v]) => v !== undefined)));
    return this.get(id);
  }

  /** Lets a job that ended without success wait again. */
  async again(id: string): Promise<Job> {
    await this.db('jobs')
      .where({ id })
      .whereIn('state', ['failed', 'stopped'])
      .update({ state: 'waiting', message: null, progress: 0, attempts: 0 });
    return this.get(id);
  }

  remove = async (id: string): Promise<void> => {
    await this.db('jobs').where({ id }).delete();
  };

  /** After a crash: what was running waits again; what has crashed too often is given up, with a sentence. */
  async recover(): Promise<void> {
    await this.db('jobs')
      .where({ state: 'running' })
      .andWhere('attempts', '>=', MAX_ATTEMPTS)
      .update({
        state: 'failed',
        message: `The program ended ${MAX_ATTEMPTS} times while it worked on this. It is not tried again by itself.`,
      });
    await this.db('jobs').where({ state: 'running' }).update({ state: 'waiting', progress: 0 });
  }
}
