import type { Page } from 'playwright-core';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import { manyClips } from '@inkavo/server/manyClips';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { openTestApp, openStep, settled, takeStep, type TestApp } from './testApp';

const COUNT = 300;
let app: TestApp;
let page: Page;
let outing: Outing;

beforeAll(async () => {
  app = await openTestApp();
  const { boat_shed_01: model } = await app.clips('boat_shed_01');
  outing = await manyClips(app, model, COUNT);
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

const tiles = (on: Page) => on.locator('[data-index] a[href^="/clip/"]');
const boxes = (on: Page) => on.getByRole('checkbox');

test('three hundred clips: an answer that is small, tiles at once, few of them in the page, no long task in scrolling', async () => {
  const answer = await fetch(`${app.running.address}/api/outings/${outing.id}`);
  const bytes = (await answer.arrayBuffer()).byteLength;
  expect(bytes).toBeLessThan(300_000);
  await page.goto(app.running.address);
  await page.getByText('Long day').waitFor();
  // The page is idle, as when somebody looks at it.
  await page.evaluate(() => new Promise((done) => requestIdleCallback(done)));
  const began = Date.now();
  await page.getByText('Long day').tap();
  await tiles(page).first().waitFor();
  const shown = Date.now() - began;
  await page.locator('[data-index] img').first().waitFor();
  expect(await tiles(page).count()).toBeLessThan(40);
  await page.evaluate(() => {
    const long: number[] = [];
    (window as unknown as { long: number[] }).long = long;
    new PerformanceObserver((list) => list.getEntries().forEach((e) => long.push(e.duration))).observe({
      type: 'longtask',
    });
  });
  await page.mouse.move(200, 500);
  for (let i = 0; i < 40; i += 1) {
    await page.mouse.wheel(0, 600);
    await page.waitForTimeout(16);
  }
  const long = await page.evaluate(() => (window as unknown as { long: number[] }).long);
  console.log(
    `outing of ${COUNT}: ${(bytes / 1000).toFixed(0)} KB, first tile after ${shown} ms, tasks over 50 ms in scrolling: ${long.map((d) => d.toFixed(0)).join(', ') || 'none'}`,
  );
  // The requirement is a second and no task over 50 ms; here other tests may run in parallel.
  expect(shown).toBeLessThan(5000);
  expect(Math.max(0, ...long)).toBeLessThan(400);
  expect(await tiles(page).count()).toBeLessThan(60);
});

test('they are searched, filtered by state, and chosen by range and all at once', async () => {
  const wide = await app.page(SIZES.wide);
  const asked: string[] = [];
  wide.on('request', (r) => r.url().endsWith(`/api/outings/${outing.id}`) && asked.push(r.url()));
  await wide.goto(`${app.running.address}/outing/${outing.id}`);
  await wide.getByLabel('Search clips').fill('mast 01');
  await wide.getByText('4 of 300 clips').waitFor();
  // The list was fetched once: the event stream was opened before.
  expect(asked.length).toBe(1);
  await wide.getByRole('button', { name: 'Choose several clips' }).click();
  await boxes(wide).first().click();
  await boxes(wide)
    .nth(2)
    .click({ modifiers: ['Shift'] });
  await wide.getByRole('heading', { name: '3 chosen' }).waitFor();
  // Keys do what a tap does.
  await boxes(wide).nth(3).focus();
  await wide.keyboard.press('Enter');
  await wide.getByRole('heading', { name: '4 chosen' }).waitFor();
  await wide.keyboard.press('Space');
  await wide.getByRole('heading', { name: '3 chosen' }).waitFor();
  await wide.getByRole('button', { name: 'With them …' }).click();
  await wide.getByRole('button', { name: 'Checked: these are done' }).click();
  await wide.getByRole('button', { name: 'Show all' }).click();
  await wide.getByRole('button', { name: /^How clips are shown/ }).click();
  await wide.getByRole('radio', { name: /^Checked/ }).click();
  await wide.getByText('3 of 300 clips').waitFor();
  expect(await tiles(wide).count()).toBe(3);
  await wide.getByRole('button', { name: /^Undo/ }).first().click();
  await wide.getByText('0 of 300 clips').waitFor();
  await wide.getByRole('button', { name: 'Show all' }).click();
  await wide.getByRole('button', { name: 'Choose several clips' }).click();
  await wide.getByRole('button', { name: 'Choose all that are shown' }).click();
  await wide.getByRole('heading', { name: '300 chosen' }).waitFor();
  await wide.context().close();
});

test('a step of a camera is seen on its tiles, those in sight first; they come from the disk when asked again', async () => {
  await page.goto(`${app.running.address}/outing/${outing.id}`);
  const first = tiles(page).first().locator('img').first();
  const before = await first.getAttribute('src');
  const id = (await tiles(page).first().getAttribute('href'))!.split('/').pop()!;
  const dark = newStep('range', 'dark', { exposure: -3 });
  const began = Date.now();
  await app.client.setSteps(id, { camera: [dark] });
  await until(
    () => first.getAttribute('src'),
    (src) => src !== before,
  );
  const mean = (): Promise<number> =>
    first.evaluate(async (img: HTMLImageElement) => {
      await img.decode();
      const canvas = new OffscreenCanvas(32, 18);
      const context = canvas.getContext('2d')!;
      context.drawImage(img, 0, 0, 32, 18);
      return context.getImageData(0, 0, 32, 18).data.reduce((a, b) => a + b, 0) / (32 * 18 * 4);
    });
  await until(mean, (m) => m < 120);
  const seen = Date.now() - began;
  const { clips } = await app.client.get<{ clips: Pick<Clip, 'id'>[] }>(`/outings/${outing.id}`);
  const url = `${app.running.address}/api/clips/${clips[0].id}/thumb.jpg?width=480&graded=1&v=x`;
  const again = async (): Promise<number> => {
    const start = performance.now();
    const res = await fetch(url);
    await res.arrayBuffer();
    expect(res.headers.get('cache-control')).toContain('immutable');
    return performance.now() - start;
  };
  const [cold, warm] = [await again(), await again()];
  console.log(
    `camera step seen on its tile after ${seen} ms; thumbnail ${cold.toFixed(0)} ms, then ${warm.toFixed(0)} ms`,
  );
  expect(seen).toBeLessThan(30_000);
});

test('a step of a camera that is changed on one clip says how many follow; made only here it changes nobody else, and is tied again', async () => {
  const bench = await app.page(SIZES.phone);
  const own = newStep('saturation', 'shared', { amount: 1 });
  const kept = (id: string) =>
    app.client.get<{ clip: Clip; camera: { steps: { params: { amount?: number } }[] } }>(`/clips/${id}`);
  await app.client.setSteps('many-0', { camera: [own] });
  await bench.goto(`${app.running.address}/clip/many-0`);
  await settled(bench);
  await takeStep(bench, 'shared');
  await bench
    .getByRole('button', { name: /^Saturation: more/ })
    .first()
    .tap();
  await bench.getByText('Saturation: It is the camera’s: 99 other clips follow.').waitFor();
  await bench.getByRole('button', { name: 'Only here' }).tap();
  const loose = await until(
    () => kept('many-0'),
    ({ clip }) => clip.overrides.shared?.params !== undefined,
  );
  expect(loose.camera.steps[0].params.amount).toBe(1);
  expect(loose.clip.overrides.shared.params!.amount).toBeGreaterThan(1);
  await bench.getByText(/^only here/).waitFor();
  // Further changes affect only this clip.
  await bench
    .getByRole('button', { name: /^Saturation: more/ })
    .first()
    .tap();
  await until(
    () => kept('many-0'),
    ({ clip }) =>
      (clip.overrides.shared.params!.amount as number) > (loose.clip.overrides.shared.params!.amount as number),
  );
  expect((await kept('many-3')).camera.steps[0].params.amount).toBe(1);
  await openStep(bench, 'shared');
  await bench.getByRole('button', { name: 'Tie it again: as for the others' }).tap();
  await until(
    () => kept('many-0'),
    ({ clip }) => Object.keys(clip.overrides).length === 0,
  );
  await bench.context().close();
});
