import { randomBytes } from 'node:crypto';
import { appendFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import type { Job } from '@inkavo/core/model/job';
import type { Clip } from '@inkavo/core/model/outing';
import { newStep } from '@inkavo/core/model/grade';
import { make, workFolder } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { stallingProxy, type StallingProxy } from './stallingProxy';
import { keptSteps, openTestApp, settled, type TestApp } from './testApp';

const NAMES = ['boat_shed_01', 'channel_east_03', 'paddle_out_07', 'mooring_block_02'];
let app: TestApp;
let page: Page;
let clip: Clip;
/** A clip whose frames no browser has cached. */
let unseen: Clip;
let network: StallingProxy;
beforeAll(async () => {
  // Heartbeats so frequent that silence is noticed soon.
  app = await openTestApp({ beatMs: 1000 });
  const clips = await app.clips(...NAMES);
  clip = clips.boat_shed_01;
  unseen = clips.paddle_out_07;
  for (const { id } of Object.values(clips))
    await app.client.setSteps(id, {
      clip: [newStep('range', 'range', { black: -0.01 }), newStep('saturation', 'saturation')],
    });
  network = await stallingProxy(app.running.address);
  page = await app.page(SIZES.phone);
});
afterAll(async () => {
  network.close();
  await app.close();
});

const keepState = (text: string | RegExp) => page.getByTestId('keep-state').getByText(text);

test('a connection that goes dead without a word is noticed, and everything goes on over a new one', async () => {
  await page.goto(`${network.address}/clip/${clip.id}`);
  await settled(page);
  await page.getByTestId('step-saturation').tap();
  network.stall();
  await page.getByRole('button', { name: 'Saturation: more' }).tap();
  await page.getByRole('button', { name: 'One frame on' }).tap();
  // Unsaved changes are never said to be kept; the missing connection is reported.
  await keepState('on this device: no server').waitFor();
  await page.getByText('The server cannot be reached.', { exact: false }).first().waitFor();
  network.revive();
  // Without a tap.
  await settled(page);
  await page.getByText('The server cannot be reached.', { exact: false }).first().waitFor({ state: 'detached' });
  const kept = await keptSteps(app.client, clip.id);
  expect(kept.find((s) => s.kind === 'saturation')!.params.amount).toBeGreaterThan(1);
  // Changes from elsewhere arrive again.
  await app.client.setSteps(clip.id, { clip: [...kept, newStep('range', 'elsewhere', { black: -0.02 })] });
  await page.getByTestId('step-elsewhere').waitFor({ state: 'attached' });
});

test('a video that waits for more goes on', async () => {
  void network.silence(/\/proxy/);
  await page.goto(`${network.address}/clip/${clip.id}`);
  await settled(page);
  await page.getByRole('button', { name: 'Play', exact: true }).tap();
  await page.getByText('loading', { exact: true }).waitFor();
  network.stall();
  network.revive();
  await page.waitForFunction(
    () => document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset.showing === 'moving',
  );
  await page.getByText('loading', { exact: true }).waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'Pause' }).tap();
});

test('pictures that nothing answers do not keep the others from coming', async () => {
  const pictures = () =>
    page.evaluate(() => Array.from(document.images).filter((i) => i.complete && i.naturalWidth > 0).length);
  void network.silence(/\/thumb/);
  await page.goto(`${network.address}/outing/${clip.outingId}`);
  // More than a browser's connections: each tile with steps has two pictures.
  await page.waitForFunction((least) => document.images.length >= least, 2 * NAMES.length);
  expect(await pictures()).toBe(0);
  network.stall();
  // The stall has been noticed; while the server is unreachable, nothing is requested.
  await page.waitForFunction(() => document.images.length === 0);
  network.revive();
  await page.waitForFunction((least) => document.images.length >= least, 2 * NAMES.length);
  await until(pictures, (n) => n >= 2 * NAMES.length);
});

test('a page whose first data is lost on the way, twice, shows it once the server answers again', async () => {
  const asked: string[] = [];
  page.on('request', (r) => asked.push(r.url()));
  const times = (path: string) => asked.filter((url) => url.endsWith(path)).length;
  for (const path of [`/outing/${clip.outingId}`, `/clip/${clip.id}`]) {
    const data = path.replace(/^\/(\w+)/, '/api/$1s');
    asked.length = 0;
    const silent = network.silence(new RegExp(data));
    await page.goto(`${network.address}${path}`);
    await silent;
    network.stall();
    // The silent stream is given up; a new one, and requests made meanwhile, hang as well.
    await until(
      async () => times('/api/events'),
      (n) => n >= 2,
    );
    network.revive();
    await page.getByText('boat_shed_01.mp4').first().waitFor();
  }
  await settled(page);
});

