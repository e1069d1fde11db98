import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { readOtio } from '@inkavo/core/formats/timeline/otio';
import type { Expected, Job, Preset } from '@inkavo/core/model/job';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import type { Problem } from '@inkavo/core/model/problem';
import { probe } from '@inkavo/media/codec';
import { make, QUICK_H264 } from '@inkavo/media/testClips';
import { startServer, type Running } from './app';
import { Client, tempFolder, until } from './testServer';

const [card, data] = [tempFolder(), tempFolder()];
let running: Running;
let client: Client;
let outing: Outing;
let clips: Clip[];

beforeAll(async () => {
  const folder = join(card, 'HELMET_CAMERA');
  mkdirSync(folder);
  make(join(folder, 'one.mp4'), 'testsrc2=size=640x360:rate=25:duration=4', QUICK_H264);
  make(join(folder, 'two.mp4'), 'testsrc=size=640x360:rate=25:duration=2', QUICK_H264);
  running = await startServer({ host: '127.0.0.1', port: 0, data, card, app: undefined, strict: true });
  client = new Client(running.address);
  outing = await client.post<Outing>('/outings', { name: 'Reed bay', date: '2031-06-14' });
  const names = ['one.mp4', 'two.mp4'];
  await client.post(`/outings/${outing.id}/import`, {
    clips: names.map((name) => ({ paths: [`HELMET_CAMERA/${name}`] })),
  });
  clips = await until(
    () => client.clips(outing.id),
    (c) => c.length === 2 && c.every((clip) => clip.proxy === 'ready'),
  );
});
afterAll(() => running.close());

const jobs = () => client.get<Job[]>('/jobs');
const ended = async (id: string): Promise<Job> => {
  const list = await until(jobs, (all) => !['waiting', 'running'].includes(all.find((j) => j.id === id)!.state));
  return list.find((j) => j.id === id)!;
};
const exported = (job: Job): string => join(data, 'exports', job.file!.name);
const deliver = async (request: object): Promise<Job[]> => client.post<Job[]>('/deliveries', request);

test('several forms at once: each clip in each of them, nothing where one cannot be made', async () => {
  const request = { clipIds: clips.map((c) => c.id), delivery: { codec: 'h264', lines: 180, name: 'small {clip}' } };
  const made = await deliver({ ...request, also: [{ codec: 'ffv1', name: '{clip} whole' }] });
  expect(made.map((j) => j.file!.name)).toEqual(['small one.mp4', 'one whole.mkv', 'small two.mp4', 'two whole.mkv']);
  const sizes = await Promise.all(made.map(async (j) => (await probe(exported(await ended(j.id)))).facts));
  expect(sizes.map((f) => f.height)).toEqual([180, 360, 180, 360]);
  const before = (await jobs()).length;
  const refused = await client.ask('POST', '/deliveries', { ...request, also: [{ codec: 'none' }] });
  expect(refused.status).toBe(400);
  expect(await jobs()).toHaveLength(before);
});

test('names by a pattern, for each clip its own; a taken one gets a number', async () => {
  const delivery = { codec: 'h264', lines: 180, name: '{n} {clip} {camera} {day} {lines}' };
  const made = await deliver({ clipIds: clips.map((c) => c.id), delivery });
  expect(made.map((j) => j.file!.name)).toEqual([
    '1 one Helmet camera 2031-06-14 180.mp4',
    '2 two Helmet camera 2031-06-14 180.mp4',
  ]);
  const [again] = await deliver({ clipIds: [clips[0].id], delivery });
  expect(again.file!.name).toBe('1 one Helmet camera 2031-06-14 180 (2).mp4');
  const done = await ended(made[0].id);
  const { facts } = await probe(exported(done));
  expect(facts).toMatchObject({ width: 320, height: 180, frames: 100 });
  const sha256 = createHash('sha256')
    .update(readFileSync(exported(done)))
    .digest('hex');
  expect(done.file!.result).toMatchObject({ frames: 100, width: 320, height: 180, sha256 });
  const refused = await client.ask('POST', '/deliveries', {
    clipIds: [clips[0].id],
    delivery: { codec: 'h264', name: '{who}' },
  });
  expect(refused).toMatchObject({ status: 400, body: { detail: expect.stringMatching(/\{who\} stands for nothing/) } });
  await ended(again.id);
});

