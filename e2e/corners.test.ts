import type { Page } from 'playwright-core';
import { cornerGain } from '@inkavo/demo/camera';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { PROFILES } from '@inkavo/core/model/profile';
import { bt709 } from '@inkavo/core/colour/transfer';
import { sceneOf } from '@inkavo/demo/scenes';
import { SIZES } from './browser';
import { keptSteps, openHouse, settled, type House } from './house';
import { cpuFrame, shareOffCpu } from './offCpu';

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
  const share = await shareOffCpu(house, page, clip, 2);
  console.log(`corners: GPU more than 2 from CPU at ${(100 * share).toFixed(4)} % of values`);
  expect(share).toBeLessThan(0.001);
});

test('the light that the camera’s lens took from the corners is back to within two in a hundred', async () => {
  const { camera } = sceneOf('paddle_out_07.mp4');
  const steps = await keptSteps(house.client, clip.id);
  const before = await cpuFrame(
    house,
    clip,
    960,
    steps.filter((s) => s.kind === 'convert'),
  );
  const after = await cpuFrame(house, clip, 960, steps);
  const { width, height } = before;
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
    const given = bt709.decode(after.rgb[at]) / bt709.decode(before.rgb[at]);
    // What the made-up camera did to light at this place.
    const taken = cornerGain(camera, (x + 0.5) / width, (y + 0.5) / height, width / height);
    worst = Math.max(worst, Math.abs(given * taken - 1));
  }
  console.log(`corners: at most ${(100 * worst).toFixed(2)} % left`);
  expect(worst).toBeLessThan(0.02);
});
