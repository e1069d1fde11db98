import { execFileSync } from 'node:child_process';
import { join, resolve } from 'node:path';
import type { Page } from 'playwright-core';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { QUIET } from '@inkavo/media/codec/run';
import { QUICK_H264, workFolder } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { sendFile } from '@inkavo/server/testUploads';
import { SIZES } from './browser';
import { keptSteps, openTestApp, screenPicture, settled, splitInHalf, type TestApp } from './testApp';
import { exportedFrame, lumaOff } from './exported';

let app: TestApp;
let clip: Clip;

beforeAll(async () => {
  app = await openTestApp();
  ({ channel_east_03: clip } = await app.clips('channel_east_03'));
});
afterAll(() => app.close());

/** Difference of green from pixel to pixel, relative to the mean of both neighbours: nearly all of it is noise. */
async function grain(page: Page): Promise<number> {
  const { width, rgb } = await screenPicture(page);
  let sum = 0;
  let count = 0;
  for (let i = 3; i + 6 < rgb.length; i += 3) {
    const x = (i / 3) % width;
    if (x === 0 || x === width - 1) continue;
    sum += Math.abs(rgb[i + 1] - (rgb[i - 2] + rgb[i + 4]) / 2);
    count += 1;
  }
  return sum / count;
}

/**
 * {@link grain} of the file's own pixels; undefined while a coarser picture is shown, or if another one has arrived.
 */
async function grainOfDetail(page: Page): Promise<number | undefined> {
  const shown = (): Promise<string> =>
    page.getByTestId('picture').evaluate(({ dataset }: HTMLElement) => `${dataset.showing} ${dataset.drawn}`);
  const before = await shown();
  const found = await grain(page);
  return before.startsWith('detail') && (await shown()) === before ? found : undefined;
}

type Shown = Awaited<ReturnType<typeof screenPicture>>;

/** Whether two pictures are equal between two shares of their width. */
function alike(a: Shown, b: Shown, from: number, to: number): boolean {
  for (let y = 0; y < a.height; y += 1) {
    const [first, last] = [from, to].map((share) => 3 * (y * a.width + Math.round(share * a.width)));
    if (Buffer.compare(a.rgb.subarray(first, last), b.rgb.subarray(first, last)) !== 0) return false;
  }
  return a.width === b.width;
}

