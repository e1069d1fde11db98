import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import type { Knex } from 'knex';
import { FormatError } from '@inkavo/core/formats/error';
import type { Step } from '@inkavo/core/model/grade';
import type { LutEntry } from '@inkavo/core/model/lut';
import { writeWhole } from '@inkavo/media/files';
import { knownLut, lutIds, provideLut, readLut } from '@inkavo/core/steps/lut/library';
import { HttpError, notFound } from '../http';

interface LutRow {
  id: string;
  title: string;
  note: string;
  created_at: number;
}

/** Look-up tables that were brought in: a file each, named by its SHA-256, and a row in the database. */
export class LutStore {
  constructor(
    private readonly db: Knex,
    private readonly fileOf: (id: string) => string,
  ) {}

  async list(): Promise<LutEntry[]> {
    const rows = await this.db<LutRow>('luts').orderBy('title');
    return rows.map(({ id, title, note }) => ({ id, title, note }));
  }

  /** Takes a `.cube` or CLF file in. The same file again is the same table. Refuses what cannot be read. */
  async add(text: string, name: string): Promise<LutEntry> {
    const id = createHash('sha256').update(text).digest('hex');
    let file: ReturnType<typeof readLut>;
    try {
      file = readLut(text);
    } catch (error) {
      if (error instanceof FormatError) throw new HttpError(422, `${error.message} Nothing was taken in.`);
      throw error;
    }
    const entry = { id, title: file.title || name.replace(/\.\w+$/, '') || 'LUT', note: file.note };
    writeWhole(this.fileOf(id), text);
    await this.db('luts')
      .insert({ ...entry, created_at: Date.now() / 1000 })
      .onConflict('id')
      .ignore();
    return (await this.list()).find((l) => l.id === id)!;
  }

  async text(id: string): Promise<string> {
    if (!(await this.db('luts').where({ id }).first())) throw notFound('LUT');
    return readFile(this.fileOf(id), 'utf8');
  }

  /** Refuses steps that use a table which is not here. */
  async check(steps: readonly Step[]): Promise<void> {
    for (const id of lutIds(steps)) {
      if (knownLut(id)) continue;
      if (!(await this.db('luts').where({ id }).first()))
        throw new HttpError(400, `The LUT "${id.slice(0, 12)}…" is not in this library. Bring it in first.`);
    }
  }

  /** Makes the tables that steps use known to this process. */
  async provide(steps: readonly Step[]): Promise<void> {
    await this.check(steps);
    for (const id of lutIds(steps)) if (!knownLut(id)) provideLut(id, readFileSync(this.fileOf(id), 'utf8'));
  }
}
