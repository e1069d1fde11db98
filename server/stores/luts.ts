import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import type { Knex } from 'knex';
import { LRUCache } from 'lru-cache';
import type { Step } from '@inkavo/core/model/grade';
import type { LutEntry } from '@inkavo/core/model/lut';
import { lutIds } from '@inkavo/core/steps/lut/library';
import { writeWhole } from '@inkavo/media/files';
import { inThread } from '@inkavo/media/threads/pool';
import { badRequest, HttpError, notFound } from '../http/problems';

interface LutRow {
  id: string;
  title: string;
  note: string;
  created_at: number;
}

/** Texts that are kept in memory, in characters together. */
const TEXTS = 128 << 20;

/** Look-up tables that were brought in: a file each, named by its SHA-256, and a row in the database. */
export class LutStore {
  private readonly texts: LRUCache<string, string>;

  constructor(
    private readonly db: Knex,
    private readonly fileOf: (id: string) => string,
  ) {
    this.texts = new LRUCache({ maxSize: TEXTS, sizeCalculation: (text) => text.length || 1 });
  }

  async list(): Promise<LutEntry[]> {
    const rows = await this.db<LutRow>('luts').orderBy('title');
    return rows.map(({ id, title, note }) => ({ id, title, note }));
  }

  /** Takes a `.cube` or CLF file in. The same file again is the same table. Refuses what cannot be read. */
  async add(text: string, name: string): Promise<LutEntry> {
    const id = createHash('sha256').update(text).digest('hex');
    const read = await inThread({ kind: 'table', text });
    if ('problem' in read) throw new HttpError(422, 'unreadable', `${read.problem} Nothing was taken in.`);
    const entry = { id, title: read.title || name.replace(/\.\w+$/, '') || 'LUT', note: read.note };
    writeWhole(this.fileOf(id), text);
    await this.db('luts')
      .insert({ ...entry, created_at: Date.now() / 1000 })
      .onConflict('id')
      .ignore();
    return (await this.list()).find((l) => l.id === id)!;
  }

  async text(id: string): Promise<string> {
    const kept = this.texts.get(id);
    if (kept !== undefined) return kept;
    if (!(await this.db('luts').where({ id }).first())) throw notFound('LUT');
    try {
      const text = await readFile(this.fileOf(id), 'utf8');
      this.texts.set(id, text);
      return text;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
      throw new HttpError(404, 'not-found', 'The file of this LUT is gone from the library. Bring it in again.');
    }
  }

  /** Refuses steps that use a table which is not here. */
  async check(steps: readonly Step[]): Promise<void> {
    for (const id of lutIds(steps)) {
      if (!(await this.db('luts').where({ id }).first()))
        throw badRequest(`The LUT "${id.slice(0, 12)}…" is not in this library. Bring it in first.`);
    }
  }

  /** Texts of the tables that steps use, by id, for whatever computes with them. */
  async textsFor(steps: readonly Step[]): Promise<Record<string, string>> {
    await this.check(steps);
    return Object.fromEntries(await Promise.all(lutIds(steps).map(async (id) => [id, await this.text(id)] as const)));
  }
}
