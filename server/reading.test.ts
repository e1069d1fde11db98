import { join } from 'node:path';
import { PROFILES } from '@inkavo/core/model/profile';
import type { FileReading } from '@inkavo/core/reading/fileReading';
import type { ClipDive, DiveLog } from '@inkavo/core/model/diveLog';
import { newStep } from '@inkavo/core/model/grade';
import type { Camera, Clip, Outing } from '@inkavo/core/model/outing';
import { resolveParams } from '@inkavo/core/regions/keyframes';
import type { FirstPass } from '@inkavo/core/reading/firstPass';
import type { HoldReport } from '@inkavo/core/reading/holdCheck';
import type { Match } from '@inkavo/core/match/matchTo';
import { clipFrames } from '@inkavo/media/reading/clipFrames';
import { make, sourceOf, TAGS_709 } from '@inkavo/media/testClips';
import { writeFileSync } from 'node:fs';
import { startServer, type Running } from './app';
import { otherClipsOf } from './otherClips';
import { Client, makeCard, tempFolder, until } from './testServer';
import { TILE_WIDTH } from './thumbs';

const card = makeCard();
let running: Running;
let client: Client;
let clip: Clip;

beforeAll(async () => {
  const folder = join(card, 'DCIM', 'TEST_CAMERA');
  writeFileSync(join(folder, 'dive.uddf'), '<uddf/>');
  // Two brightnesses, one after the other.
  make(join(folder, 'dull.mp4'), 'testsrc2=size=640x360:rate=30:duration=8', [
    '-vf',
    "format=yuv420p,lutyuv=y=70+val*0.35:u=128+(val-128)*0.3:v=128+(val-128)*0.3,eq=brightness='if(gt(t,4),0.16,0)':eval=frame,noise=alls=4",
    '-c:v',
    'libx264',
    '-qp',
    '12',
    ...TAGS_709,
  ]);
  // The same scene, duller, darker and yellower.
  for (const [name, filter] of [
    ['left', 'null'],
    ['right', 'eq=contrast=0.8:saturation=0.75:brightness=-0.05,colorchannelmixer=rr=1:gg=1:bb=0.85'],
  ])
    make(join(folder, `${name}.mp4`), 'mandelbrot=size=640x360:rate=30:end_pts=400', [
      ...['-t', '3', '-vf', `${filter},format=yuv420p`, '-c:v', 'libx264', '-qp', '12', ...TAGS_709],
    ]);
  running = await startServer({ host: '127.0.0.1', port: 0, data: tempFolder(), card, app: undefined, strict: true });
  client = new Client(running.address);
  const outing = await client.post<Outing>('/outings', { name: 'Day', date: '2031-06-14' });
  await client.post(`/outings/${outing.id}/import`, { clips: [{ paths: ['DCIM/TEST_CAMERA/dull.mp4'] }] });
  const look = async () => await client.clips(outing.id);
  [clip] = await until(look, (c) => c.length === 1 && c[0].proxy === 'ready');
});
afterAll(() => running.close());

/** Sends the request and reads all lines of the response. */
async function lines(path: string, body: unknown): Promise<Record<string, unknown>[]> {
  const res = await fetch(`${running.address}/api/clips/${clip.id}/${path}`, {
    method: 'POST',
    body: JSON.stringify(body),
    headers: { 'Content-Type': 'application/json' },
  });
  return (await res.text())
    .split('\n')
    .filter(Boolean)
    .map((l) => JSON.parse(l) as Record<string, unknown>);
}

test('a first pass answers with steps and reasons, the same each time', async () => {
  const [first, second] = [await lines('first-pass', { steps: [] }), await lines('first-pass', { steps: [] })];
  expect(first).toEqual(second);
  const { explanations, awaited } = first.at(-1)!.pass as FirstPass;
  expect(explanations[0].proposals.length).toBeGreaterThan(0);
  for (const p of explanations.flatMap((e) => e.proposals)) expect(p.reason.length).toBeGreaterThan(20);
  expect(explanations.reduce((s, e) => s + e.likelihood, 0)).toBeLessThanOrEqual(1 + 1e-9);
  expect(awaited).toEqual([]);
  // The best explanation arrives before the others are computed, or alone.
  const best = { explanations: explanations.slice(0, 1), awaited: explanations.slice(1).map((e) => e.found) };
  expect(best.awaited.length).toBeGreaterThan(0);
  expect(first[0].best).toMatchObject(best);
  const alone = await lines('first-pass', { steps: [], others: false });
  expect(alone).toHaveLength(1);
  expect(alone[0].pass).toMatchObject(best);
});

