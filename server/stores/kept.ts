import { randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import type { z } from 'zod';
import { storedSteps } from '@inkavo/core/model/grade';
import type { Kept, keptRequest, KeptWhole } from '@inkavo/core/model/kept';
import { notFound } from '../http/problems';

interface KeptRow {
  id: string;
  clip_id: string;
  clip_name: string;
  name: string;
  frame: number;
  steps: string;
  own: string;
  created_at: number;
}

const keptOf = (row: KeptRow): Kept => ({
  id: row.id,
  clipId: row.clip_id,
  clipName: row.clip_name,
  name: row.name,
  frame: row.frame,
  createdAt: row.created_at,
});

/** Kept frames with their grade, by clip. Their pictures are rendered from the clip on demand. */
export class KeptStore {
  constructor(private readonly db: Knex) {}

  private rows = () =>
    this.db<KeptRow>('kept')
      .join('clips', 'clips.id', 'kept.clip_id')
      .whereNull('kept.removed_at')
      .whereNull('clips.removed_at')
      .select('kept.*', 'clips.name as clip_name');

  /** Those of all clips of an outing, newest first. */
  async ofOuting(outingId: string): Promise<Kept[]> {
    const rows: KeptRow[] = await this.rows().where('clips.outing_id', outingId).orderBy('kept.created_at', 'desc');
    return rows.map(keptOf);
  }

  async get(id: string): Promise<KeptWhole> {
    const row: KeptRow | undefined = await this.rows().where('kept.id', id).first();
    if (!row) throw notFound('kept frame');
    return { ...keptOf(row), steps: storedSteps(row.steps), own: storedSteps(row.own) };
  }

  async add(clipId: string, { name, frame, steps, own }: z.infer<typeof keptRequest>): Promise<KeptWhole> {
    const id = randomUUID();
    await this.db('kept').insert({
      id,
      clip_id: clipId,
      name,
      frame,
      steps: JSON.stringify(steps),
      own: JSON.stringify(own),
      created_at: Date.now() / 1000,
    });
    return this.get(id);
  }

  async rename(id: string, name: string): Promise<KeptWhole> {
    await this.get(id);
    await this.db('kept').where({ id }).update({ name });
    return this.get(id);
  }
}
