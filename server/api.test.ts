import { readFileSync, renameSync, rmSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { problemSchema } from '@inkavo/core/model/problem';
import { newStep } from '@inkavo/core/model/grade';
import type { Job } from '@inkavo/core/model/job';
import type { Camera, Clip, Outing } from '@inkavo/core/model/outing';
import { fileStem } from './stores/jobs';
import { startServer, type Running } from './app';
import { proxyName } from './config';
import { Client, makeCard, tempFolder, until } from './testServer';

const card = makeCard();
const data = tempFolder();
let running: Running;
let client: Client;
let outing: Outing;
let clip: Clip;

beforeAll(async () => {
  running = await startServer({ host: '127.0.0.1', port: 0, data, card, app: undefined, strict: true });
  client = new Client(running.address);
  outing = await client.post<Outing>('/outings', { name: 'Day', date: '2031-06-14' });
  await client.post(`/outings/${outing.id}/import`, { clips: [{ paths: ['DCIM/TEST_CAMERA/short.mp4'] }] });
  const look = async () => await client.clips(outing.id);
  [clip] = await until(look, (c) => c.length === 1 && c[0].proxy === 'ready');
});
afterAll(() => running.close());

interface Description {
  paths: Record<string, Record<string, { requestBody?: object; parameters: { in: string; name: string }[] }>>;
}

/** Values that a client may send by mistake or on purpose. */
const deep = (n: number): unknown => JSON.parse('['.repeat(n) + ']'.repeat(n));
const HOSTILE: unknown[] = [
  null,
  '',
  'none',
  '../../etc/passwd',
  '%00',
  '\u0000',
  'constructor',
  -1,
  1e308,
  0.5,
  [],
  {},
  [[]],
  { __proto__: null, constructor: 1 },
  deep(20),
  deep(3000),
  '𝕏'.repeat(5000),
  { id: 'x'.repeat(64), steps: deep(40), clip: { base: [{}], next: [{ kind: 'constructor' }] } },
  {
    name: '名'.repeat(100),
    date: '2031-02-30',
    paths: ['..'],
    clips: [{ paths: ['..'] }],
    source: 'none',
    path: '/nowhere',
    clipIds: ['x'],
    delivery: { codec: 'toString' },
  },
  { steps: [{ id: 'a', kind: '__proto__', params: {} }], frame: 1e9, width: 1, own: [], log: { samples: [] } },
  { name: 'a', startedAt: null, samples: [{ seconds: 1, metres: 1e9 }] },
  { inFrame: 1e15, outFrame: -4, cameraId: 'none', position: null },
];

test('every described route answers what is wrong as a problem, never with a 500', async () => {
  const description = await client.get<Description>('/openapi.json');
  const operations = Object.entries(description.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({ path, method, operation })),
  );
  expect(operations.length).toBeGreaterThan(25);
  const problems: string[] = [];
  let asked = 0;
  for (const { path, method, operation } of operations) {
    for (const value of HOSTILE) {
      const id = typeof value === 'string' && value.length < 100 ? encodeURIComponent(value) : clip.id;
      const query = operation.parameters
        .filter((p) => p.in === 'query')
        .map((p) => `${p.name}=${encodeURIComponent([...String(JSON.stringify(value))].slice(0, 150).join(''))}`)
        .join('&');
      const address = `${running.address}${path.replace('{id}', id || 'x')}${query ? `?${query}` : ''}`;
      const hasBody = operation.requestBody !== undefined || path === '/api/shelf/files';
      const init: RequestInit = {
        method: method.toUpperCase(),
        ...(hasBody && method !== 'get'
          ? { body: JSON.stringify(value), headers: { 'Content-Type': 'application/json' } }
          : {}),
      };
      const res = await fetch(address, init);
      asked += 1;
      const text = await res.text();
      if (res.status >= 500) problems.push(`${method} ${address.slice(0, 120)}: ${res.status}`);
      if (res.status < 400) continue;
      if (!res.headers.get('content-type')?.startsWith('application/problem+json'))
        problems.push(`${method} ${address.slice(0, 120)}: ${res.headers.get('content-type')}`);
      else expect(problemSchema.parse(JSON.parse(text)).status).toBe(res.status);
    }
  }
  expect(problems).toEqual([]);
  expect(asked).toBe(operations.length * HOSTILE.length);
  // It still exists, and so does its content.
  expect((await client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip.id).toBe(clip.id);
});

test.each([
  ['a body that is no JSON', 'POST', '/outings', '{"name":', 400],
  ['a body that is too long', 'POST', '/outings', JSON.stringify({ name: 'x'.repeat(17e6) }), 413],
  ['a camera that is not there', 'PATCH', '/cameras/none', '{"setting":"air"}', 404],
  [
    'exports of a clip that is not there',
    'POST',
    '/deliveries',
    '{"clipIds":["none"],"delivery":{"codec":"h264"}}',
    404,
  ],
  ['an import into an outing that is not there', 'POST', '/outings/none/import', '{"clips":[{"paths":["x"]}]}', 404],
])('%s', async (_what, method, path, body, status) => {
  const res = await fetch(`${running.address}/api${path}`, {
    method,
    body,
    headers: { 'Content-Type': 'application/json' },
  });
  expect(res.status).toBe(status);
  expect(problemSchema.parse(await res.json()).status).toBe(status);
});

test('an upload to an outing that is not there is refused before a byte is sent', async () => {
  const encode = (text: string): string => Buffer.from(text).toString('base64');
  const res = await fetch(`${running.address}/api/uploads`, {
    method: 'POST',
    headers: {
      'Tus-Resumable': '1.0.0',
      'Upload-Length': '1000',
      'Upload-Metadata': `filename ${encode('a.mp4')},outing ${encode('none')}`,
    },
  });
  expect(res.status).toBe(404);
  expect(await res.text()).toContain('outing');
});

test('a camera of another outing is refused for a clip', async () => {
  const other = await client.post<Outing>('/outings', { name: 'Other', date: '2031-06-15' });
  await client.post(`/outings/${other.id}/import`, { clips: [{ paths: ['DCIM/TEST_CAMERA/short.mp4'] }] });
  const { cameras } = await until(
    () => client.get<{ cameras: Camera[] }>(`/outings/${other.id}`),
    (o) => o.cameras.length === 1,
  );
  const { status, body } = await client.ask<{ detail: string }>('PATCH', `/clips/${clip.id}`, {
    cameraId: cameras[0].id,
  });
  expect([status, body.detail]).toEqual([400, 'cameraId: this outing has no such camera.']);
});

test('a table whose file is gone is said to be gone', async () => {
  const cube = 'LUT_3D_SIZE 2\n0 0 0\n1 0 0\n0 1 0\n1 1 0\n0 0 1\n1 0 1\n0 1 1\n1 1 0.5\n';
  const add = await fetch(`${running.address}/api/shelf/files?name=a.cube`, { method: 'POST', body: cube });
  const { id } = (await add.json()) as { id: string };
  rmSync(join(data, 'luts', id));
  expect(await client.ask('GET', `/luts/${id}`)).toMatchObject({ status: 404, body: { code: 'not-found' } });
  await client.setSteps(clip.id, { clip: [newStep('lut', 'l', { lut: id })] });
  expect((await fetch(`${running.address}/api/clips/${clip.id}/thumb.jpg`)).status).toBe(404);
  await client.setSteps(clip.id, { clip: [] });
});

test('a proxy whose file is gone is said to be gone, without telling where it lay', async () => {
  const proxy = join(data, 'proxies', proxyName(clip.hash));
  renameSync(proxy, `${proxy}.away`);
  const { status, body } = await client.ask<{ detail: string }>('GET', `/clips/${clip.id}/proxy.mp4`);
  renameSync(`${proxy}.away`, proxy);
  expect([status, body.detail]).toEqual([404, 'This file is not here any more.']);
});

test('a strip of frames that is not there is made', async () => {
  const path = join(data, 'proxies', `${clip.hash}.jpg`);
  const before = readFileSync(path);
  rmSync(path);
  const res = await fetch(`${running.address}/api/clips/${clip.id}/strip.jpg`);
  expect([res.status, res.headers.get('content-type')]).toEqual([200, 'image/jpeg']);
  expect(Buffer.from(await res.arrayBuffer())).toEqual(before);
});

test('a change made from an older version is refused where the client says what it read (If-Match)', async () => {
  const read = await fetch(`${running.address}/api/outings/${outing.id}`);
  const etag = read.headers.get('etag')!;
  const patch = (place: string, match: string) =>
    fetch(`${running.address}/api/outings/${outing.id}`, {
      method: 'PATCH',
      headers: { 'Content-Type': 'application/json', 'If-Match': match },
      body: JSON.stringify({ place }),
    });
  expect((await patch('By the weir', etag)).status).toBe(200);
  const late = await patch('Elsewhere', etag);
  expect([late.status, ((await late.json()) as { code: string }).code]).toEqual([412, 'out-of-date']);
  expect((await patch('Elsewhere', '*')).status).toBe(200);
});

test('what is read is never taken from a cache: the tag is that of the outing alone, and its clips change beside it', async () => {
  const address = `${running.address}/api/outings/${outing.id}`;
  const etag = (await fetch(address)).headers.get('etag')!;
  await client.ask('PATCH', `/clips/${clip.id}`, { inFrame: 2 });
  const again = await fetch(address, { headers: { 'If-None-Match': etag } });
  expect([again.status, again.headers.get('cache-control')]).toEqual([200, 'no-store']);
  expect(((await again.json()) as { clips: Clip[] }).clips[0].inFrame).toBe(2);
});

test('names of files fit any file system, whatever letters they have', () => {
  expect(Buffer.byteLength(fileStem(`${'深'.repeat(100)}.mp4`))).toBeLessThanOrEqual(200);
  expect(fileStem('深海.mp4')).toBe('深海');
  expect(fileStem('../../a:b?.mov')).toBe('_.._a_b_');
  expect(fileStem('....')).toBe('clip');
  expect(fileStem('e\u0301te.mp4')).toBe('éte');
});

test('an export of a clip with a long name in other letters is made', async () => {
  await client.ask('PATCH', `/clips/${clip.id}`, { name: `${'深'.repeat(100)}.mp4` });
  const [job] = await client.post<Job[]>('/deliveries', { clipIds: [clip.id], delivery: { codec: 'h264' } });
  const done = await until(
    async () => (await client.get<Job[]>('/jobs')).find((j) => j.id === job.id)!,
    (j) => j.state === 'done' || j.state === 'failed',
  );
  expect(done.state).toBe('done');
});

test('a frame is decoded once for all who wait for it; one that nobody waits for ends', async () => {
  const ask = (frame: number, signal?: AbortSignal) =>
    fetch(`${running.address}/api/clips/${clip.id}/frame?frame=${frame}&width=320`, { signal }).then((r) =>
      r.arrayBuffer(),
    );
  const [a, b, c] = await Promise.all([ask(4), ask(4), ask(4)]);
  expect(Buffer.from(a).equals(Buffer.from(b)) && Buffer.from(b).equals(Buffer.from(c))).toBe(true);
  const controllers = Array.from({ length: 12 }, () => new AbortController());
  const gone = controllers.map(({ signal }, i) => ask(5 + i, signal).catch(() => undefined));
  controllers.forEach((c2) => c2.abort());
  await Promise.all(gone);
  const started = performance.now();
  await ask(20);
  // With twelve decodes ahead in the queue it would take as many times as long.
  expect(performance.now() - started).toBeLessThan(3000);
});

test('a large table is read beside everything else: the server goes on answering', async () => {
  const size = 90;
  const row = '0.123456 0.234567 0.345678\n';
  const text = `LUT_3D_SIZE ${size}\n${row.repeat(size ** 3)}`;
  const adding = fetch(`${running.address}/api/shelf/files?name=large.cube`, { method: 'POST', body: text });
  const waits: number[] = [];
  let done = false;
  void adding.then(() => (done = true));
  while (!done) {
    const started = performance.now();
    await client.get('/outings');
    waits.push(performance.now() - started);
    await new Promise((r) => setTimeout(r, 20));
  }
  expect((await adding).status).toBe(201);
  expect(Math.max(...waits)).toBeLessThan(1500);
});

test('a dead link on the card is passed over', async () => {
  symlinkSync('/nowhere.uddf', join(card, 'DCIM', 'log.uddf'));
  expect((await client.ask('GET', '/card/logs')).status).toBe(200);
});