test('where a clip was filmed rules explanations out; it is remembered for the camera and used from then on', async () => {
  const found = (answer: Record<string, unknown>[]): FirstPass => answer.at(-1)!.pass as FirstPass;
  const water = found(await lines('first-pass', { steps: [], setting: 'water' }));
  expect(water.setting).toBe('water');
  expect(water.explanations.map((e) => e.found)).toEqual(['water']);
  const { body } = await client.ask<Camera>('PATCH', `/cameras/${clip.cameraId}`, { setting: 'haze' });
  expect(body.setting).toBe('haze');
  const haze = found(await lines('first-pass', { steps: [] }));
  expect(haze.explanations.every((e) => e.found === 'haze' || e.found === 'flat')).toBe(true);
  expect((await client.ask('PATCH', `/cameras/${clip.cameraId}`, { setting: 'fog' })).status).toBe(400);
  expect((await client.ask('PATCH', '/cameras/none', { setting: 'air' })).status).toBe(404);
  await client.ask('PATCH', `/cameras/${clip.cameraId}`, { setting: null });
});

test('a first pass reads water at the depths of a log that comes with the question; without one it says its own', async () => {
  const log: DiveLog = {
    name: 'asked',
    startedAt: null,
    samples: [
      { seconds: 0, metres: 9 },
      { seconds: 600, metres: 9 },
    ],
  };
  const depthWith = async (dive: ClipDive | null): Promise<unknown> => {
    const answer = await lines('first-pass', { steps: [], setting: 'water', others: false, dive });
    const [{ proposals }] = (answer.at(-1)!.pass as FirstPass).explanations;
    return resolveParams(proposals.find((p) => p.step.kind === 'water')!.step.params, 0).depth;
  };
  expect(await depthWith({ log, offset: 60 })).toBe(9);
  expect(await depthWith(null)).not.toBe(9);
  expect((await client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip.dive).toBeNull();
  const wrong = await client.ask('POST', `/clips/${clip.id}/first-pass`, { steps: [], dive: { log: 'x', offset: 0 } });
  expect(wrong.status).toBe(400);
});

test('a hold check says how far it is, and where the clip does not hold', async () => {
  const steps = [newStep('range', 'r', { exposure: 2.2 })];
  const answer = await lines('hold-check', { steps, own: ['r'] });
  expect(answer.filter((l) => l.done !== undefined).length).toBeGreaterThan(5);
  const report = answer.at(-1)!.report as HoldReport;
  const clipping = report.troubles.find((t) => t.kind === 'grade')!;
  // The second half is the brighter one.
  expect(clipping.worstFrame).toBeGreaterThan(110);
  expect(report.mends.map((m) => m.title)).toContain('Softer ends');
});

test('a dive log is kept with the clip, and taken away again; a wrong one is refused', async () => {
  const log: DiveLog = {
    name: 'a',
    startedAt: null,
    samples: [
      { seconds: 0, metres: 1 },
      { seconds: 60, metres: 9 },
    ],
  };
  expect((await client.ask<Clip>('PUT', `/clips/${clip.id}/dive`, { log, offset: 12 })).body.dive).toEqual({
    log,
    offset: 12,
  });
  expect((await client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip.dive!.offset).toBe(12);
  const falling = { ...log, samples: log.samples.toReversed() };
  expect((await client.ask('PUT', `/clips/${clip.id}/dive`, { log: falling, offset: 0 })).status).toBe(400);
  // A test pattern has no depth.
  expect((await lines('dive/clock', { log })).at(-1)).toEqual({ fit: null });
  expect((await client.ask<Clip>('DELETE', `/clips/${clip.id}/dive`)).body.dive).toBeNull();
  expect(await client.get('/card/logs')).toEqual([{ name: 'dive.uddf', text: '<uddf/>' }]);
});

test('pictures for reading are the file’s own pixels, spread over the stretch, from proxy and original alike', async () => {
  const source = await sourceOf(join(card, 'DCIM', 'TEST_CAMERA', 'dull.mp4'));
  const own = await clipFrames(source, { inFrame: 30, outFrame: 89, count: 6 });
  expect(own.map((p) => p.frame)).toEqual([30, 40, 50, 60, 70, 80]);
  const proxy = running.parts.library.proxy(clip.hash);
  const whole = await clipFrames(source, { proxy, inFrame: 5, outFrame: 239, count: 10 });
  expect(whole[0].frame).toBe(12);
  expect(whole.every((p) => p.frame % 12 === 0)).toBe(true);
  const at = whole.find((p) => p.frame === 60)!;
  const same = own.find((p) => p.frame === 60)!;
  const values = Array.from(at.picture.y as Uint8Array);
  const off = values.reduce((s, v, i) => s + Math.abs(v - same.picture.y[i]), 0) / values.length;
  expect(at.picture.format.width).toBe(same.picture.format.width);
  expect(off).toBeLessThan(4);
  // A short range is sought in the proxy: exactly the requested frames.
  const short = await clipFrames(source, { proxy, inFrame: 47, outFrame: 62, count: 16 });
  const first = await clipFrames(source, { proxy, inFrame: 0, outFrame: 62, count: 63 });
  expect(short.map((p) => p.frame)).toEqual(Array.from({ length: 16 }, (_, i) => 47 + i));
  short.forEach((p) => expect(p.picture.y).toEqual(first[p.frame].picture.y));
});

test('what a file is by its pictures: likely profiles, one of one’s own among them, and what is lost', async () => {
  const profile = { ...PROFILES[2], name: 'Helmet, flat' };
  await client.ask('POST', '/shelf', { kind: 'profile', profile });
  const res = await fetch(`${client.address}/api/clips/${clip.id}/file-reading`, { method: 'POST' });
  const lines = (await res.text()).trim().split('\n');
  const { reading } = JSON.parse(lines.at(-1)!) as { reading: FileReading };
  const { ranked, unknown } = reading.recognition;
  expect(ranked.map((r) => r.profile.name)).toEqual(expect.arrayContaining(['Standard video', 'Helmet, flat']));
  expect(ranked.reduce((sum, r) => sum + r.likelihood, unknown)).toBeCloseTo(1, 5);
  expect(ranked.map((r) => r.likelihood)).toEqual(ranked.map((r) => r.likelihood).toSorted((a, b) => b - a));
  expect(reading.lost.most).toBeGreaterThanOrEqual(reading.lost.mean);
});

test('a clip is matched to another one: to its colours as its own steps leave them', async () => {
  const names = ['left', 'right'];
  const paths = names.map((name) => ({ paths: [`DCIM/TEST_CAMERA/${name}.mp4`] }));
  await client.post(`/outings/${clip.outingId}/import`, { clips: paths });
  const all = await until(
    () => client.clips(clip.outingId),
    (c) => names.every((name) => c.some((o) => o.name === `${name}.mp4` && o.proxy === 'ready')),
  );
  const [left, right] = names.map((name) => all.find((c) => c.name === `${name}.mp4`)!);
  const match = async (to: string, steps: object[] = []): Promise<Match> => {
    const res = await fetch(`${running.address}/api/clips/${right.id}/match`, {
      method: 'POST',
      body: JSON.stringify({ steps, to }),
      headers: { 'Content-Type': 'application/json' },
    });
    return (JSON.parse((await res.text()).trim()) as { match: Match }).match;
  };
  const found = await match(left.id);
  expect(found.verdict).toBe('matched');
  expect(found.shared[1]).toBeGreaterThan(found.shared[0] + 0.2);
  // With its steps there is nothing left to match.
  expect((await match(left.id, found.steps)).verdict).toBe('alike');
  // The other clip's own steps are included, those of the whole outing are not.
  const saturated = ({ steps }: Match) => steps.find((s) => s.kind === 'saturation')!.params.amount as number;
  await client.setSteps(left.id, { clip: [newStep('saturation', 's', { amount: 0.6 })] });
  expect(saturated(await match(left.id))).toBeLessThan(0.8 * saturated(found));
  await client.setSteps(left.id, { clip: [], outing: [newStep('saturation', 's', { amount: 0 })] });
  expect((await match(left.id)).steps).toEqual(found.steps);
  const { status } = await client.ask('POST', `/clips/${right.id}/match`, { steps: [], to: 'nobody' });
  expect(status).toBe(404);
});

test('other clips of a camera bear witness to its profile, where they were recorded alike', async () => {
  const all = await client.clips(clip.outingId);
  const alike = (other: Clip): boolean =>
    other.id !== clip.id &&
    other.cameraId === clip.cameraId &&
    other.facts.depth === clip.facts.depth &&
    other.facts.tags.transfer === clip.facts.tags.transfer;
  expect(all.filter(alike).length).toBeGreaterThan(0);
  const { signal } = new AbortController();
  // Their tiles are rendered, as when the outing is open.
  for (const { id } of all)
    expect((await fetch(`${client.address}/api/clips/${id}/thumb.jpg?width=${TILE_WIDTH}&graded=1`)).status).toBe(200);
  const seen = await until(
    () => otherClipsOf(clip, running.parts, signal),
    (list) => list.length === Math.min(5, all.filter(alike).length),
  );
  for (const { levels, depth } of seen) {
    expect(depth).toBe(clip.facts.depth);
    expect(levels).toEqual(levels.toSorted((a, b) => a - b));
  }
});
