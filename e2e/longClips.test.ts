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

test('a long clip can be worked on while its proxy is made: how far it is, its frames, a first pass, and why it does not play', async () => {
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
  const play = page.getByRole('button', { name: 'Play', exact: true });
  // It says that it is not to be had yet, and answers all the same.
  await play.tap({ force: true });
  await page.getByText(/The proxy of this clip is being made: \d+\s%.* can be looked at and worked on now\./).waitFor();

  await page.getByRole('button', { name: 'First pass' }).tap();
  await page.getByRole('progressbar', { name: 'Reading the clip' }).waitFor();
  await page.getByText('Reading the whole clip …').waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'Close' }).tap();

  await page.getByRole('progressbar', { name: 'Making the proxy' }).waitFor({ state: 'detached' });
  await play.tap();
  await page.waitForFunction(
    () => document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset.showing === 'moving',
  );
  await page.getByRole('button', { name: 'Pause' }).tap();
});
