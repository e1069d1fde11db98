import { existsSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { PROBE_VERSION, type MediaFacts } from '@inkavo/core/model/facts';
import type { Clip } from '@inkavo/core/model/outing';
import { probe } from '@inkavo/media/codec';
import { make, QUICK_H264 } from '@inkavo/media/testClips';
import { proxyName } from './config';
import { bring, clipsOf, look, Places, type Place } from './testPlace';
import { until } from './testServer';

const places = new Places();
afterAll(() => places.close());

type Stored = Partial<MediaFacts>;
/** A file's stored properties, changed while no server runs. */
function storedAs(data: string, hash: string, change: (facts: Stored) => void): void {
  const db = new Database(join(data, 'inkavo.db'));
  const { facts: text } = db.prepare('select facts from media where hash = ?').get(hash) as { facts: string };
  const facts = JSON.parse(text) as Stored;
  change(facts);
  db.prepare('update media set facts = ? where hash = ?').run(JSON.stringify(facts), hash);
  db.close();
}
/** Removes properties that the first version of the probe did not have. */
function forget(facts: Stored): void {
  delete facts.probed;
  delete facts.fields;
  delete facts.pixelAspect;
  delete facts.seekAhead;
}
const again = async (at: Place): Promise<Place> => ({ ...at, server: await places.begin(at.data) });
const proxyOf = ({ data }: Place, { hash }: Clip): string => join(data, 'proxies', proxyName(hash));
const seen = (at: Place, holds: (clip: Clip) => boolean): Promise<Clip> =>
  until(
    async () => (await at.server.client.clips(at.outing.id))[0],
    (clip) => holds(clip),
  );

test('a file that an earlier version knew less of is looked at again: facts, proxy, and where its clips end', async () => {
  const path = join(places.folder, 'wide.mp4');
  make(path, 'testsrc2=size=320x180:rate=25:duration=1', [...QUICK_H264, '-vf', 'setsar=4/3']);
  const first = await places.place();
  await bring(first, 'wide.mp4');
  await clipsOf(first);
  const [clip] = await first.server.client.clips(first.outing.id);
  expect(clip.facts).toMatchObject({ width: 428, frames: 25, probed: PROBE_VERSION });
  await first.server.stop();
  // As before: pixels assumed square, and frames counted that do not belong to the clip.
  storedAs(first.data, clip.hash, (facts) => {
    forget(facts);
    Object.assign(facts, { width: 320, frames: 31 });
  });
  const db = new Database(join(first.data, 'inkavo.db'));
  db.prepare('update clips set out_frame = 30').run();
  db.close();

  const second = await again(first);
  const mended = await seen(second, (c) => c.facts.probed === PROBE_VERSION && c.proxy === 'ready');
  expect(mended.facts).toEqual(clip.facts);
  expect(mended).toMatchObject({ inFrame: 0, outFrame: 24, steps: clip.steps });
  expect((await probe(proxyOf(second, clip))).facts).toMatchObject({ width: 428, frames: 25 });
  await second.server.stop();

  // Files probed by this version are left alone, and so are missing files.
  storedAs(first.data, clip.hash, (facts) => Object.assign(facts, { width: 320 }));
  const third = await again(first);
  expect((await seen(third, () => true)).facts.width).toBe(320);
  await third.server.stop();
});

test('where only more is known of a file, its proxy stays; a file that is gone stays as it is', async () => {
  const first = await places.place();
  await bring(first, 'short.mp4');
  await clipsOf(first);
  const [clip] = await first.server.client.clips(first.outing.id);
  await first.server.stop();
  storedAs(first.data, clip.hash, forget);
  const second = await again(first);
  await seen(second, (c) => c.facts.probed === PROBE_VERSION);
  expect((await look(second)).intake).toEqual([]);
  expect(existsSync(proxyOf(second, clip))).toBe(true);
  await second.server.stop();

  rmSync(join(first.data, 'originals', clip.hash));
  storedAs(first.data, clip.hash, forget);
  const third = await again(first);
  expect((await seen(third, () => true)).facts).toMatchObject({ probed: 1, frames: clip.facts.frames, seekAhead: 0 });
  expect(await third.server.stop()).toBe(0);
});

test('proxies of an earlier version, or that are gone, are made anew; a clip that was removed meanwhile has its own again', async () => {
  const first = await places.place();
  await bring(first, 'short.mp4');
  await clipsOf(first);
  const [clip] = await first.server.client.clips(first.outing.id);
  await first.server.client.post('/removed', { kind: 'clip', ids: [clip.id] });
  await first.server.stop();
  // As an earlier version named it.
  const old = join(first.data, 'proxies', `${clip.hash}.mp4`);
  renameSync(proxyOf(first, clip), old);

  const second = await again(first);
  await until(() => Promise.resolve(existsSync(proxyOf(second, clip))), Boolean);
  expect(existsSync(old)).toBe(false);
  await second.server.client.post('/removed/back', { kind: 'clip', ids: [clip.id] });
  const back = await seen(second, (c) => c?.proxy === 'ready');
  expect(back.steps).toEqual(clip.steps);
  expect((await probe(proxyOf(second, clip))).facts).toMatchObject({ frames: clip.facts.frames, range: 'full' });
  expect(await second.server.stop()).toBe(0);
});
