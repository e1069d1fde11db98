import { mkdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import type { Job } from '@inkavo/core/model/job';
import type { Outing } from '@inkavo/core/model/outing';
import type { Source, SourceContent } from '@inkavo/core/model/source';
import { frameSums, make, makeChapter, QUICK_H264 } from '@inkavo/media/testClips';
import { startServer, type Running } from './app';
import { removableMounts } from './sources';
import { Client, tempFolder, until } from './testServer';

const [card, data] = [tempFolder(), tempFolder()];
const mounts = join(tempFolder(), 'mounts');
let running: Running;
let client: Client;

beforeAll(async () => {
  const folder = join(card, 'DCIM', '100KAYAK');
  mkdirSync(folder, { recursive: true });
  mkdirSync(join(card, 'JETTY_CAMERA'));
  makeChapter(join(folder, 'KY010003.mp4'), 0);
  makeChapter(join(folder, 'KY020003.mp4'), 2);
  writeFileSync(join(folder, 'KY010003.thm'), 'x');
  writeFileSync(join(folder, '.hidden.mp4'), 'x');
  make(join(card, 'JETTY_CAMERA', 'pier.mov'), 'testsrc2=size=320x180:rate=30:duration=0.5', [
    ...QUICK_H264,
    ...['-movflags', 'use_metadata_tags', '-metadata', 'make=Harbour', '-metadata', 'model=Pilot One'],
  ]);
  writeFileSync(join(card, 'JETTY_CAMERA', 'torn.mp4'), 'no film');
  writeFileSync(mounts, '');
  running = await startServer({ host: '127.0.0.1', port: 0, data, card, mounts, app: undefined, strict: true });
  client = new Client(running.address);
});
afterAll(() => running.close());

const newOuting = (): Promise<Outing> => client.post<Outing>('/outings', { name: 'Day', date: '2031-06-14' });
const jobs = (id: string) => async (): Promise<Job[]> => (await client.get<{ intake: Job[] }>(`/outings/${id}`)).intake;

test('a card: cameras told apart, chapters found, other files left alone, torn ones named', async () => {
  const { cameras, leftAlone, freeBytes } = await client.get<SourceContent>('/sources/card');
  expect(leftAlone).toBe(1);
  expect(freeBytes).toBeGreaterThan(1e6);
  expect(cameras.map((c) => [c.name, c.reason, c.recordings.map((r) => r.paths.length)])).toEqual([
    ['Camera', 'not told: nothing names it', [2]],
    ['Harbour Pilot One', 'by its tags', [1]],
    ['Jetty camera', 'by its folder', [1]],
  ]);
  expect(cameras[2].recordings[0].problem).toMatch(/not a video file|cut off/);
});

test('a file that is not brought in yet shows a frame; none that is not on the card is read', async () => {
  const res = await fetch(`${running.address}/api/sources/card/picture.jpg?path=JETTY_CAMERA/pier.mov`);
  expect([res.status, res.headers.get('content-type')]).toEqual([200, 'image/jpeg']);
  symlinkSync(resolve(card, 'JETTY_CAMERA/pier.mov'), join(card, 'JETTY_CAMERA/link.mov'));
  for (const path of ['../../etc/passwd', '/etc/hostname', 'JETTY_CAMERA', 'JETTY_CAMERA/link.mov', 'none.mov'])
    expect((await client.ask('GET', `/sources/card/picture.jpg?path=${path}`)).status).toBe(400);
});

test('chapters are joined frame by frame, as they were encoded', async () => {
  const outing = await newOuting();
  const paths = ['DCIM/100KAYAK/KY010003.mp4', 'DCIM/100KAYAK/KY020003.mp4'];
  await client.post(`/outings/${outing.id}/import`, { clips: [{ paths, camera: 'Kayak', kind: 'action' }] });
  const [clip] = await until(
    () => client.clips(outing.id),
    (c) => c.length === 1 && c[0].proxy === 'ready',
  );
  expect(clip.facts).toMatchObject({ frames: 100, variableRate: false, recordedAt: '2031-06-14T09:00:00.000000Z' });
  expect(clip.facts.durationSeconds).toBeCloseTo(4, 3);
  const { cameras } = await client.get<{ cameras: { name: string; kind: string }[] }>(`/outings/${outing.id}`);
  expect(cameras).toMatchObject([{ name: 'Kayak', kind: 'action' }]);
  const joined = frameSums(join(data, 'originals', clip.hash));
  expect(joined).toEqual(paths.flatMap((path) => frameSums(join(card, path))));
});

test('chapters that do not fit are named, and nothing is brought in', async () => {
  makeChapter(join(card, 'DCIM', '100KAYAK', 'KY030003.mp4'), 2, ['-vf', 'scale=160:90']);
  const outing = await newOuting();
  const paths = ['DCIM/100KAYAK/KY010003.mp4', 'DCIM/100KAYAK/KY030003.mp4'];
  await client.post(`/outings/${outing.id}/import`, { clips: [{ paths }] });
  const [job] = await until(jobs(outing.id), (list) => list[0]?.state === 'failed');
  expect(job.message).toMatch(/KY030003\.mp4 has another size than KY010003\.mp4/);
  expect(await client.clips(outing.id)).toEqual([]);
});

test('a disk that is plugged in is told of and read; taken out, it is said', async () => {
  const disk = tempFolder();
  make(join(disk, 'old.mp4'), 'testsrc2=size=320x180:rate=25:duration=0.4', QUICK_H264);
  expect(await client.get<Source[]>('/sources')).toMatchObject([{ id: 'card', present: true }]);
  // Mount points of removable disks, in the format of the system's own list.
  expect(removableMounts('/dev/a / ext4 rw 0 0\n/dev/b /media/me/MY\\040CARD vfat rw 0 0\n')).toEqual([
    '/media/me/MY CARD',
  ]);
  writeFileSync(mounts, `/dev/b /media/../${disk} vfat rw 0 0\n`);
  const [, found] = await until(
    () => client.get<Source[]>('/sources'),
    (s) => s.length === 2,
  );
  expect(found).toMatchObject({ kind: 'disk', present: true });
  const { cameras } = await client.get<SourceContent>(`/sources/${found.id}`);
  expect(cameras[0].recordings[0].name).toBe('old.mp4');
  writeFileSync(mounts, '');
  expect((await client.ask('GET', `/sources/${found.id}`)).status).toBe(404);
});

test('a folder is allowed, read and forgotten; what is none is refused', async () => {
  const folder = tempFolder();
  make(join(folder, 'walk.mp4'), 'testsrc2=size=320x180:rate=25:duration=0.4', QUICK_H264);
  expect(await client.ask('POST', '/sources', { path: 'walk' })).toMatchObject({ status: 400 });
  expect(await client.ask('POST', '/sources', { path: join(folder, 'walk.mp4') })).toMatchObject({
    status: 400,
    body: { detail: expect.stringMatching(/There is no folder/) },
  });
  const { status, body } = await client.ask<Source>('POST', '/sources', { path: folder });
  expect([status, body.kind]).toEqual([201, 'folder']);
  const outing = await newOuting();
  await client.post(`/outings/${outing.id}/import`, { source: body.id, clips: [{ paths: ['walk.mp4'] }] });
  await until(
    () => client.clips(outing.id),
    (c) => c.length === 1,
  );
  expect((await client.ask('DELETE', `/sources/${body.id}`)).status).toBe(204);
  expect((await client.ask('GET', `/sources/${body.id}`)).status).toBe(404);
});

test('another frame stands for a clip that begins in the dark', async () => {
  make(
    join(card, 'JETTY_CAMERA', 'dark.mp4'),
    "testsrc2=size=640x360:rate=25:duration=4,eq=brightness=-0.7:enable='lt(t,1)'",
    QUICK_H264,
  );
  const outing = await newOuting();
  await client.post(`/outings/${outing.id}/import`, { clips: [{ paths: ['JETTY_CAMERA/dark.mp4'] }] });
  const [clip] = await until(
    () => client.clips(outing.id),
    (c) => c.length === 1 && c[0].proxy === 'ready',
  );
  expect(clip.referenceFrame).toBeGreaterThan(25);
});

test('clips lie by their times of recording, without times by their names, whichever comes in first', async () => {
  const orders: string[][] = [];
  for (const [first, second, times] of [
    ['a_noon', 'b_dawn', ['2031-06-14T12:00:00Z', '2031-06-14T06:00:00Z']],
    ['take_10', 'take_9', []],
  ] as const) {
    const outing = await newOuting();
    for (const [i, name] of [first, second].entries()) {
      const tags = times[i] ? ['-metadata', `creation_time=${times[i]}`] : [];
      make(join(card, 'JETTY_CAMERA', `${name}.mp4`), `testsrc2=size=64x48:rate=25:duration=0.${2 + i}`, [
        ...QUICK_H264,
        ...tags,
      ]);
      await client.post(`/outings/${outing.id}/import`, { clips: [{ paths: [`JETTY_CAMERA/${name}.mp4`] }] });
      await until(
        () => client.clips(outing.id),
        (c) => c.length === i + 1,
      );
    }
    orders.push((await client.clips(outing.id)).map((c) => c.name.replace('.mp4', '')));
  }
  expect(orders).toEqual([
    ['b_dawn', 'a_noon'],
    ['take_9', 'take_10'],
  ]);
});

test('many that come in: how long they take is told of each; stopped, tried again and forgotten all at once', async () => {
  const folder = tempFolder();
  const names = Array.from({ length: 14 }, (_, k) => `take_${10 + k}.mp4`);
  for (const [k, name] of names.entries())
    make(join(folder, name), `testsrc2=size=320x180:rate=25:duration=${(5 + k) / 25}`, QUICK_H264);
  const { id: source } = await client.post<Source>('/sources', { path: folder });
  const outing = await newOuting();
  const ask = (act: string, ids: string[]) => client.ask('POST', '/jobs/together', { ids, act });
  const bring = names.map((name) => ({ paths: [name] }));
  await client.post(`/outings/${outing.id}/import`, { source, clips: bring });
  const imports = async (): Promise<Job[]> => (await jobs(outing.id)()).filter((j) => j.kind === 'import');
  const all = (await imports()).map((j) => j.id);
  // Once two are imported, the time for the others can be estimated.
  const told = await until(imports, (list) => list.length <= 12 && list.some((j) => j.state === 'waiting'));
  for (const job of told.filter((j) => j.state === 'waiting')) {
    expect(job.secondsLeft).toBeGreaterThan(0);
    expect(job.secondsLeft).toBeLessThan(30);
  }
  expect(await ask('stop', all)).toMatchObject({ status: 204 });
  const stopped = await imports();
  const clips = (await client.clips(outing.id)).length;
  expect(stopped.length + clips).toBe(14);
  expect(stopped.map((j) => [j.state, j.message])).toEqual(
    stopped.map(() => ['stopped', 'Stopped. No file was left.']),
  );
  expect(await ask('again', [...all, 'a'.repeat(36)])).toMatchObject({ status: 204 });
  await until(imports, (list) => list.length <= stopped.length - 2);
  await ask('stop', all);
  // Imported clips stay, and missing files do not matter.
  expect(await ask('forget', all)).toMatchObject({ status: 204 });
  expect(await imports()).toEqual([]);
  expect((await client.clips(outing.id)).length).toBeGreaterThanOrEqual(clips + 2);
  expect(await ask('forget', [])).toMatchObject({ status: 400 });
});

test('proxies that are stopped together say so at their clips, and are made when they are tried again', async () => {
  const folder = tempFolder();
  const names = ['one.mp4', 'two.mp4', 'three.mp4'];
  for (const [k, name] of names.entries())
    make(join(folder, name), `testsrc2=size=1280x720:rate=30:duration=${4 + k}`, QUICK_H264);
  const { id: source } = await client.post<Source>('/sources', { path: folder });
  const outing = await newOuting();
  await client.post(`/outings/${outing.id}/import`, { source, clips: names.map((name) => ({ paths: [name] })) });
  await until(jobs(outing.id), (list) => list.length > 0 && list.every((j) => j.kind === 'proxy'));
  const left = (await jobs(outing.id)()).map((j) => j.id);
  await client.ask('POST', '/jobs/together', { ids: left, act: 'stop' });
  const ended = (await jobs(outing.id)()).filter((j) => j.state === 'stopped').map((j) => j.clipId);
  expect(ended.length).toBeGreaterThan(0);
  const failed = (await client.clips(outing.id)).filter((c) => c.proxy === 'failed').map((c) => c.id);
  expect(failed.sort()).toEqual(ended.sort());
  await client.ask('POST', '/jobs/together', { ids: left, act: 'again' });
  await until(
    () => client.clips(outing.id),
    (list) => list.every((c) => c.proxy === 'ready'),
  );
});
