import type { Page } from 'playwright-core';
import type { Clip } from '@inkavo/core/model/outing';
import { SIZES } from './browser';
import { openTestApp, openStep, settled, takeStep, textOf, type TestApp } from './testApp';

let app: TestApp;
let clip: Clip;
beforeAll(async () => {
  app = await openTestApp();
  clip = (await app.clips('boat_shed_01')).boat_shed_01;
});
afterAll(() => app.close());

const button = (page: Page, name: string | RegExp) =>
  page.getByRole('button', { name, exact: typeof name === 'string' });
const dialog = (page: Page, title: string) => page.getByRole('dialog', { name: title });
const path = (page: Page): string => new URL(page.url()).pathname;
/** Waits until the page is at a path: history changes take effect asynchronously. */
const at = (page: Page, wanted: string) => page.waitForURL((url) => url.pathname === wanted);

describe.each(Object.entries(SIZES))('on a %s', (_name, size) => {
  let page: Page;
  beforeAll(async () => {
    page = await app.page(size);
    await page.goto(app.running.address);
    await page.getByRole('link', { name: /Saltmark survey/ }).click();
    await page.getByRole('link', { name: /boat_shed_01/ }).click();
    await settled(page);
  });
  afterAll(async () => {
    await page.context().close();
  });

  test('Back closes what lies over the screen, the topmost first, and only then leaves it', async () => {
    await button(page, 'More').click();
    await dialog(page, clip.name).waitFor();
    await page.goBack();
    await dialog(page, clip.name).waitFor({ state: 'detached' });
    expect(path(page)).toBe(`/clip/${clip.id}`);

    // A keypad over a sheet.
    await openStep(page, 'range');
    const strength = dialog(page, 'Range').getByRole('slider', { name: 'Strength' });
    await strength.click();
    await dialog(page, 'Strength').waitFor();
    await page.goBack();
    await dialog(page, 'Strength').waitFor({ state: 'detached' });
    await dialog(page, 'Range').waitFor();
    await page.goBack();
    await dialog(page, 'Range').waitFor({ state: 'detached' });
    expect(path(page)).toBe(`/clip/${clip.id}`);

    // Closed by its button, a sheet leaves no extra Back.
    await button(page, 'Compare and check').click();
    await button(page, 'Close').click();
    await page.goBack();
    await at(page, `/outing/${clip.outingId}`);
    await page.goBack();
    await at(page, '/');
    await page.goForward();
    await at(page, `/outing/${clip.outingId}`);
    await page.getByRole('link', { name: /boat_shed_01/ }).click();
    await settled(page);
  });

  test('the arrow goes where one came from, and Back does not bounce', async () => {
    await button(page, 'Back to the outing').click();
    await at(page, `/outing/${clip.outingId}`);
    await button(page, 'All outings').click();
    await at(page, '/');
    await button(page, 'Exports').click();
    await at(page, '/exports');
    await button(page, 'Back').click();
    await at(page, '/');
    await page.getByRole('link', { name: /Saltmark survey/ }).click();
    await page.getByRole('link', { name: /boat_shed_01/ }).click();
    await settled(page);
    // From a sheet of the bench to the exports and back: to the bench, not to the start.
    if (size.width >= 1000) await button(page, 'Export').click();
    else {
      await button(page, 'More').click();
      await button(page, 'Export this clip').click();
    }
    await dialog(page, 'Export this clip').getByRole('button', { name: 'Export', exact: true }).click();
    await at(page, '/exports');
    await button(page, 'Back').click();
    await at(page, `/clip/${clip.id}`);
    await settled(page);
    await page.goBack();
    await at(page, `/outing/${clip.outingId}`);
    await page.getByRole('link', { name: /boat_shed_01/ }).click();
    await settled(page);
  });
});

describe('on a phone', () => {
  let page: Page;
  beforeAll(async () => {
    page = await app.page(SIZES.phone);
  });

  test('titles name the screen', async () => {
    for (const [to, title] of [
      ['/', 'Outings'],
      [`/outing/${clip.outingId}`, 'Saltmark survey'],
      [`/clip/${clip.id}`, clip.name],
      ['/exports', 'Exports'],
      ['/nowhere/at/all', 'Nothing here'],
    ]) {
      await page.goto(app.running.address + to);
      await page.waitForFunction((t) => document.title === `${t} · Inkavo`, title);
    }
  });

  test('an address that leads nowhere, and a clip that is gone, have a way on', async () => {
    await page.goto(`${app.running.address}/nowhere/at/all`);
    await page.getByText('There is no page at this address').waitFor();
    await button(page, 'Go to the outings').click();
    await at(page, '/');
    await page.goto(`${app.running.address}/clip/none`);
    await page.getByText('This clip is not here any more.').waitFor();
    await button(page, 'Go to the outings').click();
    await at(page, '/');
  });

  test('place, step in hand and scope are as they were left, by clip', async () => {
    await page.goto(`${app.running.address}/clip/${clip.id}`);
    await settled(page);
    await takeStep(page, 'saturation');
    await page.getByRole('button', { name: 'Luma: show the next view' }).click();
    await page.getByTestId('scrub').focus();
    await page.keyboard.press('End');
    const frame = await page.getByTestId('scrub').getAttribute('aria-valuenow');
    expect(frame).toBe(String(clip.facts.frames - 1));
    await page.reload();
    await settled(page);
    expect(await page.getByTestId('scrub').getAttribute('aria-valuenow')).toBe(frame);
    expect(await page.getByTestId('step-saturation').getAttribute('aria-pressed')).toBe('true');
    await page.getByRole('button', { name: 'Red, green, blue: show the next view' }).waitFor();
  });

  test('a drag that is not over when the page goes is settled, and can be undone after the reload', async () => {
    await page.goto(`${app.running.address}/clip/${clip.id}`);
    await settled(page);
    await takeStep(page, 'saturation');
    const value = () => textOf(page.getByTestId('value-amount'));
    const before = await value();
    const box = (await page.getByRole('slider', { name: 'Saturation' }).boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height - 6);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2 + 40, box.y + box.height - 6, { steps: 5 });
    const during = await value();
    expect(during).not.toBe(before);
    await page.reload();
    await page.mouse.up();
    await settled(page);
    expect(await value()).toBe(during);
    await button(page, 'Undo').click();
    expect(await value()).toBe(before);
  });

  test('a screen that breaks says so, and the way on works', async () => {
    page = await app.page(SIZES.phone, 1, false);
    await page.route('**/api/outings', (route) => route.fulfill({ json: [{ id: 'x' }] }));
    await page.goto(app.running.address);
    await page.getByText('This screen does not work').waitFor();
    await page.unroute('**/api/outings');
    await button(page, 'Try again').click();
    await page.getByRole('link', { name: /Saltmark survey/ }).waitFor();
  });
});

test('a sheet that was open when the page was loaded anew costs no extra Back', async () => {
  const page = await app.page(SIZES.phone);
  await page.goto(`${app.running.address}/exports`);
  await page.goto(app.running.address);
  await button(page, /^Removed/).click();
  await page.getByText('Nothing was removed').waitFor();
  await page.reload();
  await button(page, /^Removed/).waitFor();
  await page.evaluate(() => history.back());
  await at(page, '/exports');
  await page.context().close();
});
