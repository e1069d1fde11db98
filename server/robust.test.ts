import { execFileSync, spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, rmSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import Database from 'better-sqlite3';
import { newStep } from '@inkavo/core/model/grade';
import type { Job } from '@inkavo/core/model/job';
import type { SourceContent } from '@inkavo/core/model/source';
import { bring, clipsOf, ended, exportOf, jobOf, look, partsIn, Places, type Place } from './testPlace';
import { tempFolder, until } from './testServer';
import { createUpload, patchUpload, TUS } from './testUploads';

const places = new Places();
const { begin, place, folder } = places;
afterAll(() => places.close());

/** Codec processes that work in a data folder. */
function codecs(data: string): string[] {
  try {
    const list = execFileSync('ps', ['-o', 'stat=,args=', '-C', 'ffmpeg,ffprobe']).toString();
    return list.split('\n').filter((l) => l.includes(data) && !l.startsWith('Z'));
  } catch {
    return [];
  }
}

test('a second server on the same folder is refused, and touches nothing of the first one’s', async () => {
  const at = await place();
  await bring(at, 'long.mp4');
  const [clip] = await clipsOf(at);
  const job = await exportOf(at, clip);
  await until(
    async () => partsIn(at.data),
    (names) => names.some((n) => n.startsWith('exports')),
  );
  await expect(begin(at.data)).rejects.toThrow('ended with 1');
  expect(partsIn(at.data).some((n) => n.startsWith('exports'))).toBe(true);
  expect((await ended(at, job.id)).state).toBe('done');
});

test('on a port that is taken, a server says so and touches nothing', async () => {
  const at = await place();
  const data = tempFolder();
  mkdirSync(join(data, 'exports'), { recursive: true });
  writeFileSync(join(data, 'exports', 'a.mkv.part'), 'x');
  const port = new URL(at.server.client.address).port;
  const child = spawn(process.execPath, [resolve(__dirname, '../dist/server.cjs')], {
    env: { ...process.env, INKAVO_DATA: data, INKAVO_PORT: port, INKAVO_APP: 'none' },
  });
  let said = '';
  child.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()));
  expect(await new Promise((done) => child.on('exit', done))).toBe(1);
  expect(said).toContain('This port is in use');
  expect(existsSync(join(data, 'exports', 'a.mkv.part'))).toBe(true);
});

test('when only the server is killed, its codec processes end with it, and nothing half stays after the next start', async () => {
  const at = await place();
  await bring(at, 'long.mp4');
  const [clip] = await clipsOf(at);
  await exportOf(at, clip);
  await until(
    async () => codecs(at.data),
    (list) => list.length >= 2,
  );
  process.kill(at.server.child.pid!, 'SIGKILL');
  await until(
    async () => codecs(at.data),
    (list) => list.length === 0,
    3000,
  );
  at.server = await begin(at.data);
  await until(
    async () => at.server.client.get<Job[]>('/jobs'),
    (jobs) => jobs.every((j) => j.state === 'done'),
  );
  expect(partsIn(at.data)).toEqual([]);
});

test('proper stops, however many, are no crashes: the export goes on each time, and a stop takes seconds', async () => {
  const at = await place();
  await bring(at, 'long.mp4');
  const [clip] = await clipsOf(at);
  const job = await exportOf(at, clip);
  for (let i = 0; i < 4; i += 1) {
    await until(
      () => jobOf(at, job.id),
      (j) => j.state === 'running',
    );
    await until(
      async () => codecs(at.data),
      (list) => list.length >= 2,
    );
    const started = performance.now();
    expect(await at.server.stop()).toBe(0);
    expect(performance.now() - started).toBeLessThan(10_000);
    expect(codecs(at.data)).toEqual([]);
    at.server = await begin(at.data);
  }
  expect((await ended(at, job.id)).state).toBe('done');
});

test('another program that locks the database for six seconds during an export ends nothing', async () => {
  const at = await place();
  await bring(at, 'long.mp4');
  const [clip] = await clipsOf(at);
  const job = await exportOf(at, clip);
  await until(
    () => jobOf(at, job.id),
    (j) => j.state === 'running',
  );
  const other = new Database(join(at.data, 'inkavo.db'));
  other.exec('BEGIN EXCLUSIVE');
  const refused = await at.server.client.setSteps(clip.id, { clip: [newStep('range', 'r', { black: -0.05 })] });
  expect([refused.status, refused.body.code]).toEqual([503, 'busy']);
  await new Promise((r) => setTimeout(r, 6000));
  other.exec('COMMIT');
  other.close();
  expect((await at.server.client.setSteps(clip.id, { clip: [newStep('range', 'r')] })).status).toBe(200);
  expect((await ended(at, job.id)).state).toBe('done');
});

