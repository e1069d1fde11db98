import type { Locator, Page } from 'playwright-core';
import { keptSteps, openTestApp, settled, textOf, type TestApp } from './testApp';

/** A phone in landscape, with the bars of its browser visible. */
const SIDEWAYS = { width: 844, height: 342 };
/** In portrait, also with bars. */
const SHORT = { width: 390, height: 664 };

let app: TestApp;
let page: Page;
let clipId: string;
beforeAll(async () => {
  app = await openTestApp();
  const { boat_shed_01: clip } = await app.clips('boat_shed_01');
  clipId = clip.id;
  page = await app.page(SIDEWAYS);
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
});
afterAll(() => app.close());

const inSight = async (locator: Locator): Promise<boolean> => {
  const box = (await locator.boundingBox())!;
  const window = page.viewportSize()!;
  const at = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  if (at.y >= window.height || at.x >= window.width || box.y + box.height > window.height + 1) return false;
  // The element that a finger touches at a position.
  return locator.evaluate((own, { x, y }) => own.contains(document.elementFromPoint(x, y)), at);
};

/** Moves one finger over the page. */
async function swipe(from: { x: number; y: number }, dx: number, dy: number): Promise<void> {
  const session = await page.context().newCDPSession(page);
  const touch = (type: 'touchStart' | 'touchMove', share: number): Promise<unknown> =>
    session.send('Input.dispatchTouchEvent', {
      type,
      touchPoints: [{ x: from.x + share * dx, y: from.y + share * dy }],
    });
  await touch('touchStart', 0);
  for (let k = 1; k <= 10; k += 1) await touch('touchMove', k / 10);
  await session.send('Input.dispatchTouchEvent', { type: 'touchEnd', touchPoints: [] });
  await session.detach();
}

const middle = async (locator: Locator): Promise<{ x: number; y: number }> => {
  const box = (await locator.boundingBox())!;
  return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
};

test('held sideways, picture, trace, steps, numbers and the place in the clip are all there', async () => {
  await page.getByTestId('step-range').tap();
  for (const control of [
    page.getByTestId('picture'),
    page.getByTestId('scrub'),
    page.getByTestId('step-range'),
    page.getByRole('button', { name: 'Play', exact: true }),
    page.getByRole('slider', { name: 'Black point' }),
  ])
    expect([String(control), await inSight(control)]).toEqual([String(control), true]);
  expect(await page.evaluate(() => document.scrollingElement!.scrollHeight <= window.innerHeight)).toBe(true);
});

test('numbers that have no room are reached by a finger that moves up over them, which changes none', async () => {
  const last = page.getByRole('slider', { name: 'Soft ends' });
  expect(await inSight(last)).toBe(false);
  const before = await keptSteps(app.client, clipId);
  await swipe(await middle(page.getByRole('slider', { name: 'Black point' })), 0, -120);
  expect(await inSight(last)).toBe(true);
  await settled(page);
  expect(await keptSteps(app.client, clipId)).toEqual(before);
  // Moved sideways it is set, as everywhere.
  await swipe(await middle(last), -60, 0);
  expect(await textOf(page.getByTestId('value-soft'))).not.toBe('0.0 %');
  await settled(page);
});

test('turned upright the clip stays open as it was', async () => {
  const canvas = await page.getByTestId('picture').elementHandle();
  await page.setViewportSize(SHORT);
  await settled(page);
  expect(await canvas!.evaluate((own) => own.isConnected)).toBe(true);
  for (const control of [page.getByTestId('scrub'), page.getByRole('button', { name: 'Play', exact: true })])
    expect(await inSight(control)).toBe(true);
  expect((await page.getByTestId('picture').boundingBox())!.height).toBeGreaterThanOrEqual(140);
  await page.setViewportSize(SIDEWAYS);
  await settled(page);
  expect(await canvas!.evaluate((own) => own.isConnected)).toBe(true);
});
