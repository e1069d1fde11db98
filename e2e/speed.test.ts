import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Clip } from '@inkavo/core/model/outing';
import type { Job } from '@inkavo/core/model/job';
import { probe } from '@inkavo/media/codec';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let clip: Clip;
beforeAll(async () => {
  app = await openTestApp();
  // The other one has the outing’s rate.
  ({ paddle_out_07: clip } = await app.clips('paddle_out_07', 'boat_shed_01'));
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
  // Half a second of the recording lasts a second.
  await page.getByText('0:01.00').waitFor();
  await page.getByText('exported').waitFor();
  // It is undone on the bench like steps, also after reopening.
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
