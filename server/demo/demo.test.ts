import { cpSync, existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Job } from '@inkavo/core/model/job';
import type { Camera, Clip, Outing } from '@inkavo/core/model/outing';
import { DEMO_CLIPS, FIRST_CLIPS } from '@inkavo/demo/catalogue';
import { CARD } from '@inkavo/demo/folder';
import { SCENES } from '@inkavo/demo/scenes';
import { startServer, type Running } from '../app';
import { configFromEnv } from '../config';
import { Client, tempFolder, until } from '../testServer';
import { BEGINNINGS } from './outing';

/** A footage folder with the first clip of each camera, while the others are still being rendered. */
const footage = tempFolder();
let running: Running;
let client: Client;

beforeAll(async () => {
  for (const { folder, file } of FIRST_CLIPS)
    for (const name of [file, file.replace('.mp4', '.uddf')]) {
      const [from, to] = [join(CARD, folder, name), join(footage, 'card', 'DCIM', folder, name)];
      mkdirSync(dirname(to), { recursive: true });
      if (existsSync(from)) cpSync(from, to);
    }
  running = await startServer({
    ...configFromEnv({}),
    port: 0,
    data: tempFolder(),
    card: join(footage, 'card'),
    app: undefined,
    demo: true,
    strict: true,
  });
  client = new Client(running.address);
});
afterAll(async () => {
  await running.close();
});

const opened = async () => {
  const [outing] = await client.get<Outing[]>('/outings');
  return client.get<{ outing: Outing; cameras: Camera[]; clips: Clip[]; intake: Job[] }>(`/outings/${outing.id}`);
};

test('what the server brings in is what there are scenes for', () => {
  expect(DEMO_CLIPS.map((c) => `${c.folder}/${c.file}`).sort()).toEqual(
    SCENES.map((s) => `${s.folder}/${s.file}`).sort(),
  );
  for (const file of Object.keys(BEGINNINGS)) expect(DEMO_CLIPS.map((c) => c.file)).toContain(file);
});

test('a first start opens the demo loaded: clips of the card at once, one corrected, one with its dive log', async () => {
  const { cameras, outing } = await until(opened, (o) => o.clips.length >= FIRST_CLIPS.length);
  const clips = await client.clips(outing.id);
  expect(clips.map((c) => c.name)).toEqual(expect.arrayContaining(FIRST_CLIPS.map((c) => c.file)));
  expect(cameras.map((c) => c.name)).toEqual(
    expect.arrayContaining(['Bank camera', 'Quadcopter', 'Helmet camera', 'Dive housing']),
  );
  const named = (name: string): Clip => clips.find((c) => c.name === name)!;
  expect(named('paddle_out_07.mp4').steps.find((s) => s.kind === 'balance')!.params).toMatchObject({ kelvin: 9600 });
  const { dive } = named('mooring_block_02.mp4');
  expect(dive).toMatchObject({ offset: 94 });
  expect(dive!.log.samples.length).toBeGreaterThan(100);
  expect(named('boat_shed_01.mp4').dive).toBeNull();
});

test('what is not rendered yet is rendered as work that shows its progress, can be stopped, and comes in by itself', async () => {
  const { intake } = await opened();
  const rendering = intake.filter((j) => j.kind === 'render');
  expect(rendering.length).toBe(DEMO_CLIPS.length - FIRST_CLIPS.length);
  // All but the first are left for later; it alone is enough to start with.
  for (const job of rendering.slice(1)) await client.post(`/jobs/${job.id}/stop`);
  const progress: number[] = [];
  const { clips } = await until(
    async () => {
      const now = await opened();
      const job = now.intake.find((j) => j.id === rendering[0].id);
      if (job?.state === 'running') progress.push(job.progress);
      return now;
    },
    (o) => o.clips.some((c) => c.name === rendering[0].title),
    // 43 s alone, three times as long beside other tests.
    400_000,
  );
  expect(Math.max(...progress)).toBeGreaterThan(0);
  expect(clips.find((c) => c.name === rendering[0].title)!.facts).toMatchObject({ width: 1920, height: 1080 });
  const stopped = (await opened()).intake.filter((j) => j.kind === 'render');
  expect(stopped.map((j) => j.state)).toEqual(rendering.slice(1).map(() => 'stopped'));
}, 430_000);

test('a renderer that fails says so, and nothing half rendered lies on the card', async () => {
  const [job] = (await opened()).intake.filter((j) => j.kind === 'render');
  // A file in the place of its folder.
  const { folder } = DEMO_CLIPS.find((c) => c.file === job.title)!;
  const path = join(footage, 'card', 'DCIM', folder);
  const blocked = join(path, `${job.title}.part`);
  mkdirSync(blocked, { recursive: true });
  writeFileSync(join(blocked, 'in the way'), '');
  await client.post(`/jobs/${job.id}/again`);
  const failed = await until(
    async () => (await opened()).intake.find((j) => j.id === job.id)!,
    (j) => j.state === 'failed',
  );
  expect(failed.message).toContain('could not be rendered');
  expect(existsSync(join(path, job.title))).toBe(false);
});

test('the demo that was removed does not come back by itself', async () => {
  const { outing } = await opened();
  await client.post('/removed', { kind: 'outing', ids: [outing.id] });
  const { data } = running.parts.config;
  const config = { ...running.parts.config };
  await running.close();
  running = await startServer({ ...config, data });
  client = new Client(running.address);
  expect(await client.get<Outing[]>('/outings')).toEqual([]);
});
