import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { make, QUICK_H264, workFolder } from '@inkavo/media/testClips';
import { SIZES } from './browser';
import { openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
beforeAll(async () => {
  app = await openTestApp();
  const { boat_shed_01: clip } = await app.clips('boat_shed_01');
  page = await app.page(SIZES.phone);
  await page.goto(`${app.running.address}/outing/${clip.outingId}`);
});
afterAll(() => app.close());

test('a long clip can be worked on while its proxy is made: how far it is, its frames, a first pass, playing from where one is', async () => {
  const path = join(workFolder(), 'long.mp4');
  make(path, 'testsrc2=size=640x360:rate=60:duration=120', [...QUICK_H264, '-g', '60', '-crf', '35']);
  await page.getByText('boat_shed_01.mp4').waitFor();
  await page.getByRole('button', { name: 'Bring in', exact: true }).tap();
  await page.getByTestId('file-input').setInputFiles(path);
  await page.getByRole('button', { name: /^Bring in 1 ·/ }).tap();

  const making = page.getByRole('progressbar', { name: 'Making the proxy long.mp4' });
  await making.waitFor();
  await page.waitForFunction((bar) => Number(bar!.getAttribute('aria-valuenow')) > 0, await making.elementHandle());
  await page.getByRole('link', { name: /long\.mp4/ }).tap();
  await settled(page);
  const strip = page.getByTestId('scrub').locator('img');
  await page.waitForFunction(
    (img) => ((img as HTMLImageElement | null)?.naturalWidth ?? 0) > 0,
    await strip.elementHandle(),
  );
  await page.getByRole('progressbar', { name: 'Making the proxy' }).waitFor();
  await page.getByRole('button', { name: 'First pass' }).tap();
  await page.getByRole('progressbar', { name: 'Reading the clip' }).waitFor();
  await page.getByText('Reading the whole clip …').waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'Close' }).tap();

  // Most of the proxy is still to be made, and parts that the user wants to see are made first.
  const scrub = page.getByTestId('scrub');
  const box = (await scrub.boundingBox())!;
  await page.touchscreen.tap(box.x + 0.7 * box.width, box.y + box.height / 2);
  const frame = async (): Promise<number> => Number(await scrub.getAttribute('aria-valuenow'));
  const from = await frame();
  await page.getByRole('button', { name: 'Play', exact: true }).tap();
  await page.waitForFunction(
    () => document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset.showing === 'moving',
  );
  await expectMoves(from);
  expect(await page.getByRole('progressbar', { name: 'Making the proxy' }).isVisible()).toBe(true);
  const missing = page.getByRole('status', { name: 'Waiting for this part of the proxy to be made' });

  // Once the proxy is complete it continues from its position; at the end it starts over.
  const jumps = await scrub.evaluateHandle((bar) => {
    const seen: [number, number][] = [];
    let last = Number(bar.getAttribute('aria-valuenow'));
    new MutationObserver(() => {
      const now = Number(bar.getAttribute('aria-valuenow'));
      if (now < last - 30 && last < 7200 - 120) seen.push([last, now]);
      last = now;
    }).observe(bar, { attributeFilter: ['aria-valuenow'] });
    return seen;
  });
  await page.getByRole('progressbar', { name: 'Making the proxy' }).waitFor({ state: 'detached' });
  await missing.waitFor({ state: 'detached' });
  await expectMoves(await frame());
  expect(await jumps.jsonValue()).toEqual([]);
  await page.getByRole('button', { name: 'Pause' }).tap();

  // A pixel of the strip is 20 frames; with the finger far above it, half a frame.
  const [x, y] = [box.x + 0.4 * box.width, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x, y - 300, { steps: 4 });
  await page.getByText(/^\d+×\sfiner$/).waitFor();
  const held = await frame();
  await page.mouse.move(x + 40, y - 300, { steps: 4 });
  await page.mouse.up();
  await page.waitForFunction(
    ([bar, at]) => Math.abs(Number((bar as Element).getAttribute('aria-valuenow')) - Number(at) - 20) <= 1,
    [await scrub.elementHandle(), held] as const,
  );

  // To the frame, by number.
  await page.getByTestId('time').tap();
  await page.getByLabel('Frame shown').fill('1:12.34');
  await page.getByLabel('Frame shown').press('Enter');
  await page.getByLabel('In', { exact: true }).fill('0:30');
  await page.getByLabel('Out', { exact: true }).fill('sometime');
  await page.getByLabel('Out', { exact: true }).press('Enter');
  await page.getByText('“sometime” is no time').waitFor();
  await page.getByText('Kept 1:30.00 of 2:00.00').waitFor();
  await page.getByRole('button', { name: 'Close' }).tap();
  expect(await frame()).toBe(72 * 60 + 34);

  async function expectMoves(since: number): Promise<void> {
    await page.waitForFunction(
      ([bar, at]) => {
        const moved = (Number((bar as Element).getAttribute('aria-valuenow')) - Number(at) + 7200) % 7200;
        return moved > 30 && moved < 3600;
      },
      [await scrub.elementHandle(), since] as const,
    );
  }
});

test('of a long clip of which little is kept, the strip shows that part: handles, scrubbing and keyframes go by it', async () => {
  const scrub = page.getByTestId('scrub');
  await page.getByTestId('time').tap();
  const type = async (label: string, text: string): Promise<void> => {
    await page.getByLabel(label, { exact: true }).fill(text);
    await page.getByLabel(label, { exact: true }).press('Enter');
  };
  await type('Out', '1:40');
  await type('In', '1:30');
  await page.getByRole('radio', { name: 'What is kept' }).tap();
  await page.getByRole('button', { name: 'Close' }).tap();
  // It includes a tenth of a minute on either side: ten seconds with a quarter of that as margin.
  const box = (await scrub.boundingBox())!;
  const [y, rate] = [box.y + box.height / 2, 60];
  await page.touchscreen.tap(box.x + box.width / 2, y);
  const frame = async (): Promise<number> => Number(await scrub.getAttribute('aria-valuenow'));
  expect(Math.abs((await frame()) - 95 * rate)).toBeLessThan(8);
  await page.touchscreen.tap(box.x + 2, y);
  expect(Math.abs((await frame()) - 87.5 * rate)).toBeLessThan(12);
  const handle = (await page.getByTestId('trim-in').boundingBox())!;
  expect(Math.abs(handle.x + 30 - (box.x + box.width / 6))).toBeLessThan(4);
  await page.waitForFunction(
    (img) => /first=5250&last=6150$/.test((img as HTMLImageElement).src) && (img as HTMLImageElement).naturalWidth > 0,
    await scrub.locator('img').elementHandle(),
  );

  // After going elsewhere by number the whole clip is on the strip again.
  await page.getByTestId('time').tap();
  await type('Frame shown', '0:10');
  await page.getByRole('button', { name: 'Close' }).tap();
  await page.touchscreen.tap(box.x + box.width / 2, y);
  expect(Math.abs((await frame()) - 60 * rate)).toBeLessThan(30);
});
