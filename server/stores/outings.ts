import { randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import type { z } from 'zod';
import type {
  Camera,
  cameraPatch,
  cameraRequest,
  ListedClip,
  Outing,
  outingPatch,
  outingRequest,
} from '@inkavo/core/model/outing';
import { cameraKindOf } from '@inkavo/core/intake/detectCameras';
import { storedSteps } from '@inkavo/core/model/grade';
import { HttpError, notFound } from '../http/problems';

interface OutingRow {
  id: string;
  name: string;
  place: string;
  date: string;
  steps: string;
  revision: number;
  removed_at: number | null;
}
interface CameraRow extends Omit<Camera, 'steps' | 'outingId'> {
  outing_id: string;
  steps: string;
  removed_at: number | null;
}

const outingOf = ({ removed_at: _removed, steps, ...row }: OutingRow): Outing => ({
  ...row,
  steps: storedSteps(steps),
});
const cameraOf = ({ outing_id, removed_at: _removed, steps, ...row }: CameraRow): Camera => ({
  ...row,
  outingId: outing_id,
  steps: storedSteps(steps),
});

/** Outings and their cameras in the database. */
export class OutingStore {
  constructor(private readonly db: Knex) {}

  /** `wanted`: its id, if no outing has or had it. */
  async create(request: z.infer<typeof outingRequest>, wanted?: string): Promise<Outing> {
    const taken = wanted === undefined || (await this.db('outings').where({ id: wanted }).first('id'));
    const id = taken ? randomUUID() : wanted;
    await this.db('outings').insert({ id, ...request, steps: '[]' });
    return this.get(id);
  }

  async get(id: string): Promise<Outing> {
    const row = await this.db<OutingRow>('outings').where({ id }).first();
    if (!row) throw notFound('outing');
    if (row.removed_at !== null) throw wasRemoved('outing');
    return outingOf(row);
  }

  async update(id: string, patch: z.infer<typeof outingPatch>): Promise<Outing> {
    if (Object.keys(patch).length) await this.db('outings').where({ id }).update(patch);
    return this.get(id);
  }

  /** All outings, newest first, each with the clips that represent it. */
  async list(): Promise<
    (Outing & { clips: Pick<ListedClip, 'id' | 'look' | 'referenceFrame'>[]; clipCount: number })[]
  > {
    const rows = await this.db<OutingRow>('outings')
      .whereNull('removed_at')
      .orderBy([{ column: 'date', order: 'desc' }, { column: 'name' }]);
    const clips = await this.db('clips')
      .join('cameras', 'cameras.id', 'clips.camera_id')
      .whereNull('clips.removed_at')
      .orderBy('position')
      .select('clips.id', 'clips.outing_id', 'clips.revision', 'reference_frame')
      .select('cameras.revision as camera_revision');
    return rows.map((row) => {
      const own = clips.filter((c) => c.outing_id === row.id);
      return {
        ...outingOf(row),
        clipCount: own.length,
        clips: own.slice(0, 6).map((c) => ({
          id: c.id,
          look: `${c.revision}.${c.camera_revision}.${row.revision}`,
          referenceFrame: c.reference_frame,
        })),
      };
    });
  }

  /** Whether there is or was any outing in this library. */
  any = async (): Promise<boolean> => (await this.db('outings').first('id')) !== undefined;

  async cameras(outingId: string): Promise<Camera[]> {
    const rows = await this.db<CameraRow>('cameras').where({ outing_id: outingId, removed_at: null }).orderBy('name');
    return rows.map(cameraOf);
  }

  async camera(id: string): Promise<Camera> {
    const row = await this.db<CameraRow>('cameras').where({ id }).first();
    if (!row) throw notFound('camera');
    return cameraOf(row);
  }

  /** Throws a 409 {@link HttpError} if another camera of the outing has the name. */
  async updateCamera(id: string, patch: z.infer<typeof cameraPatch>): Promise<Camera> {
    const { outingId } = await this.camera(id);
    if (patch.name !== undefined) await this.freeName(outingId, patch.name, id);
    if (Object.keys(patch).length) await this.db('cameras').where({ id }).update(patch);
    return this.camera(id);
  }

  /** Adds a camera to an outing. Throws a 409 {@link HttpError} if the name is taken. */
  async addCamera(outingId: string, { name, kind }: z.infer<typeof cameraRequest>): Promise<Camera> {
    await this.get(outingId);
    await this.freeName(outingId, name);
    const id = randomUUID();
    await this.db('cameras').insert({ id, outing_id: outingId, name, kind: kind ?? cameraKindOf(name), steps: '[]' });
    return this.camera(id);
  }

  /**
   * The camera of that name in an outing, created if new; a removed one is restored, without its clips. `kind` applies
   * to a new one; omitted, it is guessed from the name.
   */
  async cameraNamed(outingId: string, name: string, kind: Camera['kind'] = cameraKindOf(name)): Promise<Camera> {
    await this.db('cameras')
      .insert({ id: randomUUID(), outing_id: outingId, name, kind, steps: '[]' })
      .onConflict(['outing_id', 'name'])
      .merge({ removed_at: null });
    const row = await this.db<CameraRow>('cameras').where({ outing_id: outingId, name }).first();
    return cameraOf(row!);
  }

  /** Ensures that no other camera has a name; a removed one gives it up. */
  private async freeName(outingId: string, name: string, except = ''): Promise<void> {
    const other = await this.db<CameraRow>('cameras')
      .where({ outing_id: outingId, name })
      .whereNot({ id: except })
      .first();
    if (!other) return;
    if (other.removed_at === null)
      throw new HttpError(409, 'not-possible', 'This outing has a camera of that name already.');
    await this.db('cameras')
      .where({ id: other.id })
      .update({ name: `${name} (removed ${other.id.slice(0, 8)})` });
  }
}

export const wasRemoved = (what: string): HttpError =>
  new HttpError(404, 'not-found', `This ${what} was removed. It can be put back from the list of outings.`);
