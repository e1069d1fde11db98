import { request } from 'node:http';
import { copyFileSync, existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { unpackSamples } from '@inkavo/core/program/cpu/packedSamples';
import { downsample } from '@inkavo/core/fields/smallPicture';
import { newStep } from '@inkavo/core/model/grade';
import type { Job } from '@inkavo/core/model/job';
import type { ShelfItem } from '@inkavo/core/model/shelf';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import { probe } from '@inkavo/media/codec';
import { decodeFrame } from '@inkavo/media/frames/rest';
import { make, TAGS_709 } from '@inkavo/media/testClips';
import { startServer, type Running } from './app';
import { Client, makeCard, tempFolder, until } from './testServer';

interface Opened {
  outing: Outing;
  cameras: { id: string; name: string; kind: string }[];
  clips: Clip[];
  intake: Job[];
}

const card = makeCard();
const folder = join(card, 'DCIM', 'TEST_CAMERA');
const data = tempFolder();
let running: Running;
let client: Client;
let outing: Outing;

const opened = async (): Promise<Opened> => ({
  ...(await client.get<Opened>(`/outings/${outing.id}`)),
  clips: await client.clips(outing.id),
});
const idle = (seen: Opened): boolean => seen.intake.every((j) => j.state === 'failed');
const bringIn = async (name: string): Promise<Opened> => {
  await client.post(`/outings/${outing.id}/import`, { clips: [{ paths: [`DCIM/TEST_CAMERA/${name}`] }] });
  return until(opened, idle);
};

beforeAll(async () => {
  running = await startServer({ host: '127.0.0.1', port: 0, data, card, app: undefined, strict: true });
  client = new Client(running.address);
  outing = await client.post<Outing>('/outings', { name: ' First day ', date: '2031-06-14' });
});
afterAll(() => running.close());

test('text goes compressed to those who take it, events do not wait for that', async () => {
  const encoding = async (path: string, accept = 'gzip', more: Record<string, string> = {}): Promise<string | null> => {
    const controller = new AbortController();
    const headers = { 'accept-encoding': accept, ...more };
    const res = await fetch(`${running.address}/api${path}`, { headers, signal: controller.signal });
    expect(res.ok).toBe(true);
    controller.abort();
    return res.headers.get('content-encoding');
  };
  expect(await encoding('/openapi.json')).toBe('gzip');
  expect(await encoding('/openapi.json', 'identity')).toBeNull();
  expect(await encoding('/openapi.json', 'gzip', { range: 'bytes=0-99' })).toBeNull();
  expect(await encoding('/events')).toBeNull();
});

test('an outing is made, listed and renamed; what is wrong with a request is said', async () => {
  expect(outing).toMatchObject({ name: 'First day', place: '', revision: 0 });
  expect(await client.ask('POST', '/outings', { name: ' ', date: '2031-06-14' })).toMatchObject({
    status: 400,
    body: { status: 400, code: 'bad-request', detail: 'name: A name is needed.' },
  });
  expect((await client.ask('POST', '/outings', { name: 'x', date: '14.6.2031' })).status).toBe(400);
  expect((await client.ask('GET', '/outings/none')).body).toMatchObject({
    code: 'not-found',
    detail: 'This outing is not here any more.',
  });
  expect((await client.ask<Outing>('PATCH', `/outings/${outing.id}`, { place: 'By the weir' })).body.place).toBe(
    'By the weir',
  );
  expect((await client.get<Outing[]>('/outings')).map((o) => o.id)).toContain(outing.id);
});

describe('only its own pages may talk to it', () => {
  const raw = (headers: Record<string, string>, method = 'GET') =>
    new Promise<{ status: number; headers: NodeJS.Dict<string | string[]> }>((done, fail) => {
      const { hostname, port } = new URL(running.address);
      request({ hostname, port, method, path: '/api/outings', headers }, (res) => {
        res.resume();
        done({ status: res.statusCode!, headers: res.headers });
      })
        .on('error', fail)
        .end();
    });
  test('a foreign name for this machine, a foreign page', async () => {
    expect((await raw({ host: 'elsewhere.example' })).status).toBe(403);
    expect((await raw({ origin: 'http://elsewhere.example' }, 'POST')).status).toBe(403);
    expect((await raw({})).status).toBe(200);
  });
  test('the usual security headers', async () => {
    const { headers } = await raw({});
    expect(headers['content-security-policy']).toContain("default-src 'self'");
    expect(headers).toMatchObject({ 'x-content-type-options': 'nosniff', 'x-frame-options': 'SAMEORIGIN' });
    expect(headers['x-powered-by']).toBeUndefined();
  });
});

describe('bringing in', () => {
  test('from the card: facts, camera, proxy and strip; the original untouched', async () => {
    const before = readFileSync(join(folder, 'short.mp4'));
    const { clips, cameras } = await bringIn('short.mp4');
    expect(cameras[0]).toMatchObject({ name: 'Test camera' });
    expect(clips[0]).toMatchObject({
      name: 'short.mp4',
      inFrame: 0,
      outFrame: 24,
      proxy: 'ready',
      facts: { width: 320, frames: 25 },
    });
    expect(clips[0].steps.map((s) => s.kind)).toEqual(['convert', 'balance', 'range', 'saturation']);
    expect(readFileSync(join(folder, 'short.mp4')).equals(before)).toBe(true);
    const strip = await fetch(`${client.address}/api/clips/${clips[0].id}/strip.jpg`);
    expect(strip.headers.get('content-type')).toBe('image/jpeg');
    const range = await fetch(`${client.address}/api/clips/${clips[0].id}/proxy.mp4`, {
      headers: { range: 'bytes=0-99' },
    });
    expect(range.status).toBe(206);
  });

  test('the same file again, under another name, is recognised', async () => {
    copyFileSync(join(folder, 'short.mp4'), join(folder, 'again.mp4'));
    const [job] = await client.post<Job[]>(`/outings/${outing.id}/import`, {
      clips: [{ paths: ['DCIM/TEST_CAMERA/again.mp4'] }],
    });
    const { clips } = await until(opened, idle);
    expect(clips).toHaveLength(1);
    expect(await running.parts.jobs.get(job.id)).toMatchObject({
      state: 'done',
      message: 'This file was here already.',
      clipId: clips[0].id,
    });
  });

  test.each([
    ['empty.mp4', '', 'The file is empty.'],
    ['text.mp4', 'no video at all\n'.repeat(40), 'not a video file'],
  ])('%s: refused with a sentence, nothing left behind', async (name, text, words) => {
    writeFileSync(join(folder, name), text);
    const { clips, intake } = await bringIn(name);
    const failed = intake.find((j) => j.title === name)!;
    expect(failed).toMatchObject({ state: 'failed' });
    expect(failed.message).toContain(words);
    expect(clips).toHaveLength(1);
    expect(readdirSync(join(data, 'originals'))).toHaveLength(1);
    expect((await client.ask('DELETE', `/jobs/${failed.id}`)).status).toBe(204);
  });

  test('a path that is not on the card', async () => {
    const answer = await client.ask('POST', `/outings/${outing.id}/import`, {
      clips: [{ paths: ['../../etc/passwd'] }],
    });
    expect(answer).toMatchObject({ status: 400, body: { detail: '"../../etc/passwd" is not on the card.' } });
  });
});

describe('a clip', () => {
  let clip: Clip;
  beforeAll(async () => {
    [clip] = (await opened()).clips;
  });

  test('steps with a value beyond its limit are refused, the place named', async () => {
    const wrong = { ...newStep('range', 'r'), params: { black: 7 } };
    const { status, body } = await client.setSteps(clip.id, { clip: [wrong] });
    expect(status).toBe(400);
    expect(body.detail).toContain('clip.next.0.params.black');
  });

  test('in and out, and the frame that stands for it', async () => {
    const patch = (body: unknown) => client.ask<Clip & { detail?: string }>('PATCH', `/clips/${clip.id}`, body);
    expect((await patch({ inFrame: 3, outFrame: 20, referenceFrame: 9 })).body).toMatchObject({
      inFrame: 3,
      outFrame: 20,
      referenceFrame: 9,
    });
    expect((await patch({ outFrame: 25 })).body.detail).toContain('at most frame 24');
    expect((await patch({ inFrame: 22 })).status).toBe(400);
  });

  test('a frame at rest is 16 bits and 4:4:4; a frame beyond the end is refused', async () => {
    const frame = await fetch(`${client.address}/api/clips/${clip.id}/frame?frame=3&width=160`);
    expect([frame.headers.get('x-frame-width'), frame.headers.get('x-frame-height')]).toEqual(['160', '90']);
    expect((await frame.arrayBuffer()).byteLength).toBe(160 * 90 * 3 * 2);
    // Compressed for a network: the response says so, and differs by at most half a step of twelve bits.
    const small = await fetch(`${client.address}/api/clips/${clip.id}/frame?frame=3&width=160&packed=1`);
    expect(small.headers.get('content-encoding')).toBe('gzip');
    const samples = unpackSamples(new Uint8Array(await small.arrayBuffer()), 160);
    const plain = await fetch(`${client.address}/api/clips/${clip.id}/frame?frame=3&width=160`);
    const most = new Uint16Array(await plain.arrayBuffer()).reduce(
      (m, v, i) => Math.max(m, Math.abs(v - samples[i])),
      0,
    );
    expect([samples.length, most <= 8]).toEqual([160 * 90 * 3, true]);
    expect((await client.ask('GET', `/clips/${clip.id}/frame?frame=25&width=160`)).body).toMatchObject({
      detail: 'The last frame of this clip is 24.',
    });
    const part = (text: string) => `/clips/${clip.id}/frame?frame=3&width=160&part=${text}`;
    const cut = await fetch(`${client.address}/api${part('40,20,64,32')}`);
    expect((await cut.arrayBuffer()).byteLength).toBe(64 * 32 * 3 * 2);
    expect((await client.ask<{ detail: string }>('GET', part('9000,0,64,32'))).body.detail).toContain(
      'not in the frame',
    );
    for (const odd of ['1,0,64,32', '0,0,64', 'x,0,64,32', '0,0,2,2'])
      expect((await client.ask('GET', part(odd))).status).toBe(400);
    // Cells of the file's own pixels, as in an export.
    const cells = await fetch(`${client.address}/api/clips/${clip.id}/cells?frame=3`);
    const { library, clips: store } = running.parts;
    const source = await store.source(clip, library.original(clip.hash));
    expect(new Float32Array(await cells.arrayBuffer())).toEqual(downsample(await decodeFrame(source, 3)).code);
    expect((await client.ask('GET', `/clips/${clip.id}/cells?frame=25`)).status).toBe(400);
    const thumb = await fetch(`${client.address}/api/clips/${clip.id}/thumb.jpg?width=160`);
    expect(thumb.headers.get('content-encoding')).toBeNull();
    expect(thumb.headers.get('content-type')).toBe('image/jpeg');
  });
});

describe('deliveries', () => {
  const jobs = () => client.get<Job[]>('/jobs');
  const ended = (id: string) =>
    until(jobs, (list) => !['waiting', 'running'].includes(list.find((j) => j.id === id)!.state)).then((list) =>
      list.find((j) => j.id === id)!,
    );

  test('an export is queued, made, named, fetched and removed', async () => {
    const [clip] = (await opened()).clips;
    const [a, b] = await Promise.all(
      [0, 1].map(() =>
        client.post<Job[]>('/deliveries', { clipIds: [clip.id], delivery: { codec: 'ffv1' } }).then(([j]) => j),
      ),
    );
    expect([a.file!.name, b.file!.name].sort()).toEqual(['short (2).mkv', 'short.mkv']);
    const done = await ended(a.id);
    expect(done).toMatchObject({ state: 'done', progress: 1, file: { format: 'FFV1, lossless' } });
    const res = await fetch(`${client.address}/api/jobs/${a.id}/file`);
    expect(res.headers.get('content-disposition')).toContain('.mkv');
    const file = join(tempFolder(), 'got.mkv');
    writeFileSync(file, Buffer.from(await res.arrayBuffer()));
    expect((await probe(file)).facts).toMatchObject({ codec: 'ffv1', frames: 18 });
    expect((await ended(b.id)).state).toBe('done');
    // A finished file can be restored, until it is deleted for good.
    const exported = join(data, 'exports', done.file!.name);
    expect((await client.ask('DELETE', `/jobs/${a.id}`)).status).toBe(409);
    await client.post('/removed', { kind: 'file', ids: [a.id] });
    expect((await jobs()).map((j) => j.id)).not.toContain(a.id);
    await client.post('/removed/back', { kind: 'file', ids: [a.id] });
    expect((await jobs()).map((j) => j.id)).toContain(a.id);
    await client.post('/removed', { kind: 'file', ids: [a.id] });
    expect(existsSync(exported)).toBe(true);
    await client.ask('DELETE', '/removed');
    expect(existsSync(exported)).toBe(false);
  });

  test('stopped: no file is offered, none is left, and it can run again', async () => {
    const { clips } = await bringIn('long.mp4');
    const clip = clips.find((c) => c.name === 'long.mp4')!;
    const [job] = await client.post<Job[]>('/deliveries', { clipIds: [clip.id], delivery: { codec: 'h264' } });
    await until(jobs, (list) => list.find((j) => j.id === job.id)!.state === 'running');
    await client.post(`/jobs/${job.id}/stop`);
    expect(await ended(job.id)).toMatchObject({ state: 'stopped', message: 'Stopped. No file was left.' });
    await until(
      async () => readdirSync(join(data, 'exports')),
      (names) => !names.some((n) => n.startsWith('long')),
    );
    expect((await client.ask('GET', `/jobs/${job.id}/file`)).status).toBe(404);
    await client.post(`/jobs/${job.id}/again`);
    expect((await ended(job.id)).state).toBe('done');
  });

  test('a damaged original is delivered as far as it goes, and that is said', async () => {
    const whole = make(join(folder, 'whole.mp4'), 'testsrc2=size=320x180:rate=25:duration=4', [
      '-c:v',
      'libx264',
      '-preset',
      'ultrafast',
      '-g',
      '10',
      ...TAGS_709,
    ]);
    const bytes = readFileSync(whole);
    // Its middle is missing, its end is there: the frames are counted, but not all can be decoded.
    bytes.fill(0, Math.floor(bytes.length * 0.4), Math.floor(bytes.length * 0.6));
    writeFileSync(join(folder, 'damaged.mp4'), bytes);
    const { clips } = await bringIn('damaged.mp4');
    const clip = clips.find((c) => c.name === 'damaged.mp4')!;
    const [job] = await client.post<Job[]>('/deliveries', { clipIds: [clip.id], delivery: { codec: 'ffv1' } });
    const done = await ended(job.id);
    expect(done.state).toBe('done');
    const got = (await probe(join(data, 'exports', done.file!.name))).facts.frames;
    expect(got).toBeLessThan(clip.facts.frames);
    expect(done.message).toBe(`Only ${got} of ${clip.facts.frames} frames could be decoded: the original is damaged.`);
  });

  test('a delivery that makes no sense is refused', async () => {
    expect((await client.ask('POST', '/deliveries', { clipIds: [], delivery: { codec: 'h264' } })).status).toBe(400);
    expect((await client.ask('POST', '/deliveries', { clipIds: ['x'], delivery: { codec: 'tape' } })).status).toBe(400);
  });
});

test('open pages are told what happens, as it happens', async () => {
  const controller = new AbortController();
  const res = await fetch(`${client.address}/api/events`, { signal: controller.signal });
  expect(res.headers.get('content-type')).toContain('text/event-stream');
  const [clip] = (await opened()).clips;
  const reader = res.body!.getReader();
  let text = '';
  const read = (async () => {
    while (!text.includes('"type":"clip"')) {
      const { value, done } = await reader.read();
      if (done) break;
      text += new TextDecoder().decode(value);
    }
  })();
  await client.setSteps(clip.id, { clip: [newStep('range', 'told', { black: -0.03 })] });
  await read;
  controller.abort();
  expect(text).toContain(`"id":"${clip.id}"`);
});

test('the demo outing is made once, whatever it is called by now; what is not there is said', async () => {
  const a = await client.ask<{ outing: Outing }>('POST', '/demo', { load: false });
  await client.ask('PATCH', `/outings/${a.body.outing.id}`, { name: 'Our marsh' });
  const b = await client.ask<{ outing: Outing }>('POST', '/demo', { load: false });
  await client.ask('PATCH', `/outings/${a.body.outing.id}`, { name: a.body.outing.name });
  expect([a.status, b.status, b.body.outing.id]).toEqual([201, 200, a.body.outing.id]);
  expect(await client.ask('GET', '/nothing')).toMatchObject({
    status: 404,
    body: { detail: 'There is nothing at this address.' },
  });
});

describe('tables', () => {
  const add = (text: string, name: string) =>
    fetch(`${client.address}/api/shelf/files?name=${name}`, {
      method: 'POST',
      headers: { 'Content-Type': 'text/plain' },
      body: text,
    });
  const cube = 'LUT_3D_SIZE 2\n0 0 0\n1 0 0\n0 1 0\n1 1 0\n0 0 1\n1 0 1\n0 1 1\n1 1 1\n';

  test('a file is brought in once, listed, and comes back as it was', async () => {
    const first = (await (await add(cube, 'plain.cube')).json()) as ShelfItem;
    expect(first).toMatchObject({ title: 'plain', note: '2³ cube' });
    expect(await (await add(cube, 'again.cube')).json()).toEqual(first);
    expect(await client.get('/shelf')).toContainEqual(first);
    expect(await (await fetch(`${client.address}/api/luts/${first.id}`)).text()).toBe(cube);
    expect(readdirSync(join(data, 'luts'))).toContain(first.id);
  });

  test('a damaged one is refused with its line, and nothing stays', async () => {
    const before = readdirSync(join(data, 'luts'));
    const res = await add(cube.replace('0 1 1', '0 x 1'), 'damaged.cube');
    expect(res.status).toBe(422);
    expect(await res.json()).toMatchObject({ detail: 'Line 8: "x" is not a number. Nothing was taken in.' });
    expect(readdirSync(join(data, 'luts'))).toEqual(before);
  });

  test('steps with a table that is here are kept, and seen in the thumbnail; with another one they are refused', async () => {
    const [clip] = (await opened()).clips;
    const { id } = (await (await add(cube.replace('0 0 0\n', '1 1 1\n'), 'fog.cube')).json()) as ShelfItem;
    const keep = (lut: string) => client.setSteps(clip.id, { clip: [newStep('lut', 'l', { lut })] });
    expect((await keep('f'.repeat(64))).body.detail).toContain('not in this library');
    const thumb = async (graded: number) =>
      Buffer.from(
        await (await fetch(`${client.address}/api/clips/${clip.id}/thumb.jpg?graded=${graded}`)).arrayBuffer(),
      );
    expect((await keep(id)).status).toBe(200);
    expect((await thumb(1)).equals(await thumb(0))).toBe(false);
  });
});
