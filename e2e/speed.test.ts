import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { isIdle, newStep } from '@inkavo/core/model/grade';
import type { Camera, Clip } from '@inkavo/core/model/outing';
import type { Job } from '@inkavo/core/model/job';
import { probe } from '@inkavo/media/codec';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let clip: Clip;
beforeAll(async () => {
  app = await openTestApp();
  ({ paddle_out_07: clip } = await app.clips('paddle_out_07', 'boat_shed_01', 'mooring_block_02'));
});
afterAll(() => app.close());

test('sixty frames a second are slowed to the outing’s thirty in a tap: seen on the tile and in the export, and undone', async () => {
  const page = await app.page(SIZES.phone);
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  await page.getByRole('button', { name: /speed, loop, in and out/ }).tap();
  await page.getByRole('button', { name: 'Every frame at 30 a second: 0.5 times' }).tap();
  const kept = async () => (await app.client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip.retime;
  await until(kept, (r) => r?.factor === 0.5 && r.rate?.num === 30);
  await page.getByText(/^12\.00\ss, 6\.00\ss as recorded: every frame once at 30 a second/).waitFor();
  await page.getByRole('radio', { name: 'No sound' }).tap();
  await until(kept, (r) => r?.sound === 'goes');
  await page.getByRole('button', { name: 'Close' }).last().tap();
  await app.client.ask('PATCH', `/clips/${clip.id}`, { inFrame: 0, outFrame: 29 });
  const delivery = { codec: 'h264', quality: 30 };
  const [job] = await app.client.post<Job[]>('/deliveries', { clipIds: [clip.id], delivery });
  await until(
    () => app.client.get<Job[]>('/jobs'),
    (jobs) => jobs.find((j) => j.id === job.id)!.state === 'done',
  );
  const [file] = readdirSync(join(app.data, 'exports'));
  const { facts } = await probe(join(app.data, 'exports', file));
  expect(facts).toMatchObject({ frames: 30, frameRate: { num: 30, den: 1 }, audio: null });
  expect(facts.durationSeconds).toBeCloseTo(1, 2);

  await page.goto(`${app.running.address}/outing/${clip.outingId}`);
  // Half a second of what was recorded, for a second.
  await page.getByText('0:01.00').waitFor();
  await page.getByText('exported').waitFor();
  // On the bench it is undone with the steps, also after it was closed.
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  const undo = page.getByRole('button', { name: 'Undo', exact: true });
  await undo.tap();
  await until(kept, (r) => r?.sound === 'follows');
  await undo.tap();
  await until(kept, (r) => r === null);
  await page.context().close();
});

test('a speed that is set without a network is kept on the device, and sent when the page is opened again', async () => {
  const page = await app.page(SIZES.phone, 1, false);
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  await page.getByRole('button', { name: /speed, loop, in and out/ }).tap();
  await page.route('**/api/clips/**', (route) =>
    route.request().method() === 'PATCH' ? route.abort() : route.continue(),
  );
  await page.getByRole('button', { name: 'Every frame at 30 a second: 0.5 times' }).tap();
  await page.getByText(/\ss as recorded: every frame once at 30/).waitFor();
  await page.getByTestId('keep-state').getByText('kept', { exact: true }).waitFor({ state: 'detached' });
  await page.unroute('**/api/clips/**');
  await page.reload();
  const kept = async () => (await app.client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip.retime;
  await until(kept, (r) => r?.factor === 0.5);
  await page.getByTestId('keep-state').getByText('kept', { exact: true }).waitFor();
  await app.client.ask('PATCH', `/clips/${clip.id}`, { retime: null });
  await page.context().close();
});

/** Chooses all clips of the outing, and asks for a first pass on each. */
async function firstPassOnAll(page: Page): Promise<void> {
  await page.goto(`${app.running.address}/outing/${clip.outingId}`);
  await page.getByRole('button', { name: 'Choose several clips' }).tap();
  await page.getByRole('button', { name: 'Choose all that are shown' }).tap();
  await page.getByRole('button', { name: 'With them …' }).tap();
  await page.getByRole('button', { name: 'First pass on each …' }).tap();
}
const working = async (): Promise<string[]> =>
  (await app.client.clips(clip.outingId)).filter((c) => !c.steps.every(isIdle)).map((c) => c.name);
const READ = /^3 of 3 read: \d clips? to mend, \d good as (it is|they are)\.$/;

test('a first pass on each of several clips: what it finds is taken as one thing, and undone as one', async () => {
  const page = await app.page(SIZES.phone);
  await firstPassOnAll(page);
  const camera = (await app.client.get<{ camera: Camera }>(`/clips/${clip.id}`)).camera;
  const asked = page.getByRole('radiogroup', { name: `Where was it filmed? ${camera.name}` });
  await asked.getByRole('radio', { name: 'Clear air' }).tap();
  // The connection is lost with one of them each time: the others are read, and that one once more when it is wanted.
  const dive = (await app.client.clips(clip.outingId)).find((c) => c.name.startsWith('mooring'))!;
  const lost = `**/clips/${dive.id}/first-pass`;
  await page.route(lost, (route) => route.abort());
  await page.getByRole('button', { name: 'Read 3 clips' }).tap();
  await page.getByText(/^mooring_block_02\.mp4: The server cannot be reached/).waitFor();
  await page.unroute(lost);
  await page.getByRole('button', { name: 'Read again: 1 clip that failed' }).tap();
  await page.getByRole('dialog').getByText(READ).waitFor();
  await page.getByText(/^To mend: .*1 like water/).waitFor();
  expect((await app.client.get<{ camera: Camera }>(`/clips/${clip.id}`)).camera.setting).toBe('air');
  await page.getByRole('button', { name: /^Take them: \d clips?$/ }).tap();
  const mended = await until(working, (names) => names.length > 0);
  // The clip under water needs it, whatever else does.
  expect(mended).toContain('mooring_block_02.mp4');
  await page.getByRole('button', { name: 'Undo', exact: true }).last().tap();
  await until(working, (names) => names.length === 0);
  await page.context().close();
});

test('a first pass on several clips goes on while its sheet is closed, waits for the server, and is there after a reload', async () => {
  const page = await app.page(SIZES.phone, 1, false);
  let away = true;
  await page.context().route('**/first-pass', async (route) => {
    // The first of them is read.
    if (away && !route.request().url().includes(first)) await route.abort('internetdisconnected');
    else await route.continue();
  });
  const first = (await app.client.clips(clip.outingId))[0].id;
  await page.context().route('**/api/outings', (route) => (away ? route.abort() : route.continue()));
  await firstPassOnAll(page);
  await page.getByRole('button', { name: 'Read 3 clips' }).tap();
  await page.getByRole('dialog').getByText('The server cannot be reached: it goes on when it is back.').waitFor();
  await page.getByRole('button', { name: 'Close' }).tap();
  const strip = page.getByRole('region', { name: 'First pass' });
  await strip.getByText(/1 of 3 read/).waitFor();
  await page.reload();
  await strip.getByText(/1 of 3 read/).waitFor();
  // Nothing failed for good: the others are read once the server is there, while another screen is open.
  await page.getByText('boat_shed_01.mp4').tap();
  await settled(page);
  away = false;
  await page.evaluate(() => window.dispatchEvent(new Event('online')));
  await page.getByText('The first pass on several clips is read: its outing shows what was found.').waitFor();
  await page.goBack();
  await strip.getByText(READ).waitFor();
  // What is worked on meanwhile is left alone.
  const dive = (await app.client.clips(clip.outingId)).find((c) => c.name.startsWith('mooring'))!;
  await app.client.setSteps(dive.id, { clip: [newStep('saturation', 's', { amount: 1.2 })] });
  await strip.getByRole('button', { name: 'Look' }).tap();
  await page.getByText('Worked on or removed since: mooring_block_02.mp4. There nothing is changed.').waitFor();
  await page.getByRole('button', { name: 'Drop what was found' }).tap();
  await strip.waitFor({ state: 'detached' });
  expect(await working()).toEqual(['mooring_block_02.mp4']);
  await app.client.setSteps(dive.id, { clip: [] });
  await page.context().close();
});
