import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { measure } from '@inkavo/core/scopes/statistics';
import { restFrame } from '@inkavo/media/frames/rest';
import { sourceOf } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import {
  dragBy,
  openTestApp,
  screenPicture,
  settled,
  tapPicture,
  textOf,
  type TestApp,
  takeFromShelf,
} from './testApp';
import { patchError, patchesOf } from './truth';

/** Device pixels per CSS pixel, as on a phone. */
const SCALE = 2;

let app: TestApp;
let page: Page;
beforeAll(async () => {
  app = await openTestApp();
  page = await app.page(SIZES.phone, SCALE);
});
afterAll(() => app.close());

const step = (kind: string) => page.getByTestId(`step-${kind}`);
const percentOf = async (name: string): Promise<number> =>
  Number(await page.getByRole('slider', { name }).getAttribute('aria-valuenow'));

/** Scrolls down until a clip's tile is rendered: the list only renders those near the screen. */
const scrollTo = (name: string): Promise<unknown> =>
  until(
    async () => {
      const drawn = await page.getByRole('link', { name: new RegExp(name) }).count();
      if (!drawn) await page.mouse.wheel(0, 300);
      return drawn;
    },
    (drawn) => drawn === 1,
  );

test('the clips come in from the card', async () => {
  // The demo in its initial state: nothing is imported yet.
  await app.client.post('/demo', { load: false });
  await page.goto(app.running.address);
  await page.getByRole('link', { name: /Saltmark survey/ }).tap();
  await page.getByRole('button', { name: 'Bring in clips' }).tap();
  await page.getByRole('button', { name: /^Bring in \d/ }).tap();
  await page.getByRole('link', { name: /boat_shed_01/ }).waitFor();
  // The whole card, which has more clips if the demo was started before: over a minute and a half on a busy machine.
  await page.getByRole('region', { name: 'Coming in' }).waitFor({ state: 'detached', timeout: 500_000 });
  await page.mouse.move(200, 500);
  for (const name of ['boat_shed_01', 'mooring_block_02', 'paddle_out_07', 'channel_east_03']) await scrollTo(name);
});

test('the log clip: converted and balanced on the grey card, the screen shows the truth', async () => {
  await page.getByRole('link', { name: /channel_east_03/ }).tap();
  await settled(page);
  await page.getByTestId('reading').getByText('flat').waitFor();
  await page.getByRole('button', { name: 'Mend with convert' }).tap();
  await page.getByRole('button', { name: /Change it/ }).tap();
  await takeFromShelf(page, 'Drone log, 10 bit');
  await step('balance').tap();
  await page.getByRole('button', { name: 'Pick neutral' }).tap();
  const grey = patchesOf('QUADCOPTER', 15).find((p) => p.name === 'grey card')!;
  await tapPicture(page, grey.x + grey.width / 2, grey.y + grey.height / 2);
  await page.getByText(/Balanced on a light of \d+\sK/).waitFor();
  await page.getByRole('button', { name: 'Close the reading' }).tap();
  // To frame 15, where the patches' positions are known.
  for (let i = 0; i < 3; i += 1) await page.getByRole('button', { name: 'One frame on' }).tap();
  expect(await textOf(page.getByTestId('time'))).toContain('0:00.15');
  await settled(page);
  const error = patchError(await screenPicture(page), patchesOf('QUADCOPTER', 15));
  console.log(`log clip on the screen against the truth: CIEDE2000 mean ${error.toFixed(2)}`);
  expect(error).toBeLessThanOrEqual(2);
});

test('the range: the bottom of the trace is pulled down and stays where it is let go', async () => {
  await step('range').tap();
  const [before, box] = [
    await percentOf('Shadows on the waveform'),
    (await page.getByTestId('waveform').boundingBox())!,
  ];
  // The trace spans −10 % to 112 %.
  const target = 2;
  await dragBy(
    page,
    page.getByRole('slider', { name: 'Shadows on the waveform' }),
    0,
    ((before - target) / 122) * box.height,
  );
  await settled(page);
  const landed = await percentOf('Shadows on the waveform');
  console.log(`the bottom, let go at ${target} %, stands at ${landed} %`);
  expect(Math.abs(landed - target)).toBeLessThanOrEqual(0.5);
  expect(await step('range').innerText()).not.toContain('neutral');
});

