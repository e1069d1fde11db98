import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { newStep } from '@inkavo/core/model/grade';
import type { Job } from '@inkavo/core/model/job';
import type { Outing } from '@inkavo/core/model/outing';
import { make, QUICK_H264 } from '@inkavo/media/testClips';
import { spawnServer, tempFolder, until, type ServerProcess } from './testServer';
import { sendFile } from './testUploads';

/** Random moments, the same in every run. */
const KILLS = 20;
const SEED = 20_311;
const LONGEST_MS = 2500;

const [folder, data] = [tempFolder(), tempFolder()];
let server: ServerProcess;
let outing: Outing;

beforeAll(async () => {
  server = await spawnServer(data, folder);
  outing = await server.client.post<Outing>('/outings', { name: 'Storm', date: '2031-06-14' });
  const path = make(join(folder, 'first.mp4'), 'testsrc2=size=318x180:rate=25:duration=0.6', QUICK_H264);
  await sendFile(server.client.address, path, { filename: 'first.mp4', outing: outing.id, camera: 'Bow' });
  await until(clips, (all) => all[0]?.proxy === 'ready');
});
afterAll(() => server.kill());

/** Numbers from 0 to 1 (Lehmer, modulus 2^31 − 1, multiplier 48271). */
function* randoms(seed: number): Generator<number> {
  for (let x = seed; ; x = (x * 48_271) % 2_147_483_647) yield x / 2_147_483_647;
}
const sha256 = (path: string): string => createHash('sha256').update(readFileSync(path)).digest('hex');
const clips = () => server.client.clips(outing.id);
const jobs = (): Promise<Job[]> => server.client.get<Job[]>('/jobs');

const intake = async (): Promise<Job[]> => (await server.client.get<{ intake: Job[] }>(`/outings/${outing.id}`)).intake;

/** Everything that was answered with success, and so has to exist for ever. */
const kept = { files: new Set<string>(), exports: new Set<string>(), black: 0, asked: 0 };

/** Sends files, edits and reads continuously, until the server is gone. */
async function work(round: number): Promise<void> {
  const path = make(
    join(folder, `clip_${round}.mp4`),
    `testsrc2=size=${320 + 2 * round}x180:rate=25:duration=0.6`,
    QUICK_H264,
  );
  const { client } = server;
  const upload = async (): Promise<void> => {
    await sendFile(client.address, path, { filename: `clip_${round}.mp4`, outing: outing.id, camera: 'Bow' });
    kept.files.add(`clip_${round}.mp4`);
  };
  const edit = async (): Promise<void> => {
    const [first] = await client.clips(outing.id);
    for (let black = kept.asked + 1; first; black += 1) {
      kept.asked = black;
      const steps = [newStep('range', 'r', { black: -0.001 * black })];
      // The camera's, so that the thumbnails of all its clips are redrawn.
      const { status } = await client.setSteps(first.id, { camera: steps });
      if (status === 200) kept.black = black;
    }
  };
  const deliver = async (): Promise<void> => {
    const ids = (await client.clips(outing.id)).filter((c) => c.proxy === 'ready').map((c) => c.id);
    if (ids.length === 0) return;
    const delivery = { codec: 'ffv1' };
    const asked = { clipIds: ids.slice(-1), delivery };
    const { status, body } = await client.ask<Job[]>('POST', '/deliveries', asked);
    if (status < 300) for (const { id } of body) kept.exports.add(id);
    if (round % 4 === 0) await client.post('/films', { outingId: outing.id, clipIds: ids.slice(0, 3), delivery });
  };
  await Promise.allSettled([upload(), edit(), deliver()]);
}

/** Invariants. */
async function holds(): Promise<void> {
  const all = await clips();
  for (const clip of all) expect(existsSync(join(data, 'originals', clip.hash))).toBe(true);
  for (const name of readdirSync(join(data, 'originals')).filter((n) => !n.endsWith('.part')))
    expect(sha256(join(data, 'originals', name))).toBe(name);
  const list = await jobs();
  for (const job of list.filter((j) => j.file)) {
    const path = join(data, 'exports', job.file!.name);
    const { status } = await fetch(`${server.client.address}/api/jobs/${job.id}/file`, { method: 'HEAD' });
    if (job.state === 'done') expect([status, sha256(path)]).toEqual([200, job.file!.result!.sha256]);
    else expect(status).toBe(404);
  }
  if (!kept.black) return;
  const { cameras } = await server.client.get<{ cameras: { steps: { params: { black: number } }[] }[] }>(
    `/outings/${outing.id}`,
  );
  const black = Math.round(-1000 * cameras[0].steps[0].params.black);
  // A change in transit may have been stored without a response.
  expect(black).toBeGreaterThanOrEqual(kept.black);
  expect(black).toBeLessThanOrEqual(kept.asked);
}

test(`killed at ${KILLS} random moments of uploads, edits, thumbnails, exports and films, nothing that was kept is gone`, async () => {
  const random = randoms(SEED);
  for (let round = 0; round < KILLS; round += 1) {
    const working = work(round);
    // The clock begins with the first edit that was saved, every fourth time during an export, so that something is at
    // stake, also on a busy machine.
    const before = { black: kept.black, exports: kept.exports.size };
    await until(
      async () => kept,
      (now) => now.black > before.black && (round % 4 > 0 || now.exports.size > before.exports),
    );
    await new Promise((r) => setTimeout(r, LONGEST_MS * random.next().value!));
    await server.kill();
    await working;
    server = await spawnServer(data, folder);
    await holds();
  }
  const ended = (all: Job[]): boolean => all.every((j) => j.state === 'done' || j.state === 'failed');
  await until(intake, ended);
  await until(jobs, ended);
  // A job that was running at three kills is given up, reports it, and can be retried.
  for (const job of [...(await intake()), ...(await jobs())].filter((j) => j.state === 'failed')) {
    expect(job.message).toContain('3 times');
    await server.client.post(`/jobs/${job.id}/again`);
  }
  const isDone = (all: Job[]): boolean => all.every((j) => j.state === 'done');
  await until(intake, isDone);
  const list = await until(jobs, isDone);
  const names = (await clips()).map((c) => c.name);
  for (const name of kept.files) expect(names).toContain(name);
  await holds();
  // Incomplete uploads stay, to be resumed.
  const uploads = join(data, 'uploads');
  const isWhole = (name: string): boolean =>
    statSync(join(uploads, name)).size ===
    (JSON.parse(readFileSync(join(uploads, `${name}.json`), 'utf8')) as { size: number }).size;
  await server.kill();
  server = await spawnServer(data, folder);
  await until(
    async () => readdirSync(uploads).filter((name) => !name.endsWith('.json') && isWhole(name)),
    (left) => left.length === 0,
  );
  expect(readdirSync(join(data, 'temporary'))).toEqual([]);
  const parts = ['exports', 'originals', 'proxies', 'thumbs'].flatMap((part) => readdirSync(join(data, part)));
  expect(parts.filter((n) => n.endsWith('.part'))).toEqual([]);
  expect(kept.files.size).toBeGreaterThan(KILLS / 4);
  expect(kept.black).toBeGreaterThanOrEqual(KILLS);
  const exported = list.filter((j) => j.state === 'done' && j.file).map((j) => j.id);
  expect(exported).toEqual(expect.arrayContaining([...kept.exports]));
  expect(kept.exports.size).toBeGreaterThanOrEqual(KILLS / 4);
});