test('the size that is expected is near the one that comes out', async () => {
  const delivery = { codec: 'h264', quality: 20 };
  const expected = await client.post<Expected>('/deliveries/expected', { clipId: clips[0].id, delivery });
  const [job] = await deliver({ clipIds: [clips[0].id], delivery });
  expect(expected).toMatchObject({ width: 640, height: 360, seconds: 4, name: job.file!.name });
  const bytes = statSync(exported(await ended(job.id))).size;
  expect(Math.abs(expected.bytes / bytes - 1)).toBeLessThan(0.25);
  // One of twelve gets the number 01.
  const numbered = await client.post<Expected>('/deliveries/expected', {
    ...{ clipId: clips[0].id, of: 12 },
    delivery: { codec: 'h264', megabits: 2, name: '{n} {clip}' },
  });
  expect(numbered.name).toBe('01 one.mp4');
  const byRate = await client.post<Expected>('/deliveries/expected', {
    clipId: clips[0].id,
    delivery: { codec: 'h264', megabits: 8 },
  });
  expect(byRate.bytes).toBe(4e6);
});

test('a clip is exported until its picture changes', async () => {
  const state = async (): Promise<string> => {
    const open = await client.get<{ clips: { id: string; state: string }[] }>(`/outings/${outing.id}`);
    return open.clips.find((c) => c.id === clips[1].id)!.state;
  };
  const [job] = await deliver({ clipIds: [clips[1].id], delivery: { codec: 'h264' } });
  await ended(job.id);
  expect(await state()).toBe('exported');
  await client.setSteps(clips[1].id, { clip: [newStep('range', 'r', { exposure: 0.2 })] });
  expect(await state()).toBe('work');
});

test('what cannot be encoded here is not offered', async () => {
  const offered = await client.get<{ codec: string; fast: boolean }[]>('/deliveries/codecs');
  expect(offered.map((o) => o.codec)).toEqual(expect.arrayContaining(['h264', 'h265', 'vc3', 'ffv1']));
  // Independent of the machine: what is not offered is refused, with its reason.
  for (const { codec } of offered.filter((o) => !o.fast)) {
    const wanted = { clipIds: [clips[1].id], delivery: { codec, effort: 'fast' } };
    const { status, body: said } = await client.ask('POST', '/deliveries', wanted);
    expect(status).toBe(400);
    expect(JSON.stringify(said)).toMatch(/No hardware encoder of this machine encodes/);
  }
});

test('paused, nothing begins; what waits can be put into another order; then it goes on in that order', async () => {
  await client.ask('PUT', '/queue', { paused: true });
  const [a] = await deliver({ clipIds: [clips[0].id], delivery: { codec: 'h264', name: 'a' } });
  const [b] = await deliver({ clipIds: [clips[1].id], delivery: { codec: 'h264', name: 'b' } });
  await new Promise((r) => setTimeout(r, 400));
  expect(
    (await jobs())
      .filter((j) => j.state === 'waiting')
      .map((j) => j.id)
      .sort(),
  ).toEqual([a.id, b.id].sort());
  await client.ask('PATCH', `/jobs/${b.id}`, { rank: a.rank - 1 });
  await client.ask('PUT', '/queue', { paused: false });
  const first = await until(jobs, (list) => list.some((j) => j.id === b.id && j.state === 'done'));
  expect(first.find((j) => j.id === a.id)!.state).not.toBe('done');
  expect((await ended(a.id)).state).toBe('done');
  expect(await client.get('/queue')).toMatchObject({ paused: false });
});

