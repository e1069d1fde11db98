import { createHash, randomBytes, randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import type { Device } from '@inkavo/core/model/sharing';
import { notFound } from '../http/problems';

interface DeviceRow {
  id: string;
  name: string;
  secret_hash: string;
  joined_at: number;
  seen_at: number;
}
interface SharingRow {
  on: number;
  encrypted: number;
}

/** Whether and how sharing is on. */
export interface SharingSettings {
  on: boolean;
  encrypted: boolean;
}

/** 32 random bytes cannot be guessed, so a plain hash is sufficient. */
const SECRET_BYTES = 32;
const hashOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');
const deviceOf = ({ id, name, joined_at, seen_at }: DeviceRow): Device => ({
  id,
  name,
  joinedAt: joined_at,
  seenAt: seen_at,
});

/** Paired devices. Only hashes of their secrets are stored. */
export class DeviceStore {
  constructor(private readonly db: Knex) {}

  async settings(): Promise<SharingSettings> {
    const row = (await this.db<SharingRow>('sharing').first())!;
    return { on: Boolean(row.on), encrypted: Boolean(row.encrypted) };
  }

  async set(settings: SharingSettings): Promise<void> {
    await this.db('sharing').update(settings);
  }

  /** Newest first. */
  async list(): Promise<Device[]> {
    return (await this.db<DeviceRow>('devices').orderBy('joined_at', 'desc')).map(deviceOf);
  }

  /** Stores a new device. `secret`: identifies it from now on. */
  async add(name: string, now: number): Promise<{ device: Device; secret: string }> {
    const secret = randomBytes(SECRET_BYTES).toString('base64url');
    const row = { id: randomUUID(), name, secret_hash: hashOf(secret), joined_at: now, seen_at: now };
    await this.db('devices').insert(row);
    return { device: deviceOf(row), secret };
  }

  async find(secret: string): Promise<Device | null> {
    const row = await this.db<DeviceRow>('devices')
      .where({ secret_hash: hashOf(secret) })
      .first();
    return row ? deviceOf(row) : null;
  }

  async seen(id: string, now: number): Promise<void> {
    await this.db('devices').where({ id }).update({ seen_at: now });
  }

  async remove(id: string): Promise<void> {
    if ((await this.db('devices').where({ id }).delete()) === 0) throw notFound('device');
  }
}