test('without room an upload is refused before a byte of it, also in its middle, and what was sent is kept', async () => {
  const create = (at: Place) =>
    createUpload(at.server.client.address, 100, { filename: 'a.mp4', outing: at.outing.id });
  const at = await place();
  const created = await create(at);
  expect(created.status).toBe(201);
  const path = created.headers.get('location')!;
  const patch = (offset: number, bytes: number) =>
    patchUpload(at.server.client.address, path, offset, Buffer.alloc(bytes));
  expect((await patch(0, 40)).status).toBe(204);
  await at.server.stop();
  at.server = await begin(at.data, { INKAVO_RESERVE: '1e15' });
  const refused = await patch(40, 60);
  expect([refused.status, await refused.text()]).toEqual([507, expect.stringContaining('no room')]);
  expect((await create(at)).status).toBe(507);
  const head = await fetch(new URL(path, at.server.client.address), { method: 'HEAD', headers: TUS });
  expect(head.headers.get('upload-offset')).toBe('40');
});

test('an upload that is whole but whose job was never stored is taken in after a crash; what is done is removed', async () => {
  const at = await place();
  expect(await at.server.stop()).toBe(0);
  const uploads = join(at.data, 'uploads');
  const metadata = { filename: 'left behind.mp4', outing: at.outing.id };
  const put = (id: string, from: string): void => {
    execFileSync('cp', [join(folder, from), join(uploads, id)]);
    const { size } = statSync(join(uploads, id));
    writeFileSync(join(uploads, `${id}.json`), JSON.stringify({ id, size, offset: 0, metadata }));
  };
  put('aa11', 'short.mp4');
  at.server = await begin(at.data);
  const [clip] = await clipsOf(at);
  expect(clip.name).toBe('left behind.mp4');
  expect(readdirSync(uploads)).toEqual([]);
  // Completed before the crash, but not removed yet: no second clip, and the upload is deleted.
  await at.server.stop();
  put('aa11', 'short.mp4');
  at.server = await begin(at.data);
  await until(
    async () => readdirSync(uploads),
    (names) => names.length === 0,
  );
  expect((await look(at)).clips).toHaveLength(1);
});

test('a proxy that was stopped says so, and can be made again', async () => {
  const at = await places.withoutProxies();
  await bring(at, 'long.mp4');
  const { intake } = await until(
    () => look(at),
    (s) => s.intake.some((j) => j.kind === 'proxy'),
  );
  const job = intake.find((j) => j.kind === 'proxy')!;
  await at.server.client.post(`/jobs/${job.id}/stop`);
  const stopped = await look(at);
  expect(stopped.clips[0].proxy).toBe('failed');
  expect(stopped.intake).toMatchObject([{ id: job.id, state: 'stopped' }]);
  await at.server.client.post(`/jobs/${job.id}/again`);
  await clipsOf(at);
});

test('exports and readings do not mind that the temporary folders are cleaned while the server runs', async () => {
  const at = await place();
  await bring(at, 'short.mp4');
  const [clip] = await clipsOf(at);
  rmSync(join(at.data, 'temporary'), { recursive: true });
  const job = await exportOf(at, clip, 'h264');
  expect((await ended(at, job.id)).state).toBe('done');
  const read = await fetch(`${at.server.client.address}/api/clips/${clip.id}/first-pass`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: '{"steps":[]}',
  });
  expect(await read.text()).toContain('explanations');
});

test.each([
  ['a playlist (HLS)', 'list.mp4', '#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nshort.mp4\n#EXT-X-ENDLIST\n'],
  ['a script of files', 'script.mp4', `ffconcat version 1.0\nfile ${join(folder, 'short.mp4')}\n`],
  [
    'a manifest (DASH)',
    'manifest.mp4',
    '<?xml version="1.0"?><MPD xmlns="urn:mpeg:dash:schema:mpd:2011" type="static" mediaPresentationDuration="PT1S"><Period><AdaptationSet mimeType="video/mp4"><Representation id="1" bandwidth="1"><BaseURL>short.mp4</BaseURL></Representation></AdaptationSet></Period></MPD>',
  ],
  ['subtitles', 'words.mp4', '1\n00:00:00,000 --> 00:00:01,000\nwords\n'],
])('%s under the name of a video opens nothing', async (_what, name, text) => {
  writeFileSync(join(folder, name), text);
  const at = await place();
  const [job] = await bring(at, name);
  expect(await ended(at, job.id)).toMatchObject({
    state: 'failed',
    message: expect.stringMatching(/not a video file/),
  });
  expect((await look(at)).clips).toEqual([]);
});

test('links on the card are not followed, and break nothing', async () => {
  symlinkSync('/nowhere/at/all.mp4', join(folder, 'dead.mp4'));
  symlinkSync('/etc/hostname', join(folder, 'away.mp4'));
  const { server } = await place();
  const { cameras } = await server.client.get<SourceContent>('/sources/card');
  const names = cameras.flatMap((c) => c.recordings.map((r) => r.name));
  expect(names).toContain('short.mp4');
  expect(names).not.toContain('dead.mp4');
  expect(names).not.toContain('away.mp4');
});
