import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, gzipSync } from 'node:zlib';
import { downsample } from '@inkavo/core/fields/smallPicture';
import type { Outing } from '@inkavo/core/model/outing';
import { noiseTask, reducedOf } from '@inkavo/media/frames/noise';
import { restOf, type FramePart } from '@inkavo/media/frames/rest';
import { startServer, type Running } from './app';
import { Client, makeCard, tempFolder, until } from './testServer';

const card = makeCard();
const app = tempFolder();
const SCRIPT = 'globalThis.long = "enough";\n'.repeat(200);
let running: Running;
let client: Client;

beforeAll(async () => {
  writeFileSync(join(app, 'index.html'), '<!doctype html>');
  writeFileSync(join(app, 'entry-0123456789abcdef.js'), SCRIPT);
  writeFileSync(join(app, 'entry-0123456789abcdef.js.br'), brotliCompressSync(SCRIPT));
  writeFileSync(join(app, 'entry-0123456789abcdef.js.gz'), gzipSync(SCRIPT, { level: 1 }));
  running = await startServer({ host: '127.0.0.1', port: 0, data: tempFolder(), card, app, strict: true });
  client = new Client(running.address);
});
afterAll(() => running.close());

test('files of the application that were compressed when it was built go out as they are, to those who take them', async () => {
  for (const [accept, name] of [
    ['br, gzip', 'br'],
    ['gzip', 'gzip'],
    ['identity', null],
  ] as const) {
    const headers = { 'accept-encoding': accept };
    const res = await fetch(`${running.address}/entry-0123456789abcdef.js`, { headers });
    expect([res.status, res.headers.get('content-encoding')]).toEqual([200, name]);
    expect(res.headers.get('content-type')).toMatch(/javascript/);
    expect(res.headers.get('cache-control')).toMatch(/immutable/);
    expect(await res.text()).toBe(SCRIPT);
  }
  const page = await fetch(`${running.address}/outing/any`);
  expect(page.headers.get('cache-control')).toBe('no-cache');
  expect(await page.text()).toBe('<!doctype html>');
});

test('a frame, a part of it and its cells without their noise are those of the whole frame without it', async () => {
  const outing = await client.post<Outing>('/outings', { name: 'Noisy', date: '2031-06-14' });
  await client.post(`/outings/${outing.id}/import`, { clips: [{ paths: ['DCIM/TEST_CAMERA/short.mp4'] }] });
  const [clip] = await until(
    () => client.clips(outing.id),
    (clips) => clips.length === 1,
  );
  const { library, clips } = running.parts;
  const source = await clips.source(clip, library.original(clip.hash));
  const reduced = reducedOf(await noiseTask(source, 3, { luma: 1.5, chroma: 0.5 }));
  const asked = async (what: string): Promise<Buffer> => {
    const res = await fetch(`${client.address}/api/clips/${clip.id}/${what}&noise=1.5,0.5`);
    expect(res.status).toBe(200);
    return Buffer.from(await res.arrayBuffer());
  };
  const rest = async (width: number, part?: FramePart): Promise<Buffer> =>
    Buffer.from((await restOf(reduced, clip.facts, width, undefined, part)).y.buffer);
  const part = { x: 64, y: 32, width: 128, height: 64 };
  expect((await asked('frame?frame=3&width=320')).equals(await rest(320))).toBe(true);
  expect((await asked('frame?frame=3&width=128&part=64,32,128,64')).equals(await rest(128, part))).toBe(true);
  expect((await asked('cells?frame=3')).equals(Buffer.from(downsample(reduced).code.buffer))).toBe(true);
  const recorded = await fetch(`${client.address}/api/clips/${clip.id}/frame?frame=3&width=320`);
  expect(Buffer.from(await recorded.arrayBuffer()).equals(await rest(320))).toBe(false);
  for (const odd of ['1', '1,', '-1,0', '1,99', 'x,y', '1e3,0'])
    expect((await client.ask('GET', `/clips/${clip.id}/frame?frame=3&width=320&noise=${odd}`)).status).toBe(400);
});
