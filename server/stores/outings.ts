import { randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import type { z } from 'zod';
import type { Camera, cameraPatch, Clip, Outing, outingPatch, outingRequest } from '@inkavo/core/model/outing';
import { storedSteps } from '@inkavo/core/model/grade';
import { notFound } from '../http/problems';

interface OutingRow {
  id: string;
  name: string;
  place: string;
  date: string;
  steps: string;
  revision: number;
}
interface CameraRow extends Omit<Camera, 'steps' | 'outingId'> {
  outing_id: string;
  steps: string;
}

const outingOf = (row: OutingRow): Outing => ({ ...row, steps: storedSteps(row.steps) });
const cameraOf = ({ outing_id, steps, ...row }: CameraRow): Camera => ({
  ...row,
  outingId: outing_id,
  steps: storedSteps(steps),
});

/** Outings and their cameras in the database. */
export class OutingStore {
  constructor(private readonly db: Knex) {}

  async create(request: z.infer<typeof outingRequest>): Promise<Outing> {
    const id = randomUUID();
    await this.db('outings').insert({ id, ...request, steps: '[]' });
    return this.get(id);
  }

  async get(id: string): Promise<Outing> {
    const row = await this.db<OutingRow>('outings').where({ id }).first();
    if (!row) throw notFound('outing');
    return outingOf(row);
  }

  async update(id: string, patch: z.infer<typeof outingPatch>): Promise<Outing> {
    if (Object.keys(patch).length) await this.db('outings').where({ id }).update(patch);
    return this.get(id);
  }

  /** All outings, newest first, each with the clips whose frames stand for it. */
  async list(): Promise<(Outing & { clips: Pick<Clip, 'id' | 'revision' | 'referenceFrame'>[]; clipCount: number })[]> {
    const rows = await this.db<OutingRow>('outings').orderBy([{ column: 'date', order: 'desc' }, { column: 'name' }]);
    const clips = await this.db('clips')
      .where({ removed: false })
      .orderBy('position')
      .select('id', 'outing_id', 'revision', 'reference_frame');
    return rows.map((row) => {
      const own = clips.filter((c) => c.outing_id === row.id);
      return {
        ...outingOf(row),
        clipCount: own.length,
        clips: own.slice(0, 6).map((c) => ({ id: c.id, revision: c.revision, referenceFrame: c.reference_frame })),
      };
    });
  }

  async cameras(outingId: string): Promise<Camera[]> {
    const rows = await this.db<CameraRow>('cameras').where({ outing_id: outingId }).orderBy('name');
    return rows.map(cameraOf);
  }

  async camera(id: string): Promise<Camera> {
    const row = await this.db<CameraRow>('cameras').where({ id }).first();
    if (!row) throw notFound('camera');
    return cameraOf(row);
  }

  async updateCamera(id: string, patch: z.infer<typeof cameraPatch>): Promise<Camera> {
    if (Object.keys(patch).length) await this.db('cameras').where({ id }).update(patch);
    return this.camera(id);
  }

  /** The camera of that name in an outing, made when it is new. */
  async cameraNamed(outingId: string, name: string): Promise<Camera> {
    await this.db('cameras')
      .insert({ id: randomUUID(), outing_id: outingId, name, kind: cameraKindOf(name), steps: '[]' })
      .onConflict(['outing_id', 'name'])
      .ignore();
    const row = await this.db<CameraRow>('cameras').where({ outing_id: outingId, name }).first();
    return cameraOf(row!);
  }
}

/** A camera's kind, guessed from its name. */
function cameraKindOf(name: string): Camera['kind'] {
  if (/helmet|action|sport/i.test(name)) return 'action';
  if (/copter|drone|aerial/i.test(name)) return 'drone';
  if (/dive|water|housing/i.test(name)) return 'dive';
  return /phone/i.test(name) ? 'phone' : 'other';
}
