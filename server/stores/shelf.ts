import { createHash, randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import type { Knex } from 'knex';
import { LRUCache } from 'lru-cache';
import type { ShelfFile } from '@inkavo/core/formats/shelfFile';
import { writeProfile, writeRecipe } from '@inkavo/core/formats/json';
import { GRADE_VERSION, RECIPE_FORMAT, storedSteps, type Step } from '@inkavo/core/model/grade';
import type { Profile } from '@inkavo/core/model/profile';
import type { LutRole, ShelfItem, ShelfKind, ShelfPatch, ShelfRequest } from '@inkavo/core/model/shelf';
import { lutIds } from '@inkavo/core/steps/lut/library';
import { writeWhole } from '@inkavo/media/files';
import { inThread } from '@inkavo/media/threads/pool';
import { badRequest, HttpError, notFound } from '../http/problems';

interface ShelfRow {
  id: string;
  kind: ShelfKind;
  title: string;
  note: string;
  shelf_group: string;
  role: LutRole;
  /** Steps of a recipe, or a profile: JSON. A table's text is in a file. */
  body: string | null;
  created_at: number;
  removed_at: number | null;
}

/** Size in characters of the cache of texts. */
const TEXTS = 128 << 20;

const sha256 = (text: string): string => createHash('sha256').update(text).digest('hex');
const now = (): number => Date.now() / 1000;

function itemOf({ id, kind, title, note, shelf_group: group, role, body }: ShelfRow): ShelfItem {
  const common = { id, title, note, group };
  if (kind === 'lut') return { ...common, kind, role };
  if (kind === 'recipe') return { ...common, kind, steps: storedSteps(body!) };
  return { ...common, kind, profile: JSON.parse(body!) };
}

/** A recipe's steps, referring to its tables by their ids on this shelf. */
const withIds = (steps: Step[], ids: ReadonlyMap<string, string>): Step[] =>
  steps.map((step) =>
    step.kind === 'lut'
      ? { ...step, params: { ...step.params, lut: ids.get(step.params.lut as string) ?? null } }
      : step,
  );

interface ShelfPlace {
  group?: string;
  role?: LutRole;
}

/** Tables, recipes and profiles: a row each; a table's text is a file named by its SHA-256. */
export class ShelfStore {
  private readonly texts: LRUCache<string, string>;

  constructor(
    private readonly db: Knex,
    private readonly fileOf: (id: string) => string,
  ) {
    this.texts = new LRUCache({ maxSize: TEXTS, sizeCalculation: (text) => text.length || 1 });
  }

  private rows = () => this.db<ShelfRow>('shelf');

  /** All items of the shelf, by group and title. */
  async list(): Promise<ShelfItem[]> {
    const rows = await this.rows().whereNull('removed_at').orderBy(['shelf_group', 'title']);
    return rows.map(itemOf);
  }

  /** The user's own profiles. */
  async profiles(): Promise<Profile[]> {
    const items = await this.list();
    return items.flatMap((i) => (i.kind === 'profile' ? [i.profile] : []));
  }

  async get(id: string): Promise<ShelfItem> {
    const row = await this.rows().where({ id, removed_at: null }).first();
    if (!row) throw notFound('item of the shelf');
    return itemOf(row);
  }

  /**
   * Imports a table, a recipe with its tables, or a profile from a file's text. The same file again is the same item,
   * restored if it was removed. An unreadable file is refused entirely, with a 422.
   */
  async add(text: string, name: string, where: ShelfPlace = {}): Promise<ShelfItem> {
    const read = await inThread({ kind: 'shelfFile', text, name });
    if ('problem' in read) throw new HttpError(422, 'unreadable', `${read.problem} Nothing was taken in.`);
    return this.addRead(text, read, where);
  }

  /** Adds a file that was read. */
  async addRead(text: string, read: ShelfFile, { group = '', role = 'look' }: ShelfPlace = {}): Promise<ShelfItem> {
    const id = sha256(text);
    if (read.kind === 'lut') writeWhole(this.fileOf(id), text);
    return this.insert(id, { ...(await this.rowOf(read, group)), shelf_group: group, role });
  }

  private async rowOf(file: ShelfFile, group: string): Promise<Pick<ShelfRow, 'kind' | 'title' | 'note' | 'body'>> {
    if (file.kind === 'lut') return { kind: 'lut', title: file.title.slice(0, 120), note: file.note, body: null };
    if (file.kind === 'profile')
      return { kind: 'profile', title: file.profile.name, note: '', body: JSON.stringify(file.profile) };
    const { name, note = '', steps, luts = {} } = file.recipe;
    const ids = new Map<string, string>();
    for (const [own, lut] of Object.entries(luts)) ids.set(own, (await this.add(lut, name, { group })).id);
    return { kind: 'recipe', title: name, note, body: JSON.stringify(withIds(steps, ids)) };
  }

  private async insert(
    id: string,
    row: Pick<ShelfRow, 'kind' | 'title' | 'note' | 'body' | 'shelf_group' | 'role'>,
  ): Promise<ShelfItem> {
    await this.rows()
      .insert({ id, ...row, created_at: now() })
      .onConflict('id')
      .merge({ removed_at: null });
    return this.get(id);
  }

  /** Adds a recipe or a profile created here. */
  async make(request: ShelfRequest): Promise<ShelfItem> {
    const { group, note } = request;
    if (request.kind === 'recipe') await this.check(request.steps);
    const own =
      request.kind === 'recipe'
        ? { title: request.title, body: JSON.stringify(request.steps) }
        : { title: request.profile.name, body: JSON.stringify(request.profile) };
    return this.insert(randomUUID(), { kind: request.kind, ...own, note, shelf_group: group, role: 'look' });
  }

  async change(id: string, { title, group, note, role }: ShelfPatch): Promise<ShelfItem> {
    const item = await this.get(id);
    const columns = { title, note, role, shelf_group: group };
    const set = Object.fromEntries(Object.entries(columns).filter(([, v]) => v !== undefined));
    // A profile is identified by its name wherever it is used.
    if (title !== undefined && item.kind === 'profile') set.body = JSON.stringify({ ...item.profile, name: title });
    if (Object.keys(set).length) await this.rows().where({ id }).update(set);
    return this.get(id);
  }

  /** An item as an open file: a table as imported, a recipe with its tables, a profile. */
  async file(id: string): Promise<{ extension: string; text: string; title: string }> {
    const item = await this.get(id);
    const { title } = item;
    if (item.kind === 'profile') return { extension: 'json', title, text: writeProfile(item.profile) };
    if (item.kind === 'lut') {
      const text = await this.text(id);
      return { extension: text.trimStart().startsWith('<') ? 'clf' : 'cube', title, text };
    }
    const luts = await this.textsFor(item.steps);
    const recipe = {
      format: RECIPE_FORMAT,
      version: GRADE_VERSION,
      name: title,
      ...(item.note ? { note: item.note } : {}),
      steps: item.steps,
      ...(Object.keys(luts).length ? { luts } : {}),
    } as const;
    return { extension: 'json', title, text: writeRecipe(recipe) };
  }

  /** The text of a table, even if removed: grades may still use it. */
  async text(id: string): Promise<string> {
    const kept = this.texts.get(id);
    if (kept !== undefined) return kept;
    if (!(await this.has(id))) throw notFound('LUT');
    try {
      const text = await readFile(this.fileOf(id), 'utf8');
      this.texts.set(id, text);
      return text;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
      throw new HttpError(404, 'not-found', 'The file of this LUT is gone from the library. Bring it in again.');
    }
  }

  private has = async (id: string): Promise<boolean> =>
    (await this.rows().where({ id, kind: 'lut' }).first('id')) !== undefined;

  /** Refuses steps that use an unknown table. */
  async check(steps: readonly Step[]): Promise<void> {
    for (const id of lutIds(steps)) {
      if (!(await this.has(id)))
        throw badRequest(`The LUT "${id.slice(0, 12)}…" is not in this library. Bring it in first.`);
    }
  }

  /** Texts of the tables that steps use, by id, for other computations. */
  async textsFor(steps: readonly Step[]): Promise<Record<string, string>> {
    await this.check(steps);
    return Object.fromEntries(await Promise.all(lutIds(steps).map(async (id) => [id, await this.text(id)] as const)));
  }
}