test('saturation by the ruler, typed on the keypad, undone and redone', async () => {
  await step('saturation').tap();
  await dragBy(page, page.getByRole('slider', { name: 'Saturation', exact: true }), -60, 0);
  expect(await textOf(page.getByTestId('value-amount'))).not.toBe('×1.00');
  await page.getByRole('slider', { name: 'Saturation', exact: true }).tap();
  for (const key of ['1', '.', '2']) await page.getByRole('button', { name: key, exact: true }).tap();
  await page.getByRole('button', { name: 'Set', exact: true }).tap();
  expect(await textOf(page.getByTestId('value-amount'))).toBe('×1.20');
  await page.getByRole('button', { name: 'Undo' }).tap();
  expect(await textOf(page.getByTestId('value-amount'))).not.toBe('×1.20');
  await page.getByRole('button', { name: 'Redo' }).tap();
  expect(await textOf(page.getByTestId('value-amount'))).toBe('×1.20');
  await settled(page);
});

test('held, the picture is the untouched one; let go, it is the graded one', async () => {
  const graded = await screenPicture(page);
  const box = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.move(box.x + 60, box.y + 60);
  await page.mouse.down();
  await page.getByText('As recorded').waitFor();
  const untouched = await screenPicture(page);
  await page.mouse.up();
  await page.getByText('As recorded').waitFor({ state: 'detached' });
  expect(Buffer.compare(untouched.rgb, graded.rgb)).not.toBe(0);
  expect(Buffer.compare((await screenPicture(page)).rgb, graded.rgb)).toBe(0);
});

test('it plays through the grade and stops at a frame', async () => {
  await page.getByRole('button', { name: 'Play' }).tap();
  await page.waitForFunction(() => !document.querySelector('[data-testid=time]')!.textContent!.startsWith('0:00.15'));
  await page.getByRole('button', { name: 'Pause' }).tap();
  await settled(page);
});

test('out is set, the clip exported, and the file is what was seen', async () => {
  await page.getByTestId('scrub').tap({ position: { x: 60, y: 20 } });
  await page.getByRole('button', { name: 'Set out to this frame' }).tap();
  await settled(page);
  const [low, high] = [await percentOf('Shadows on the waveform'), await percentOf('Highlights on the waveform')];
  const frame = Number(await page.getByTestId('scrub').getAttribute('aria-valuenow'));
  await page.getByRole('button', { name: 'More', exact: true }).tap();
  await page.getByRole('button', { name: 'Export this clip' }).tap();
  await page.getByRole('radio', { name: /H.265, 10\sbit/ }).tap();
  await page.getByRole('button', { name: 'Export', exact: true }).tap();
  await page.getByTestId('export-running').waitFor();
  await page.getByTestId('export-done').waitFor({ timeout: 500_000 });
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: /Save/ }).tap()]);
  expect(download.suggestedFilename()).toBe('channel_east_03.mp4');
  const file = join(app.data, 'got.mp4');
  await download.saveAs(file);
  const source = await sourceOf(file);
  expect(source.facts).toMatchObject({
    codec: 'hevc',
    width: 3840,
    height: 2160,
    depth: 10,
    frames: frame + 1,
    audio: { codec: 'aac' },
    tags: { matrix: 'bt709' },
  });
  // Downscaled as the frame at rest is: noise and glint of single pixels reach further at full size.
  const rgb = pictureToRgb(undefined, await restFrame(source, frame, SIZES.phone.width * SCALE));
  const { luma } = measure(rgb, rgb, { low: -Infinity, high: Infinity });
  console.log(
    `on the scope ${low} … ${high} %, in the file ${(luma.low * 100).toFixed(1)} … ${(luma.high * 100).toFixed(1)} %`,
  );
  expect(Math.abs(luma.low * 100 - low)).toBeLessThan(1);
  expect(Math.abs(luma.high * 100 - Math.min(100, high))).toBeLessThan(1);
});
