import type { Page } from 'playwright-core';
import { cornerGain } from '@inkavo/demo/camera';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { PROFILES } from '@inkavo/core/model/profile';
import { bt709 } from '@inkavo/core/colour/transfer';
import { bakeFor, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { compile } from '@inkavo/core/program/compile';
import { sceneOf } from '@inkavo/demo/scenes';
import { restFrame } from '@inkavo/media/frames/rest';
import { SIZES } from './browser';
import { keptSteps, openHouse, screenPicture, settled, type House } from './house';

let house: House;
let page: Page;
let clip: Clip;
beforeAll(async () => {
  house = await openHouse();
  clip = (await house.clips('paddle_out_07')).paddle_out_07;
  page = await house.page(SIZES.phone);
  const profile = PROFILES.find((p) => p.name === 'Action camera flat');
  await house.client.setSteps(clip.id, { clip: [newStep('convert', 'convert', { profile })] });
  await page.goto(`${house.running.address}/clip/${clip.id}`);
  await settled(page);
}, 120_000);
afterAll(() => house.close());

const restOf = async (width: number) => {
  const { parts } = house.running;
  const source = await parts.clips.source(clip, parts.library.original(clip.hash));
  return restFrame(source, clip.referenceFrame, width);
};

/** Types a number of the step in hand on its keypad. */
async function type(name: string, text: string): Promise<void> {
  await page.getByTestId('tray').getByRole('slider', { name }).focus();
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => document.activeElement instanceof HTMLInputElement);
  await page.keyboard.press('Control+A');
  await page.keyboard.type(text);
  await page.keyboard.press('Enter');
  await page.getByRole('dialog').waitFor({ state: 'detached' });
}

test('the step is added, set by its rulers, and the screen shows what the CPU backend makes of the frame', async () => {
  await page.getByRole('button', { name: 'Add a step' }).click();
  await page.getByRole('button', { name: /^Corners/ }).click();
  await type('Corners', '45');
  await type('Begins late', '1');
  await page.getByTestId('step-corners').getByText('45 % lighter').waitFor();
  await settled(page);
  const { width, height, rgb } = await screenPicture(page);
  const rest = await restOf(width);
  const cpu = pictureToRgb(bakeFor(compile(await keptSteps(house.client, clip.id), 0), rest, 65), rest);
  let beyond = 0;
  for (let i = 0; i < width * height * 3; i += 1)
    if (Math.abs(Math.round(255 * Math.min(1, Math.max(0, cpu[i]))) - rgb[i]) > 2) beyond += 1;
  const share = beyond / (width * height * 3);
  console.log(`corners: GPU more than 2 from CPU at ${(100 * share).toFixed(4)} % of values`);
  expect(share).toBeLessThan(0.001);
});

test('the light that the camera’s lens took from the corners is back to within two in a hundred', async () => {
  const { camera } = sceneOf('paddle_out_07.mp4');
  const steps = await keptSteps(house.client, clip.id);
  const rest = await restOf(960);
  const { width, height } = rest.format;
  const table = (list: typeof steps) => pictureToRgb(bakeFor(compile(list, 0), rest, 65), rest);
  const [before, after] = [table(steps.filter((s) => s.kind === 'convert')), table(steps)];
  let worst = 0;
  for (const [x, y] of [
    [2, 2],
    [width - 3, 2],
    [2, height - 3],
    [width - 3, height - 3],
    [width >> 1, 4],
    [4, height >> 1],
    [width >> 1, height >> 1],
  ]) {
    const at = 3 * (y * width + x) + 1;
    const given = bt709.decode(after[at]) / bt709.decode(before[at]);
    // What the made-up camera did to light at this place.
    const taken = cornerGain(camera, (x + 0.5) / width, (y + 0.5) / height, width / height);
    worst = Math.max(worst, Math.abs(given * taken - 1));
  }
  console.log(`corners: at most ${(100 * worst).toFixed(2)} % left`);
  expect(worst).toBeLessThan(0.02);
});