test('where only the connection of a frame goes silent, it is asked for over another one', async () => {
  const silent = network.silence(/\/frame\?/);
  await page.goto(`${network.address}/clip/${unseen.id}`);
  await silent;
  network.revive();
  await settled(page);
});

test('a first pass that breaks off on the way is read again', async () => {
  await page.goto(`${network.address}/clip/${clip.id}`);
  await settled(page);
  const silent = network.silence(/\/first-pass/);
  await page.getByRole('button', { name: 'First pass' }).tap();
  await silent;
  network.breakOff(true);
  await page.getByRole('dialog').getByText('The server cannot be reached.', { exact: false }).waitFor();
  network.revive();
  await page.getByText('Nothing to mend', { exact: false }).waitFor();
  await page.getByText('The server cannot be reached.', { exact: false }).first().waitFor({ state: 'detached' });
});

/** Queues a report: the request reaches the server, its answer is lost. */
async function reportInVain(): Promise<void> {
  await page.goto(`${network.address}/outing/${clip.outingId}`);
  await page.getByText('boat_shed_01.mp4').waitFor();
  await page.getByRole('button', { name: 'This outing: name, day, remove' }).tap();
  await page.getByRole('button', { name: 'Film, report, timeline …' }).tap();
  const silent = network.silence(/\/documents/);
  await page.getByRole('button', { name: 'Report, as a page' }).tap();
  await silent;
  network.stall();
}

test('what is tapped for while the connection dies is done over a new one, and done once', async () => {
  await reportInVain();
  await page.getByText('The server does not answer.', { exact: false }).waitFor();
  network.revive();
  await page.waitForURL('**/exports');
  const reports = await until(
    async () => (await app.client.get<Job[]>('/jobs')).filter((j) => j.kind === 'export'),
    (jobs) => jobs.every((j) => j.state === 'done'),
  );
  expect(reports).toHaveLength(1);
  await page.getByText('The server does not answer.', { exact: false }).waitFor({ state: 'detached' });
});

test('what is queued after its sheet was closed is only told: nobody is taken away', async () => {
  await reportInVain();
  await page.getByRole('button', { name: 'Close', exact: true }).tap();
  network.revive();
  await page.getByText('It is queued under Exports.').waitFor();
  expect(page.url()).toContain('/outing/');
});

test('where the browser calls itself offline, a server that answers is asked all the same', async () => {
  await page.goto(`${app.running.address}/`);
  const outing = page.getByRole('link', { name: /Saltmark survey/ });
  await outing.waitFor();
  await page.evaluate(() => {
    Object.defineProperty(navigator, 'onLine', { get: () => false });
    window.dispatchEvent(new Event('offline'));
  });
  await outing.tap();
  await page.getByText('boat_shed_01.mp4').waitFor();
});

test('an upload goes on where it was', async () => {
  const path = join(workFolder(), 'long.mov');
  make(path, 'testsrc2=size=320x180:rate=25:duration=0.4', ['-c:v', 'libx264', '-pix_fmt', 'yuv420p']);
  // A box of free space (ISO/IEC 14496-12) makes it large: 48 MB, sent in chunks of 8 MiB.
  const box = Buffer.concat([Buffer.alloc(4), Buffer.from('free'), randomBytes(48_000_000)]);
  box.writeUInt32BE(box.length, 0);
  appendFileSync(path, box);
  let sent = 0;
  page.on('request', (r) => {
    if (r.method() !== 'PATCH' || !r.url().includes('/api/uploads')) return;
    sent += 1;
    // When the second chunk begins: later it may have arrived.
    if (sent === 2) network.stall();
  });
  await page.goto(`${network.address}/outing/${clip.outingId}`);
  await page.getByText('boat_shed_01.mp4').waitFor();
  await page.getByRole('button', { name: 'Bring in', exact: true }).tap();
  await page.getByTestId('file-input').setInputFiles(path);
  await page.getByRole('button', { name: /^Bring in 1 ·/ }).tap();
  await until(
    async () => sent,
    (n) => n >= 2,
  );
  await page.getByText(/waiting for the connection/).waitFor();
  const before = sent;
  network.revive();
  const arrived = await until(
    async () => (await app.client.clips(clip.outingId)).find((c) => c.name === 'long.mov'),
    (c) => c !== undefined,
  );
  expect(arrived!.facts.frames).toBe(10);
  await page.getByText(/^Sending|waiting for the connection/).waitFor({ state: 'detached' });
  // Every chunk once, and only the lost one twice.
  expect(before).toBeGreaterThan(1);
  expect(sent).toBeLessThanOrEqual(8);
});
