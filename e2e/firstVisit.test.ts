import type { Page } from 'playwright-core';
import { SIZES } from './browser';
import { dragBy, openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let clipId: string;
beforeAll(async () => {
  app = await openTestApp();
  clipId = (await app.clips('paddle_out_07')).paddle_out_07.id;
});
afterAll(() => app.close());

const hint = (page: Page, name: string) => page.getByTestId(`hint-${name}`);

test.each([
  ['phone', SIZES.phone],
  ['tablet', SIZES.tablet],
] as const)(
  'three hints on a %s: each goes at its first use, they come one by one, and again from the help',
  async (_n, size) => {
    const page = await app.page(size);
    await page.addInitScript(() => {
      if (localStorage.getItem('inkavo-hints')?.includes('hold')) localStorage.setItem('inkavo-hints', '[]');
    });
    await page.goto(`${app.running.address}/clip/${clipId}`);
    await settled(page);
    await hint(page, 'trace').waitFor();
    expect(await page.getByRole('note').count()).toBe(1);
    // It covers the trace without taking its touches.
    await dragBy(page, page.getByRole('slider', { name: 'Midtones on the waveform' }), 0, 12);
    await hint(page, 'trace').waitFor({ state: 'detached' });
    await hint(page, 'chips').waitFor();
    await page.getByTestId('step-saturation').click();
    await hint(page, 'chips').waitFor({ state: 'detached' });
    await hint(page, 'hold').waitFor();
    const box = (await page.getByTestId('picture').boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 3);
    await page.mouse.down();
    await page.getByText('As recorded', { exact: true }).waitFor();
    await page.mouse.up();
    await hint(page, 'hold').waitFor({ state: 'detached' });
    expect(await page.getByRole('note').count()).toBe(0);
    await page.getByRole('button', { name: 'More', exact: true }).click();
    await page.getByRole('button', { name: 'Help: fingers and keys' }).click();
    await page.getByRole('button', { name: 'Show the hints again' }).click();
    await hint(page, 'trace').waitFor();
    await page.getByRole('button', { name: 'Close this hint' }).click();
    await hint(page, 'chips').waitFor();
    // Offered steps are being looked at: no hint covers them.
    await page.getByRole('button', { name: /First pass/ }).click();
    await page.getByText('As offered', { exact: true }).waitFor();
    expect(await page.getByRole('note').count()).toBe(0);
    await page.getByRole('button', { name: 'Close', exact: true }).click();
    await hint(page, 'chips').waitFor();
  },
);
