import { existsSync, mkdirSync, readdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import type { Camera, Clip, Outing } from '@inkavo/core/model/outing';
import { newStep } from '@inkavo/core/model/grade';
import type { Job } from '@inkavo/core/model/job';
import type { Removed } from '@inkavo/core/model/removed';
import { make, QUICK_H264 } from '@inkavo/media/testClips';
import { startServer, type Running } from './app';
import { Client, makeCard, tempFolder, until } from './testServer';

let running: Running;
let client: Client;
const data = tempFolder();
const card = makeCard();
const config = { host: '127.0.0.1', port: 0, data, card, app: undefined, strict: true };
beforeAll(async () => {
  // A second camera.
  const folder = join(card, 'DCIM', 'SECOND_CAMERA');
  mkdirSync(folder, { recursive: true });
  make(join(folder, 'other.mp4'), 'testsrc2=size=320x180:rate=25:duration=1,hue=h=90', QUICK_H264);
  running = await startServer(config);
  client = new Client(running.address);
});
afterAll(() => running.close());

interface Opened {
  outing: Outing;
  cameras: Camera[];
  clips: Clip[];
}
const open = (id: string) => client.get<Opened>(`/outings/${id}`);
const listed = () => client.get<Removed[]>('/removed');
const originals = () => readdirSync(join(data, 'originals')).sort();

/** An outing with the clips short.mp4 and other.mp4, of two cameras. */
async function makeOuting(name: string): Promise<Opened> {
  const { id } = await client.post<Outing>('/outings', { name, date: '2031-05-01' });
  const paths = ['DCIM/TEST_CAMERA/short.mp4', 'DCIM/SECOND_CAMERA/other.mp4'];
  await client.post(`/outings/${id}/import`, { clips: paths.map((path) => ({ paths: [path] })) });
  return until(
    () => open(id),
    ({ clips }) => clips.length === 2 && clips.every((c) => c.proxy === 'ready'),
  );
}

test('names: an outing, a camera and a clip are renamed; two cameras of an outing never share a name', async () => {
  const { outing, cameras, clips } = await makeOuting('Names');
  await client.ask('PATCH', `/outings/${outing.id}`, { place: 'Weir' });
  // Properties that a patch omits stay.
  await client.ask('PATCH', `/outings/${outing.id}`, { name: 'Other name' });
  await client.ask('PATCH', `/cameras/${cameras[0].id}`, { name: 'Bow camera' });
  await client.ask('PATCH', `/clips/${clips[0].id}`, { name: 'First light' });
  const now = await open(outing.id);
  expect([now.outing.name, now.outing.place]).toEqual(['Other name', 'Weir']);
  expect(now.cameras.map((c) => c.name)).toContain('Bow camera');
  expect(now.clips[0].name).toBe('First light');
  const clash = await client.ask<{ detail: string }>('PATCH', `/cameras/${cameras[1].id}`, { name: 'Bow camera' });
  expect([clash.status, clash.body.detail]).toEqual([409, 'This outing has a camera of that name already.']);
  expect((await client.ask('PATCH', `/cameras/${cameras[1].id}`, { name: '  ' })).status).toBe(400);
});

test('cameras are made, clips move between them, and a camera takes its clips with it and brings them back', async () => {
  const { outing, cameras, clips } = await makeOuting('Cameras');
  const made = await client.post<Camera>(`/outings/${outing.id}/cameras`, { name: 'Pole camera' });
  await client.ask('PATCH', `/clips/${clips[0].id}`, { cameraId: made.id });
  await client.post('/removed', { kind: 'camera', ids: [made.id] });
  const without = await open(outing.id);
  expect(without.cameras.map((c) => c.id)).not.toContain(made.id);
  expect(without.clips.map((c) => c.id)).toEqual([clips[1].id]);
  // Its clip is not listed separately: it was removed with its camera.
  expect((await listed()).filter((r) => r.outingName === 'Cameras')).toMatchObject([
    { kind: 'camera', name: 'Pole camera', clips: 1 },
  ]);
  expect((await client.ask('PATCH', `/clips/${clips[1].id}`, { cameraId: made.id })).status).toBe(400);
  // Its name can be used by another one in the meantime.
  expect((await client.ask('POST', `/outings/${outing.id}/cameras`, { name: 'Pole camera' })).status).toBe(201);
  await client.post('/removed/back', { kind: 'camera', ids: [made.id] });
  const back = await open(outing.id);
  expect(back.clips.map((c) => c.id).sort()).toEqual(clips.map((c) => c.id).sort());
  expect(back.cameras.filter((c) => c.name.startsWith('Pole camera'))).toHaveLength(2);
  // A clip that was removed separately is restored with its camera, if that was removed after it.
  await client.post('/removed', { kind: 'clip', ids: [clips[1].id] });
  await client.post('/removed', { kind: 'camera', ids: [cameras.find((c) => c.id === clips[1].cameraId)!.id] });
  await client.post('/removed/back', { kind: 'clip', ids: [clips[1].id] });
  expect((await open(outing.id)).cameras.map((c) => c.id)).toContain(clips[1].cameraId);
});

test('edits of a clip that was removed meanwhile are stored all the same', async () => {
  const { clips } = await makeOuting('Edits');
  const { clip, camera, outing } = await client.get<{ clip: Clip; camera: Camera; outing: Outing }>(
    `/clips/${clips[0].id}`,
  );
  const lists = { clip: clip.steps, camera: camera.steps, outing: outing.steps, overrides: clip.overrides };
  await client.post('/removed', { kind: 'clip', ids: [clip.id] });
  expect(await client.ask('GET', `/clips/${clip.id}`)).toMatchObject({
    status: 404,
    body: { detail: expect.stringContaining('was removed') },
  });
  const change = { id: 'edit-while-away', clip: { base: lists.clip, next: lists.clip.slice(1) } };
  const { status } = await client.ask('POST', `/clips/${clip.id}/changes`, change);
  await client.post('/removed/back', { kind: 'clip', ids: [clip.id] });
  const { clip: back } = await client.get<{ clip: Clip }>(`/clips/${clip.id}`);
  expect([status, back.steps.length]).toEqual([200, clip.steps.length - 1]);
});

test('files go when nothing can be put back any more, and only those that nothing else uses', async () => {
  await client.ask('DELETE', '/removed');
  const [a, b] = [await makeOuting('One'), await makeOuting('Two')];
  const before = originals();
  const only = make(join(card, 'DCIM', 'only.mp4'), 'testsrc2=size=320x180:rate=25:duration=1,hue=h=200', QUICK_H264);
  expect(existsSync(only)).toBe(true);
  await client.post(`/outings/${a.outing.id}/import`, { clips: [{ paths: ['DCIM/only.mp4'] }] });
  await until(
    () => open(a.outing.id),
    ({ clips }) => clips.length === 3 && clips.every((c) => c.proxy === 'ready'),
  );
  const all = originals();
  expect(all).toHaveLength(before.length + 1);

  await client.post('/removed', { kind: 'outing', ids: [a.outing.id] });
  expect((await client.ask('GET', `/outings/${a.outing.id}`)).status).toBe(404);
  const [item] = await listed();
  expect(item).toMatchObject({ kind: 'outing', name: 'One', clips: 3 });
  // Two of its three files are used by the other outing too.
  expect(item.bytes).toBeGreaterThan(0);
  expect(originals()).toEqual(all);
  await client.post('/removed/back', { kind: 'outing', ids: [a.outing.id] });
  expect((await open(a.outing.id)).clips).toHaveLength(3);

  await client.post('/removed', { kind: 'outing', ids: [a.outing.id] });
  await client.ask('DELETE', '/removed');
  expect(await listed()).toEqual([]);
  expect(originals()).toEqual(before);
  expect((await client.ask('POST', '/removed/back', { kind: 'outing', ids: [a.outing.id] })).status).toBe(404);
  expect((await open(b.outing.id)).clips).toHaveLength(2);
  expect((await fetch(`${client.address}/api/clips/${b.clips[0].id}/thumb.jpg`)).status).toBe(200);
});

test('what was removed a week ago goes at the next start, as does a file that a crash left without its row', async () => {
  const { outing, clips } = await makeOuting('Old');
  await client.post('/removed', { kind: 'outing', ids: [outing.id] });
  const [{ removedAt, goesAt }] = await listed();
  expect(goesAt - removedAt).toBe(7 * 86_400);
  await running.parts.removed.purge(removedAt - 1);
  expect(await listed()).toHaveLength(1);
  await running.parts.purge.run(goesAt);
  expect(await listed()).toEqual([]);
  expect(clips).toHaveLength(2);
  const orphan = join(data, 'originals', 'f'.repeat(64));
  make(`${orphan}.mp4`, 'testsrc2=size=64x64:rate=25:duration=1', QUICK_H264);
  renameSync(`${orphan}.mp4`, orphan);
  await running.close();
  running = await startServer(config);
  client = new Client(running.address);
  expect(existsSync(orphan)).toBe(false);
});

test('a file without a camera of its own gets the one that its tags name', async () => {
  const { id } = await client.post<Outing>('/outings', { name: 'Tags', date: '2031-05-02' });
  const tagged = make(join(tempFolder(), 'tagged.mp4'), 'testsrc2=size=320x180:rate=25:duration=1', [
    ...QUICK_H264,
    '-movflags',
    'use_metadata_tags',
    '-metadata',
    'com.android.manufacturer=Example',
    '-metadata',
    'com.android.model=Pocket 3',
  ]);
  await running.parts.jobs.add({
    payload: { kind: 'import', outingId: id, from: tagged, move: false, name: 'tagged.mp4', camera: null },
    title: 'tagged.mp4',
    outingId: id,
  });
  running.parts.runner.wake();
  const { cameras } = await until(
    () => open(id),
    ({ clips }) => clips.length === 1,
  );
  expect(cameras.map((c) => c.name)).toEqual(['Example Pocket 3']);
});

test('a clip is cut in two: both are parts of one recording with the same steps; undone by removing the second, done again under its id', async () => {
  const { outing, clips } = await makeOuting('Cut');
  const short = clips.find((c) => c.name === 'short.mp4')!;
  const last = short.facts.frames - 1;
  const steps = [newStep('saturation', 'own', { amount: 1.3 })];
  await client.setSteps(short.id, { clip: steps });
  const { clip, rest } = await client.post<{ clip: Clip; rest: Clip }>(`/clips/${short.id}/split`, {
    frame: 10,
    as: 'rest',
  });
  expect([clip.inFrame, clip.outFrame, rest.inFrame, rest.outFrame]).toEqual([0, 9, 10, last]);
  expect(rest).toMatchObject({
    id: 'rest',
    name: 'short 2.mp4',
    file: 'short.mp4',
    hash: clip.hash,
    steps,
    proxy: 'ready',
  });
  for (const part of [clip, rest]) {
    expect(part.referenceFrame).toBeGreaterThanOrEqual(part.inFrame);
    expect(part.referenceFrame).toBeLessThanOrEqual(part.outFrame);
  }
  const order = async () => (await open(outing.id)).clips.map((c) => c.name);
  const before = clips.map((c) => c.name);
  expect(await order()).toEqual(before.flatMap((n) => (n === 'short.mp4' ? [n, 'short 2.mp4'] : [n])));

  // Nothing is left on one side; an existing id.
  for (const [frame, as] of [
    [0, 'new'],
    [10, 'new'],
    [5, 'rest'],
    [5, clips.find((c) => c.id !== short.id)!.id],
  ])
    expect((await client.ask('POST', `/clips/${short.id}/split`, { frame, as })).status).toBe(400);
  expect(await order()).toHaveLength(3);

  // The recording is imported again: it exists.
  const path = 'DCIM/TEST_CAMERA/short.mp4';
  const [again] = await client.post<Job[]>(`/outings/${outing.id}/import`, { clips: [{ paths: [path] }] });
  const done = await until(
    async () => (await client.get<Opened & { intake: Job[] }>(`/outings/${outing.id}`)).intake,
    (jobs) => !jobs.some((j) => j.id === again.id),
  );
  expect(done).toEqual([]);
  expect(await order()).toHaveLength(3);

  await client.post('/removed', { kind: 'clip', ids: ['rest'] });
  await client.ask('PATCH', `/clips/${short.id}`, { outFrame: last });
  expect(await order()).toHaveLength(2);
  const { rest: back } = await client.post<{ rest: Clip }>(`/clips/${short.id}/split`, { frame: 15, as: 'rest' });
  expect(back).toMatchObject({ id: 'rest', name: 'short 2.mp4', inFrame: 15, outFrame: last });
  // A third.
  const third = await client.post<{ rest: Clip }>('/clips/rest/split', { frame: 20, as: 'third' });
  expect(third.rest.name).toBe('short 3.mp4');
});
