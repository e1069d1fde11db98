import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { newStep } from '@inkavo/core/model/grade';
import type { Job } from '@inkavo/core/model/job';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import { probe } from '@inkavo/media/codec';
import { makeCard, spawnServer, tempFolder, until, type ServerProcess } from './testServer';
import { createUpload, patchUpload, TUS } from './testUploads';

const card = makeCard();
const file = readFileSync(join(card, 'DCIM/TEST_CAMERA/long.mp4'));
const data = tempFolder();
let server: ServerProcess;
let outing: Outing;

beforeAll(async () => {
  server = await spawnServer(data, card);
  outing = await server.client.post<Outing>('/outings', { name: 'Crash day', date: '2031-06-14' });
});
afterAll(() => server.kill());

const pullThePlug = async (): Promise<void> => {
  await server.kill();
  server = await spawnServer(data, card);
};
const clips = async (): Promise<Clip[]> => await server.client.clips(outing.id);

test('an upload goes on from where it was, and what arrives is the file', async () => {
  const metadata = { filename: 'sent.mp4', outing: outing.id };
  const created = await createUpload(server.client.address, file.length, metadata);
  expect(created.status).toBe(201);
  const path = created.headers.get('location')!;
  const half = Math.floor(file.length / 2);
  const patch = (offset: number, part: Buffer) => patchUpload(server.client.address, path, offset, part);
  expect((await patch(0, file.subarray(0, half))).status).toBe(204);
  await pullThePlug();
  const head = await fetch(new URL(path, server.client.address), { method: 'HEAD', headers: TUS });
  expect(head.headers.get('upload-offset')).toBe(String(half));
  expect((await patch(half, file.subarray(half))).status).toBe(204);
  const [clip] = await until(clips, (list) => list.length === 1 && list[0].proxy === 'ready');
  expect(clip).toMatchObject({ name: 'sent.mp4', hash: createHash('sha256').update(file).digest('hex') });
  expect(readdirSync(join(data, 'uploads'))).toEqual([]);
});

test('steps that were kept are there after a crash, to the last one', async () => {
  const [clip] = await clips();
  for (let i = 0; i < 20; i += 1) {
    const { status } = await server.client.setSteps(clip.id, { clip: [newStep('range', 'r', { black: -0.01 * i })] });
    expect(status).toBe(200);
  }
  await pullThePlug();
  const [again] = await clips();
  expect(again.revision).toBe(clip.revision + 20);
  expect(again.steps[0].params.black).toBeCloseTo(-0.19, 9);
});

test('an export that a crash broke off runs again by itself; no half file is offered', async () => {
  const [clip] = await clips();
  const [job] = await server.client.post<Job[]>('/deliveries', { clipIds: [clip.id], delivery: { codec: 'ffv1' } });
  const find = async (): Promise<Job> => (await server.client.get<Job[]>('/jobs')).find((j) => j.id === job.id)!;
  await until(
    async () => readdirSync(join(data, 'exports')),
    (names) => names.some((n) => n.endsWith('.part')),
  );
  await server.kill();
  expect(readdirSync(join(data, 'exports'))).toEqual(['sent.mkv.part']);
  server = await spawnServer(data, card);
  expect((await fetch(`${server.client.address}/api/jobs/${job.id}/file`)).status).toBe(404);
  const done = await until(find, (j) => j.state === 'done' || j.state === 'failed');
  expect(done.state).toBe('done');
  expect(readdirSync(join(data, 'exports'))).toEqual(['sent.mkv']);
  expect((await probe(join(data, 'exports', 'sent.mkv'))).facts.frames).toBe(clip.facts.frames);
});

test('a film that a crash broke off is made again; no half file is offered, and nothing of it stays behind', async () => {
  const [clip] = await clips();
  const request = { outingId: outing.id, clipIds: [clip.id, clip.id], dissolve: 1, delivery: { codec: 'ffv1' } };
  const [job] = await server.client.post<Job[]>('/films', request);
  const find = async (): Promise<Job> => (await server.client.get<Job[]>('/jobs')).find((j) => j.id === job.id)!;
  for (const seconds of [0.2, 2]) {
    await until(
      async () => readdirSync(join(data, 'exports')),
      (names) => names.includes(`${job.file!.name}.part`),
    );
    await new Promise((r) => setTimeout(r, 1000 * seconds));
    await pullThePlug();
    expect((await fetch(`${server.client.address}/api/jobs/${job.id}/file`)).status).toBe(404);
  }
  const done = await until(find, (j) => j.state === 'done' || j.state === 'failed');
  expect(done).toMatchObject({ state: 'done', file: { result: { frames: 2 * clip.facts.frames - 30 } } });
  expect(readdirSync(join(data, 'exports')).filter((n) => n.endsWith('.part'))).toEqual([]);
  expect(readdirSync(join(data, 'temporary'))).toEqual([]);
});

test('an export that crashes the program three times is given up with a reason', async () => {
  const [clip] = await clips();
  const [job] = await server.client.post<Job[]>('/deliveries', { clipIds: [clip.id], delivery: { codec: 'ffv1' } });
  const find = async (): Promise<Job> => (await server.client.get<Job[]>('/jobs')).find((j) => j.id === job.id)!;
  for (let i = 0; i < 3; i += 1) {
    await until(find, (j) => j.state === 'running');
    await pullThePlug();
  }
  expect(await find()).toMatchObject({ state: 'failed', message: expect.stringContaining('3 times') });
});