test('by touch: added, seen pixel by pixel, held against the file, and the same in the export', async () => {
  const page = await app.page(SIZES.phone, 2);
  await app.client.setSteps(clip.id, { clip: [newStep('range', 'range')] });
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  await page.getByRole('button', { name: 'Add a step' }).tap();
  await page.getByRole('button', { name: /^Noise/ }).tap();
  const tray = page.getByTestId('tray');
  expect(await tray.getByRole('button', { name: /change where/ }).count()).toBe(0);
  await tray.getByRole('button', { name: 'Show a pixel of the file as one of the screen' }).tap();
  const detail = (): Promise<unknown> =>
    page.waitForFunction(
      () => document.querySelector<HTMLElement>('[data-testid=picture]')!.dataset.showing === 'detail',
    );
  await settled(page);
  await detail();
  const before = await grain(page);
  const asRecorded = await screenPicture(page);

  const amount = tray.getByRole('slider', { name: 'Reduce noise' });
  await amount.focus();
  for (let i = 0; i < 4; i += 1) await page.keyboard.press('PageUp');
  await tray.getByText('At rest and in exports.').waitFor();
  await settled(page);
  // A coarser picture, magnified, has no grain either: it is shown until the finer part of the new frame has arrived.
  const after = await until(
    () => grainOfDetail(page),
    (left) => left !== undefined && left < 0.85 * before,
  );
  console.log(`grain on the screen: ${before.toFixed(2)} as recorded, ${after!.toFixed(2)} with noise reduction`);
  const steps = await keptSteps(app.client, clip.id);
  // Before all other steps.
  expect(steps.map((s) => s.kind)).toEqual(['noise', 'range']);
  expect(steps[0].params.amount).toBeCloseTo(2, 6);

  // The screen shows what the file contains.
  const reduced = await screenPicture(page);
  const { width, height, rgb } = reduced;
  const share = width / clip.facts.width;
  const [left, top] = [clip.facts.width, clip.facts.height].map((all) => Math.round((all * (1 - share)) / 2));
  const exported = await exportedFrame(app, clip);
  const off = lumaOff(exported, rgb, { left, top, width, height });
  console.log(`at 100 %: luma more than 1 from the export at ${(100 * off).toFixed(4)} % of pixels`);
  expect(off).toBeLessThan(0.001);

  // Held, the picture shows the file, with its noise.
  const hold = page.getByTestId('picture');
  const box = (await hold.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.getByText('As recorded').waitFor();
  await until(
    () => grain(page),
    (seen) => Math.abs(seen - before) < 0.01 * before,
  );
  await page.mouse.up();
  await until(
    () => grain(page),
    (seen) => Math.abs(seen - after!) < 0.01 * after!,
  );

  // Either side of a split has its own frame.
  await splitInHalf(page);
  await until(
    () => screenPicture(page),
    (split) => alike(split, asRecorded, 0, 0.45) && alike(split, reduced, 0.55, 1) && !alike(split, reduced, 0, 0.45),
  );
  await page.context().close();
});

/** A clip of the demo's shed in dim light: noise varies from pixel to pixel and from frame to frame. */
async function grainy(): Promise<Clip> {
  const shed = resolve(__dirname, '../demo/footage/card/DCIM/BANK_CAMERA/boat_shed_01.mp4');
  const path = join(workFolder(), 'dim_shed.mp4');
  const noisy = ['-t', '1', '-vf', 'scale=1280:720,noise=alls=26:allf=t', '-an', ...QUICK_H264, '-qp', '12'];
  execFileSync('ffmpeg', [...QUIET, '-i', shed, ...noisy, path]);
  await sendFile(app.running.address, path, {
    filename: 'dim_shed.mp4',
    outing: clip.outingId,
    camera: 'Bank camera',
    kind: 'other',
  });
  const list = await until(
    () => app.client.clips(clip.outingId),
    (seen) => seen.some((c) => c.name.startsWith('dim_shed') && c.proxy === 'ready'),
  );
  return list.find((c) => c.name.startsWith('dim_shed'))!;
}

test('noise that is plainly seen: a first pass offers to take it out, its price with it; fine noise finds its limits', async () => {
  const dim = await grainy();
  const page = await app.page(SIZES.phone);
  await page.goto(`${app.running.address}/clip/${dim.id}`);
  await settled(page);
  await page.getByRole('button', { name: /First pass/ }).tap();
  const offer = page.getByRole('checkbox', {
    name: /^Noise: Noise of \d+\.\d of 255 in the light and .* several times/,
  });
  await offer.waitFor();
  // It takes time: it is not selected by default.
  expect(await offer.getAttribute('aria-checked')).toBe('false');
  await offer.tap();
  await page.getByRole('button', { name: /^Take/ }).tap();
  await settled(page);
  const kinds = (await keptSteps(app.client, dim.id)).map((s) => s.kind);
  expect(kinds[0]).toBe('noise');
  // Noise that is already reduced is not offered again.
  await page.getByRole('button', { name: /First pass/ }).tap();
  await page.getByText(/% sure\.$|^Nothing to mend/).waitFor();
  expect(await page.getByText('Measuring its noise …').count()).toBe(0);
  expect(await offer.count()).toBe(0);
  await page.getByRole('button', { name: 'Close' }).tap();
  await page.getByRole('button', { name: 'Undo' }).tap();
  await settled(page);

  await page.getByRole('button', { name: 'Add a step' }).tap();
  await page.getByRole('button', { name: /^Fine noise/ }).tap();
  await page.getByRole('button', { name: 'Find how strong the noise of this frame is' }).tap();
  const said = await page.getByText(/^Noise: \d+\.\d of 255 in the light and \d+\.\d in the colour/).innerText();
  const [light, colour] = said.match(/\d+\.\d/g)!.map(Number);
  await settled(page);
  const { params } = (await keptSteps(app.client, dim.id)).find((s) => s.kind === 'smooth')!;
  expect(255 * (params.luma as number)).toBeCloseTo(3 * light, 0);
  expect(255 * (params.colour as number)).toBeCloseTo(3 * colour, 0);
  expect(light).toBeGreaterThan(2);
  await page.context().close();
});
