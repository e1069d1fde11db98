import type { Page } from 'playwright-core';
import { codeScale, rgbToYcbcr } from '@inkavo/core/colour/ycbcr';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { PROFILES } from '@inkavo/core/model/profile';
import { RowWriter, pictureBytes, planesOver, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { decodeFrame } from '@inkavo/media/frames/rest';
import { sourceOf } from '@inkavo/media/testClips';
import { exportedFrame } from './exported';
import { openTestApp, screenPicture, settled, type TestApp } from './testApp';

/** Large enough to show the picture of a 1920-wide clip pixel for pixel. */
const LARGE = { width: 2480, height: 1800 };
const FRAME = 36;

let app: TestApp;
let page: Page;
let clip: Clip;

beforeAll(async () => {
  app = await openTestApp();
  ({ paddle_out_07: clip } = await app.clips('paddle_out_07'));
  const steps = [
    newStep('convert', 'convert', { profile: PROFILES.find((p) => p.name === 'Action camera flat'), rollOff: 0.85 }),
    newStep('balance', 'balance', { kelvin: 9600, duv: 0.006 }),
    newStep('range', 'range', { black: -0.03, contrast: 1.15, soft: 0.04 }),
    newStep('saturation', 'saturation', { amount: 1.2, weak: 0.2 }),
  ];
  await app.client.setSteps(clip.id, { clip: steps });
  page = await app.page(LARGE);
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  expect(await page.getByTestId('scrub').getAttribute('aria-valuenow')).toBe(String(FRAME));
});
afterAll(() => app.close());

/** The screen's R'G'B' as the planes of a delivery of this clip. */
function asDelivered(rgb: Uint8Array, format: PlanarPicture['format']): PlanarPicture {
  const picture = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  const writer = new RowWriter(picture);
  const line = new Float32Array(format.width * 3);
  for (let y = 0; y < format.height; y += 1) {
    for (let i = 0; i < line.length; i += 1) line[i] = rgb[y * line.length + i] / 255;
    writer.write(y, line);
  }
  return picture;
}

const shareOff = (a: ArrayLike<number>, b: ArrayLike<number>, by: number): number => {
  let off = 0;
  for (let i = 0; i < a.length; i += 1) if (Math.abs(a[i] - b[i]) > by) off += 1;
  return off / a.length;
};

test('the picture on the screen is the picture in the export: a four-step grade, at most 1 apart at 99 % of pixels', async () => {
  const shown = await screenPicture(page);
  expect([shown.width, shown.height]).toEqual([1920, 1080]);
  const exported = await exportedFrame(app, clip, FRAME);
  const expected = asDelivered(shown.rgb, exported.format);
  const shares = (['y', 'cb', 'cr'] as const).map((plane) => shareOff(exported[plane], expected[plane], 1));
  console.log(
    `screen against export, share of samples more than 1 apart: ${shares.map((s) => `${(s * 100).toFixed(3)} %`).join(', ')}`,
  );
  shares.forEach((s) => expect(s).toBeLessThan(0.01));
});

test('glow and grain: the grain that the screen shows is that of the export, in two frames that differ', async () => {
  const finish = [
    newStep('glow', 'glow', { amount: 0.6, from: 0.5, reach: 0.04, warmth: 0.4 }),
    newStep('grain', 'grain', { amount: 0.05, size: 1.8 / 1920 }),
  ];
  const { steps } = (await app.client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip;
  await app.client.setSteps(clip.id, { clip: [...steps, ...finish] });
  const grained = await app.page(LARGE);
  // A software GPU takes many seconds to draw the glow of such a large frame.
  grained.setDefaultTimeout(90_000);
  await grained.goto(`${app.running.address}/clip/${clip.id}`);
  const seen: Uint8Array[] = [];
  for (const frame of [FRAME, FRAME + 1]) {
    if (frame > FRAME) await grained.getByRole('button', { name: 'One frame on' }).click();
    await settled(grained);
    const { rgb } = await screenPicture(grained);
    const exported = await exportedFrame(app, clip, frame);
    const expected = asDelivered(rgb, exported.format);
    const shares = (['y', 'cb', 'cr'] as const).map((plane) => shareOff(exported[plane], expected[plane], 1));
    console.log(
      `grain, frame ${frame}: ${shares.map((s) => `${(s * 100).toFixed(3)} %`).join(', ')} more than 1 apart`,
    );
    shares.forEach((s) => expect(s).toBeLessThan(0.01));
    seen.push(rgb);
  }
  // Another pattern in each frame: with the same one hardly a sample of this still scene would differ this much.
  expect(shareOff(seen[0], seen[1], 8)).toBeGreaterThan(0.3);
  await app.client.setSteps(clip.id, { clip: steps });
  await grained.context().close();
});

test('held, the screen shows the file as recorded: luma equal to the original’s', async () => {
  const box = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.move(box.x + 200, box.y + 200);
  await page.mouse.down();
  await page.getByText('As recorded').waitFor();
  const { rgb } = await screenPicture(page);
  await page.mouse.up();
  const original = await decodeFrame(await sourceOf(app.running.parts.library.original(clip.hash)), FRAME);
  const { yScale, yOffset } = codeScale(8, 'limited');
  const luma = Float32Array.from(
    original.y,
    (_, i) => rgbToYcbcr([rgb[3 * i] / 255, rgb[3 * i + 1] / 255, rgb[3 * i + 2] / 255], 'bt709')[0] * yScale + yOffset,
  );
  expect(shareOff(luma, original.y, 1)).toBeLessThan(0.001);
});

test('the moving picture looks like the one at rest', async () => {
  const rest = await screenPicture(page);
  // The proxy alone: requests for the original are blocked.
  await page.route('**/frame?*', (route) => route.abort());
  await page.getByRole('button', { name: 'One frame on' }).click();
  await page.getByRole('button', { name: 'One frame back' }).click();
  await page.waitForFunction(
    () => document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset.showing === 'moving',
  );
  await page.waitForTimeout(300);
  const moving = await screenPicture(page);
  let sum = 0;
  for (let i = 0; i < rest.rgb.length; i += 1) sum += rest.rgb[i] - moving.rgb[i];
  const mean = Math.abs(sum / rest.rgb.length);
  let apart = 0;
  for (let i = 0; i < rest.rgb.length; i += 1) apart += Math.abs(rest.rgb[i] - moving.rgb[i]);
  console.log(
    `proxy against original on the screen: mean ${mean.toFixed(2)} apart in brightness, ${(apart / rest.rgb.length).toFixed(2)} a sample (8 bit)`,
  );
  expect(mean).toBeLessThan(1.5);
  expect(apart / rest.rgb.length).toBeLessThan(6);
});
