import type { Page } from 'playwright-core';
import { hasNoEffect, newStep } from '@inkavo/core/model/grade';
import type { Camera, Clip } from '@inkavo/core/model/outing';
import type { HoldReport } from '@inkavo/core/reading/holdCheck';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { openTestApp, settled, textOf, type TestApp } from './testApp';

let app: TestApp;
let [paddle, shed, dive]: Clip[] = [];
let outingId: string;
beforeAll(async () => {
  app = await openTestApp();
  const clips = await app.clips('paddle_out_07', 'boat_shed_01', 'mooring_block_02');
  [paddle, shed, dive] = [clips.paddle_out_07, clips.boat_shed_01, clips.mooring_block_02];
  ({ outingId } = paddle);
});
afterAll(() => app.close());

/** Selects all clips of the outing and opens an action for them. */
async function withAll(page: Page, what: string): Promise<void> {
  await page.goto(`${app.running.address}/outing/${outingId}`);
  await page.getByRole('button', { name: 'Choose several clips' }).tap();
  await page.getByRole('button', { name: 'Choose all that are shown' }).tap();
  await page.getByRole('button', { name: 'With them …' }).tap();
  await page.getByRole('button', { name: what }).tap();
}
const working = async (): Promise<string[]> =>
  (await app.client.clips(outingId)).filter((c) => !c.steps.every(hasNoEffect)).map((c) => c.name);
const READ = /^3 of 3 read: \d clips? to mend, \d good as (it is|they are)\.$/;

test('a first pass on each of several clips: what it finds is taken as one thing, and undone as one', async () => {
  const page = await app.page(SIZES.phone);
  await withAll(page, 'First pass on each …');
  const camera = (await app.client.get<{ camera: Camera }>(`/clips/${paddle.id}`)).camera;
  const asked = page.getByRole('radiogroup', { name: `Where was it filmed? ${camera.name}` });
  await asked.getByRole('radio', { name: 'Clear air' }).tap();
  // The connection is lost with one of them each time: the others are read, and that one again on request.
  const lost = `**/clips/${dive.id}/first-pass`;
  await page.route(lost, (route) => route.abort());
  await page.getByRole('button', { name: 'Read 3 clips' }).tap();
  await page.getByText(/^mooring_block_02\.mp4: The server cannot be reached/).waitFor();
  await page.unroute(lost);
  await page.getByRole('button', { name: 'Read again: 1 clip that failed' }).tap();
  await page.getByRole('dialog').getByText(READ).waitFor();
  await page.getByText(/^To mend: .*1 like water/).waitFor();
  expect((await app.client.get<{ camera: Camera }>(`/clips/${paddle.id}`)).camera.setting).toBe('air');
  await page.getByRole('button', { name: /^Take them: \d clips?$/ }).tap();
  const mended = await until(working, (names) => names.length > 0);
  // The clip under water needs it in any case.
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
  const first = (await app.client.clips(outingId))[0].id;
  await page.context().route('**/api/outings', (route) => (away ? route.abort() : route.continue()));
  await withAll(page, 'First pass on each …');
  await page.getByRole('button', { name: 'Read 3 clips' }).tap();
  await page.getByRole('dialog').getByText('The server cannot be reached: it goes on when it is back.').waitFor();
  await page.getByRole('button', { name: 'Close' }).tap();
  const strip = page.getByRole('region', { name: 'First pass' });
  await strip.getByText(/1 of 3 read/).waitFor();
  await page.reload();
  await strip.getByText(/1 of 3 read/).waitFor();
  // Nothing failed for good: the others are read once the server is reachable, while another screen is open.
  await page.getByText('boat_shed_01.mp4').tap();
  await settled(page);
  away = false;
  await page.evaluate(() => window.dispatchEvent(new Event('online')));
  await page.getByText('The first pass on several clips is read: its outing shows what was found.').waitFor();
  await page.goBack();
  await strip.getByText(READ).waitFor();
  // Clips edited in the meantime are left alone.
  await app.client.setSteps(dive.id, { clip: [newStep('saturation', 's', { amount: 1.2 })] });
  await strip.getByRole('button', { name: 'Look' }).tap();
  await page
    .getByText('Removed since, or their steps have changed: mooring_block_02.mp4. There nothing is done.')
    .waitFor();
  // A step of the camera acts on its clips, which were read without it: nothing is left to take.
  await app.client.setSteps(paddle.id, { camera: [newStep('balance', 'b', { kelvin: 7000 })] });
  await page.getByText(/^Removed since, or their steps have changed: .*paddle_out_07\.mp4/).waitFor();
  await app.client.setSteps(paddle.id, { camera: [] });
  await page.getByRole('button', { name: /^Drop what was found|^Done: nothing to take/ }).tap();
  await strip.waitFor({ state: 'detached' });
  expect(await working()).toEqual(['mooring_block_02.mp4']);
  await app.client.setSteps(dive.id, { clip: [] });
  await page.context().close();
});

/** The server's hold report for a clip's grade, without mends. */
async function heldBy({ id }: Clip): Promise<HoldReport> {
  const { steps } = (await app.client.get<{ clip: Clip }>(`/clips/${id}`)).clip;
  const res = await fetch(`${app.running.address}/api/clips/${id}/hold-check`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ steps, own: null }),
  });
  return (JSON.parse((await res.text()).trim().split('\n').at(-1)!) as { report: HoldReport }).report;
}

test('whether the grades of several clips hold: those that do not are listed, and open at their worst frame', async () => {
  await app.client.setSteps(shed.id, { clip: [newStep('range', 'r', { white: 0.5 })] });
  const page = await app.page(SIZES.phone);
  await withAll(page, 'Hold check on each …');
  await page.getByRole('button', { name: 'Check 3 clips' }).tap();
  const reports = await Promise.all([paddle, shed, dive].map(heldBy));
  const off = reports.filter((r) => r.troubles.length).length;
  await page
    .getByRole('dialog')
    .getByText(new RegExp(`^3 of 3 checked: ${3 - off} holds?, ${off} do(es)? not\\.$`))
    .waitFor();
  expect(await page.getByRole('dialog').getByRole('link').count()).toBe(off);
  const { troubles, mends } = reports[1];
  expect(mends).toEqual([]);
  expect(troubles[0].kind).toBe('grade');
  const listed = page.getByRole('link', { name: `boat_shed_01.mp4: ${troubles[0].text} Open it there` });
  await listed.tap();
  await settled(page);
  const [seconds, frames] = [Math.floor(troubles[0].worstFrame / 30), troubles[0].worstFrame % 30];
  expect(await textOf(page.getByTestId('time'))).toContain(`0:0${seconds}.${String(frames).padStart(2, '0')}`);
  // Mended: the findings no longer apply.
  await app.client.setSteps(shed.id, { clip: [] });
  await page.goBack();
  await page.getByRole('region', { name: 'Hold check' }).getByRole('button', { name: 'Look' }).tap();
  await listed.getByText('Its steps have changed since it was checked.').waitFor();
  await page.getByRole('button', { name: 'Done', exact: true }).tap();
  await page.getByRole('region', { name: 'Hold check' }).waitFor({ state: 'detached' });
  await page.context().close();
});