test('several finished files as one archive', async () => {
  const done = (await jobs()).filter((j) => j.state === 'done' && ['a.mp4', 'b.mp4'].includes(j.file?.name ?? ''));
  const res = await fetch(`${running.address}/api/jobs/archive.zip?ids=${done.map((j) => j.id).join(',')}`);
  const path = join(tempFolder(), 'all.zip');
  writeFileSync(path, Buffer.from(await res.arrayBuffer()));
  const listed = execFileSync('python3', [
    '-c',
    'import sys,zipfile; z=zipfile.ZipFile(sys.argv[1]); print(z.testzip(), sorted(z.namelist()))',
    path,
  ]);
  expect(listed.toString().trim()).toBe("None ['a.mp4', 'b.mp4']");
  expect((await client.ask('GET', '/jobs/archive.zip?ids=none')).status).toBe(404);
});

test('all finished files as one archive; one that was taken away by hand is named, and ends nothing', async () => {
  const done = (await jobs()).filter((j) => j.kind === 'export' && j.state === 'done');
  const all = await fetch(`${running.address}/api/jobs/archive.zip`);
  const bytes = Buffer.from(await all.arrayBuffer()).toString('latin1');
  for (const { file } of done) expect(bytes).toContain(file!.name);
  const path = exported(done[0]);
  renameSync(path, `${path}.away`);
  const { status, body } = await client.ask<Problem>('GET', '/jobs/archive.zip');
  expect([status, body.detail]).toEqual([404, `${done[0].file!.name} is not here any more. Remove it from the list.`]);
  renameSync(`${path}.away`, path);
  expect((await jobs()).length).toBeGreaterThan(0);
});

test('a film of the clips in order, upright too', async () => {
  await client.setSteps(clips[0].id, { clip: [newStep('saturation', 's', { amount: 0 })] });
  const request = { outingId: outing.id, clipIds: [clips[1].id, clips[0].id], dissolve: 0.4 };
  const [film] = await client.post<Job[]>('/films', { ...request, delivery: { codec: 'h264' } });
  const [upright] = await client.post<Job[]>('/films', { ...request, delivery: { codec: 'h264', aspect: '9:16' } });
  const done = await ended(film.id);
  expect(done).toMatchObject({ state: 'done', file: { name: 'Reed bay.mp4', result: { frames: 140, seconds: 5.6 } } });
  expect((await ended(upright.id)).file).toMatchObject({
    name: 'Reed bay upright.mp4',
    result: { width: 202, height: 360 },
  });
  const other = await client.post<Outing>('/outings', { name: 'Other', date: '2031-06-15' });
  const refused = await client.ask('POST', '/films', { ...request, outingId: other.id, delivery: { codec: 'h264' } });
  expect(refused).toMatchObject({ status: 400, body: { detail: expect.stringMatching(/belongs to another outing/) } });
});

test('documents: a report, and a timeline in the order that is wanted', async () => {
  const clipIds = [clips[1].id, clips[0].id];
  // Whatever a clip is renamed to, its recording keeps its own name.
  await client.ask('PATCH', `/clips/${clips[1].id}`, { name: 'First light' });
  const [timeline] = await client.post<Job[]>('/documents', {
    outingId: outing.id,
    clipIds,
    form: 'timeline.otio',
    dissolve: 1,
  });
  const [report] = await client.post<Job[]>('/documents', { outingId: outing.id, form: 'report.html' });
  const list = readOtio(readFileSync(exported(await ended(timeline.id)), 'utf8'));
  expect(list).toMatchObject({ name: 'Reed bay', dissolve: 1, clips: [{ name: 'First light' }, { name: 'one.mp4' }] });
  expect(list.clips.map((c) => c.path)).toEqual(['media/two.mp4', 'media/one.mp4']);
  await client.ask('PATCH', `/clips/${clips[1].id}`, { name: 'two.mp4' });
  expect(list.clips[1].cdl.saturation).toBe(0);
  const done = await ended(report.id);
  expect(done).toMatchObject({ state: 'done', file: { name: 'Reed bay report.html', format: 'Report, as a page' } });
  expect(readFileSync(exported(done), 'utf8')).toContain('Helmet camera');
  const empty = await client.post<Outing>('/outings', { name: 'Empty', date: '2031-06-15' });
  expect((await client.ask('POST', '/documents', { outingId: empty.id, form: 'report.pdf' })).status).toBe(400);
});

