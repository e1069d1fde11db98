import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Job, Queue } from '@inkavo/core/model/job';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import type { Problem } from '@inkavo/core/model/problem';
import type { Source } from '@inkavo/core/model/source';
import { makeCard, spawnServer, tempFolder, until, type ServerProcess } from './testServer';

const [card, data, folder] = [makeCard(), tempFolder(), tempFolder()];
let server: ServerProcess;
let outing: Outing;
let clip: Clip;
let target: Source;

beforeAll(async () => {
  server = await spawnServer(data, card);
  outing = await server.client.post<Outing>('/outings', { name: 'Day', date: '2031-06-14' });
  await server.client.post(`/outings/${outing.id}/import`, { clips: [{ paths: ['DCIM/TEST_CAMERA/short.mp4'] }] });
  [clip] = await until(
    () => server.client.clips(outing.id),
    (list) => list[0]?.proxy === 'ready',
  );
  target = await server.client.post<Source>('/sources', { path: folder });
});
afterAll(() => server.kill());

const jobs = () => server.client.get<Job[]>('/jobs');
const ended = async (): Promise<Job[]> =>
  until(jobs, (all) => all.every((j) => !['waiting', 'running'].includes(j.state)));
const deliver = async (): Promise<Job> => {
  const request = { clipIds: [clip.id], delivery: { codec: 'ffv1' } };
  const [job] = await server.client.post<Job[]>('/deliveries', request);
  await ended();
  return (await jobs()).find((j) => j.id === job.id)!;
};
const copies = async (): Promise<Job[]> => (await ended()).filter((j) => j.kind === 'copy');

test('a folder that clips come from takes no files until that is allowed', async () => {
  expect(target.writable).toBe(false);
  const refused = await server.client.ask<Problem>('PUT', '/queue', { into: target.id });
  expect([refused.status, refused.body.detail]).toEqual([
    400,
    expect.stringContaining('allow it for its folder first'),
  ]);
  expect((await server.client.ask('PATCH', '/sources/card', { writable: true })).status).toBe(404);
  const { body } = await server.client.ask<Source>('PATCH', `/sources/${target.id}`, { writable: true });
  expect(body).toMatchObject({ id: target.id, writable: true });
});

test('what is finished is put into the folder as well, whole, and nothing there is overwritten', async () => {
  writeFileSync(join(folder, 'short.mkv'), 'somebody’s own');
  expect((await server.client.ask<Queue>('PUT', '/queue', { into: target.id })).body).toEqual({
    paused: false,
    into: target.id,
  });
  const job = await deliver();
  const [copy] = await copies();
  expect(copy).toMatchObject({ state: 'done', message: `It lies in ${join(folder, 'short (2).mkv')}.` });
  expect(readFileSync(join(folder, 'short (2).mkv'))).toEqual(readFileSync(join(data, 'exports', job.file!.name)));
  expect(readFileSync(join(folder, 'short.mkv'), 'utf8')).toBe('somebody’s own');
  // Once more by hand: the same file is not written twice.
  await server.client.post(`/jobs/${job.id}/copy`, { into: target.id });
  expect((await copies())[0].message).toBe(copy.message);
  expect(readdirSync(folder).sort()).toEqual(['short (2).mkv', 'short.mkv']);
});

test('a folder that is gone is named, the file stays, and the copy can be tried again', async () => {
  rmSync(folder, { recursive: true });
  const job = await deliver();
  const [copy] = await copies();
  expect(copy).toMatchObject({ state: 'failed', message: expect.stringContaining('is still here') });
  expect(job.state).toBe('done');
  mkdirSync(folder);
  await server.client.post(`/jobs/${copy.id}/again`);
  expect((await copies()).find((c) => c.id === copy.id)).toMatchObject({ state: 'done' });
  expect(readdirSync(folder)).toEqual([job.file!.name]);
});

test('a copy that a crash broke off is made again, and no half file is left', async () => {
  await server.client.ask('PUT', '/queue', { into: null });
  const job = await deliver();
  expect(await copies()).toHaveLength(3);
  const { id } = await server.client.post<Job>(`/jobs/${job.id}/copy`, { into: target.id });
  await server.kill();
  server = await spawnServer(data, card);
  expect((await copies()).find((c) => c.id === id)).toMatchObject({ state: 'done' });
  expect(readFileSync(join(folder, job.file!.name))).toEqual(readFileSync(join(data, 'exports', job.file!.name)));
  expect(readdirSync(folder).filter((n) => n.endsWith('.part'))).toEqual([]);
});
