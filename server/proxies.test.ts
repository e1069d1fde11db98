import { existsSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Clip } from '@inkavo/core/model/outing';
import type { Job } from '@inkavo/core/model/job';
import type { ProxyParts } from '@inkavo/core/model/proxyParts';
import { make, QUICK_H264, sourceOf } from '@inkavo/media/testClips';
import { proxyName } from './config';
import { bring, look, Places, type Place } from './testPlace';
import { until } from './testServer';

const places = new Places();
afterAll(() => places.close());

/** Long enough that its proxy takes several parts of 480 frames and many seconds. */
const LONG = { frames: 5400, name: 'long.mp4' };
make(join(places.folder, LONG.name), `testsrc2=size=480x270:rate=60:duration=${LONG.frames / 60}`, [
  ...[...QUICK_H264, '-g', '60', '-crf', '35'],
]);
make(join(places.folder, 'short.mp4'), 'testsrc2=size=320x180:rate=25:duration=1', QUICK_H264);

const proxyJob = async (at: Place, name: string): Promise<Job | undefined> =>
  (await look(at)).intake.find((job) => job.kind === 'proxy' && job.title === name);
const clipNamed = async (at: Place, name: string): Promise<Clip> =>
  (await look(at)).clips.find((clip) => clip.name === name)!;
const partsIn = (at: Place, { hash }: Clip): string => join(at.data, 'proxies', `${proxyName(hash)}.parts`);
const whole = (folder: string): string[] => readdirSync(folder).filter((name) => name.endsWith('.mp4'));

test('a long proxy says how far it is, lets others go first, and goes on from its parts after a restart', async () => {
  const at = await places.withoutProxies();
  await bring(at, LONG.name);
  const told = await until(
    () => proxyJob(at, LONG.name),
    (job) => (job?.progress ?? 0) > 0.1,
  );
  expect(told!.state).toBe('running');
  const long = await clipNamed(at, LONG.name);
  expect(long.proxy).toBe('waiting');
  // Its frames can already be compared side by side.
  for (const [part, status] of [
    ['', 200],
    ['?first=600&last=900', 200],
    ['?first=900&last=600', 400],
    [`?last=${LONG.frames}`, 400],
  ]) {
    const strip = await fetch(`${at.server.client.address}/api/clips/${long.id}/strip.jpg${part}`);
    expect(strip.status).toBe(status);
    if (status === 200) expect(strip.headers.get('content-type')).toBe('image/jpeg');
  }

  // The user opens another clip: its proxy is the next one.
  await bring(at, 'short.mp4');
  await until(
    () => proxyJob(at, 'short.mp4'),
    (job) => job !== undefined,
  );
  const short = await clipNamed(at, 'short.mp4');
  const { status } = await at.server.client.ask('POST', `/clips/${short.id}/proxy-wanted`, { frame: 0 });
  expect(status).toBe(204);
  await until(
    () => clipNamed(at, 'short.mp4'),
    (clip) => clip.proxy === 'ready',
  );
  expect((await clipNamed(at, LONG.name)).proxy).toBe('waiting');
  expect(existsSync(join(at.data, 'proxies', proxyName(long.hash)))).toBe(false);

  const folder = partsIn(at, long);
  const made = whole(folder);
  expect(made.length).toBeGreaterThanOrEqual(1);
  const times = made.map((name) => statSync(join(folder, name)).mtimeMs);
  await at.server.kill();
  const second = { ...at, server: await places.begin(at.data) };
  const again = await until(
    () => proxyJob(second, LONG.name),
    (job) => (job?.progress ?? 0) > 0,
  );
  expect(again!.progress).toBeGreaterThanOrEqual((0.97 * made.length * 480) / LONG.frames - 1e-6);
  expect(made.map((name) => statSync(join(folder, name)).mtimeMs)).toEqual(times);

  // The user looks at a position near the end: parts from there on are made first, and can be played while the rest is
  // made.
  const { client } = second.server;
  const asked = await client.ask('POST', `/clips/${long.id}/proxy-wanted`, { frame: 4900 });
  expect(asked.status).toBe(204);
  const { made: parts } = await until(
    () => client.get<ProxyParts>(`/clips/${long.id}/proxy-parts`),
    (answer) => answer.made.some(({ first }) => first === 4800),
  );
  expect(parts.length).toBeLessThan(LONG.frames / 480 - 1);
  const part = await fetch(`${client.address}/api/clips/${long.id}/proxy-part.mp4?first=4800`);
  expect([part.status, part.headers.get('content-type')]).toEqual([200, 'video/mp4']);
  writeFileSync(join(places.folder, 'part.mp4'), Buffer.from(await part.arrayBuffer()));
  expect((await sourceOf(join(places.folder, 'part.mp4'))).facts.frames).toBe(480);

  // The user waits to play from elsewhere: the current part is abandoned, and the first frames from there are made as a
  // short part.
  const before = await client.get<ProxyParts>(`/clips/${long.id}/proxy-parts`);
  const waits = await client.ask('POST', `/clips/${long.id}/proxy-wanted`, { frame: 3010, waits: true });
  expect(waits.status).toBe(204);
  const then = await until(
    () => client.get<ProxyParts>(`/clips/${long.id}/proxy-parts`),
    (answer) => answer.made.some(({ first }) => first === 3000),
  );
  expect(then.made.find(({ first }) => first === 3000)!.count).toBe(120);
  expect(then.made.length).toBeLessThanOrEqual(before.made.length + 2);

  const none = await client.ask<{ detail: string }>('GET', `/clips/${long.id}/proxy-part.mp4?first=4801`);
  expect([none.status, none.body.detail]).toEqual([404, expect.stringContaining('not made yet')]);
  expect((await client.ask('POST', `/clips/${long.id}/proxy-wanted`, { frame: LONG.frames })).status).toBe(400);
  await until(
    () => clipNamed(second, LONG.name),
    (clip) => clip.proxy === 'ready',
  );
  const { facts } = await sourceOf(join(at.data, 'proxies', proxyName(long.hash)));
  expect(facts).toMatchObject({ frames: LONG.frames, frameRate: { num: 60, den: 1 } });
  expect(existsSync(folder)).toBe(false);
});