test('a clip that is removed while its document waits: said as what it is', async () => {
  await client.ask('PUT', '/queue', { paused: true });
  const [job] = await client.post<Job[]>('/documents', { outingId: outing.id, form: 'report.json' });
  await client.post('/removed', { kind: 'clip', ids: [clips[1].id] });
  await client.ask('PUT', '/queue', { paused: false });
  const failed = await ended(job.id);
  await client.post('/removed/back', { kind: 'clip', ids: [clips[1].id] });
  expect(failed).toMatchObject({ state: 'failed', message: expect.stringMatching(/^This clip was removed/) });
});

test('stills: 16 bits at full size, graded and as recorded', async () => {
  const get = async (query: string): Promise<{ type: string | null; name: string; bytes: Buffer }> => {
    const res = await fetch(`${running.address}/api/clips/${clips[0].id}/still?${query}`);
    const name = res.headers.get('content-disposition') ?? '';
    return { type: res.headers.get('content-type'), name, bytes: Buffer.from(await res.arrayBuffer()) };
  };
  const png = await get('frame=10&form=png');
  expect(png).toMatchObject({ type: 'image/png', name: 'attachment; filename="one, frame 10.png"' });
  // Width, height, bits per channel and colour type of the image header (ISO/IEC 15948, 11.2.2).
  expect([png.bytes.readUInt32BE(16), png.bytes.readUInt32BE(20), png.bytes[24], png.bytes[25]]).toEqual([
    640, 360, 16, 2,
  ]);
  const pixels = (bytes: Buffer): Buffer => {
    const path = join(tempFolder(), 'still');
    writeFileSync(path, bytes);
    return execFileSync('ffmpeg', ['-loglevel', 'error', '-i', path, '-pix_fmt', 'rgb48le', '-f', 'rawvideo', '-'], {
      maxBuffer: 1 << 28,
    });
  };
  const [a, b] = [pixels(png.bytes), pixels((await get('frame=10&form=tiff')).bytes)];
  expect(Buffer.compare(a, b)).toBe(0);
  // Without saturation all three are equal.
  for (let i = 0; i < a.length; i += 6000)
    expect(Math.abs(a.readUInt16LE(i) - a.readUInt16LE(i + 4))).toBeLessThan(300);
  expect((await get('frame=10&form=jpg&quality=90')).bytes.subarray(0, 2)).toEqual(Buffer.from([0xff, 0xd8]));
  const plain = pixels((await get('frame=10&graded=0')).bytes);
  expect(Buffer.compare(a, plain)).not.toBe(0);
  expect((await client.ask('GET', `/clips/${clips[0].id}/still?frame=100`)).status).toBe(400);
});

test('kept frames as pictures in one archive', async () => {
  const steps = [newStep('range', 'r', { exposure: 0.3 })];
  const kept = await client.post<{ id: string }>(`/clips/${clips[0].id}/kept`, {
    name: 'Warm / soft',
    frame: 7,
    steps,
    own: steps,
  });
  const res = await fetch(`${running.address}/api/kept/stills.zip?ids=${kept.id}&form=jpg`);
  expect(res.headers.get('content-type')).toBe('application/zip');
  expect(Buffer.from(await res.arrayBuffer()).toString('latin1')).toContain('1 Warm _ soft.jpg');
});

test('settings are kept under a name, the same name again takes their place', async () => {
  await client.post('/presets', { name: 'Phone', delivery: { codec: 'h264', aspect: '9:16' } });
  const kept = await client.post<Preset>('/presets', { name: 'Phone', delivery: { codec: 'h265', aspect: '9:16' } });
  expect(await client.get<Preset[]>('/presets')).toMatchObject([{ name: 'Phone', delivery: { codec: 'h265' } }]);
  expect((await client.ask('DELETE', `/presets/${kept.id}`)).status).toBe(204);
  expect(await client.get('/presets')).toEqual([]);
  expect((await client.ask('DELETE', `/presets/${kept.id}`)).status).toBe(404);
});
