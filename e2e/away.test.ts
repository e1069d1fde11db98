import type { Page } from 'playwright-core';
import type { Clip } from '@inkavo/core/model/outing';
import { startServer } from '@inkavo/server/app';
import { configFromEnv } from '@inkavo/server/config';
import { SIZES } from './browser';
import { openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let clip: Clip;
beforeAll(async () => {
  app = await openTestApp();
  clip = (await app.clips('boat_shed_01')).boat_shed_01;
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

/** Stops the server; the returned function restarts it at the same address. */
async function away(): Promise<() => Promise<void>> {
  const port = Number(new URL(app.running.address).port);
  await app.running.close();
  return async () => {
    app.running = await startServer({ ...configFromEnv({}), port, data: app.data });
  };
}
const pictures = () =>
  page.evaluate(() => Array.from(document.images).filter((i) => i.complete && i.naturalWidth > 0).length);

test('after the server was away everything that waited is fetched by itself: frame, scopes, moving picture', async () => {
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  const back = await away();
  for (let i = 0; i < 3; i += 1) await page.getByRole('button', { name: 'One frame on' }).click();
  // The reason is shown; no spinner without a text.
  await page.getByText('The server cannot be reached.', { exact: false }).first().waitFor();
  await page.getByTestId('step-saturation').click();
  await page.getByRole('button', { name: 'Saturation: more' }).click();
  await page
    .getByTestId('keep-state')
    .getByText(/on this device/)
    .waitFor();
  await back();
  // Without a tap.
  await settled(page);
  await page.getByText('The server cannot be reached.', { exact: false }).first().waitFor({ state: 'detached' });
  const { clip: now } = await app.client.get<{ clip: Clip }>(`/clips/${clip.id}`);
  expect(now.steps.find((s) => s.kind === 'saturation')!.params.amount).not.toBe(1);
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await page.waitForFunction(
    () => document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset.showing === 'moving',
  );
  await page.getByRole('button', { name: 'Pause' }).click();
});

test('lists and pictures of the screens come back too, and a clip that could not be opened opens', async () => {
  await page.goto(app.running.address);
  await page.getByRole('link', { name: /Saltmark survey/ }).waitFor();
  let back = await away();
  await page.getByRole('link', { name: /Saltmark survey/ }).click();
  await page.getByText('The server cannot be reached.', { exact: false }).first().waitFor();
  await back();
  await page.getByRole('link', { name: /boat_shed_01/ }).waitFor();
  await page.waitForFunction(() => Array.from(document.images).some((i) => i.complete && i.naturalWidth > 0));
  expect(await pictures()).toBeGreaterThan(0);

  back = await away();
  await page.getByRole('link', { name: /boat_shed_01/ }).click();
  await page.getByText('This clip cannot be opened').waitFor();
  await back();
  await settled(page);
});
