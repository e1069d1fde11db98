import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Job } from '@inkavo/core/model/job';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import { keepProxies, layProxies } from './testProxies';
import { makeCard, spawnServer, tempFolder, type ServerProcess, until } from './testServer';

/** A server in its own process, its data folder, and an outing in it. */
export interface Place {
  data: string;
  server: ServerProcess;
  outing: Outing;
}

/** Servers with a card of test clips; all end with {@link Places.close}. */
export class Places {
  readonly card = makeCard();
  readonly folder = join(this.card, 'DCIM/TEST_CAMERA');
  private readonly servers: ServerProcess[] = [];

  /** Starts a server on a data folder. `env`: overrides. */
  readonly begin = async (data = tempFolder(), env: Record<string, string> = {}): Promise<ServerProcess> => {
    const server = await spawnServer(data, this.card, env);
    this.servers.push(server);
    return server;
  };

  /** A server with an outing, and with proxies of the card's clips from earlier tests. */
  readonly place = async (data = tempFolder(), env: Record<string, string> = {}): Promise<Place> => {
    layProxies(data, 'test');
    return this.withoutProxies(data, env);
  };

  readonly withoutProxies = async (data = tempFolder(), env: Record<string, string> = {}): Promise<Place> => {
    const server = await this.begin(data, env);
    const outing = await server.client.post<Outing>('/outings', { name: 'Day', date: '2031-06-14' });
    return { data, server, outing };
  };

  async close(): Promise<void> {
    await Promise.all(this.servers.map((s) => s.kill().catch(() => undefined)));
  }
}

export const bring = (at: Place, ...names: string[]) =>
  at.server.client.post<Job[]>(`/outings/${at.outing.id}/import`, {
    clips: names.map((n) => ({ paths: [`DCIM/TEST_CAMERA/${n}`] })),
  });
export const look = ({ server, outing }: Place) =>
  server.client.get<{ clips: Clip[]; intake: Job[] }>(`/outings/${outing.id}`);

/** The clips, once there are this many and all have proxies. */
export async function clipsOf(at: Place, count = 1): Promise<Clip[]> {
  const { clips } = await until(
    () => look(at),
    (s) => s.clips.length === count && s.clips.every((c) => c.proxy === 'ready'),
  );
  keepProxies(
    at.data,
    'test',
    clips.map((c) => c.hash),
  );
  return clips;
}
export const jobOf = async (at: Place, id: string): Promise<Job> =>
  (await at.server.client.get<Job[]>('/jobs')).find((j) => j.id === id)!;
export const exportOf = async (at: Place, clip: Clip, codec = 'ffv1'): Promise<Job> => {
  const [job] = await at.server.client.post<Job[]>('/deliveries', { clipIds: [clip.id], delivery: { codec } });
  return job;
};
export const ended = (at: Place, id: string) =>
  until(
    () => jobOf(at, id),
    (j) => j.state !== 'waiting' && j.state !== 'running',
    120_000,
  );
/** Partial files, and the contents of temporary folders. */
export const partsIn = (data: string): string[] =>
  readdirSync(data, { recursive: true, encoding: 'utf8' }).filter((n) => n.endsWith('.part') || /temporary\/./.test(n));
