import { randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import type { z } from 'zod';
import { deliverySchema } from '@inkavo/core/model/delivery';
import type { Preset, presetRequest } from '@inkavo/core/model/job';
import { notFound } from '../http/problems';

interface PresetRow {
  id: string;
  name: string;
  body: string;
}

/** Named export settings. Saving under an existing name replaces it. */
export class PresetStore {
  constructor(private readonly db: Knex) {}

  async list(): Promise<Preset[]> {
    const rows = await this.db<PresetRow>('presets').orderBy('name');
    return rows.flatMap(({ id, name, body }) => {
      const delivery = deliverySchema.safeParse(JSON.parse(body));
      return delivery.success ? [{ id, name, delivery: delivery.data }] : [];
    });
  }

  async keep({ name, delivery }: z.infer<typeof presetRequest>): Promise<Preset> {
    const body = JSON.stringify(delivery);
    await this.db('presets').insert({ id: randomUUID(), name, body }).onConflict('name').merge({ body });
    const row = (await this.db<PresetRow>('presets').where({ name }).first())!;
    return { id: row.id, name, delivery };
  }

  async forget(id: string): Promise<void> {
    if ((await this.db('presets').where({ id }).delete()) === 0) throw notFound('setting');
  }
}
