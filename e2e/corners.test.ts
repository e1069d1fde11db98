import type { Page } from 'playwright-core';
import { cornerGain } from '@inkavo/demo/camera';
import { newStep, type Step } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { PROFILES } from '@inkavo/core/model/profile';
import { bt709 } from '@inkavo/core/colour/transfer';
import { sceneOf } from '@inkavo/demo/scenes';
import { SIZES } from './browser';
import { keptSteps, openTestApp, settled, takeStep, type TestApp } from './testApp';
import { cpuFrame, shareOffCpu } from './offCpu';

let app: TestApp;
let page: Page;
let clip: Clip;
beforeAll(async () => {
  app = await openTestApp();
  clip = (await app.clips('paddle_out_07')).paddle_out_07;
  page = await app.page(SIZES.phone);
  const profile = PROFILES.find((p) => p.name === 'Action camera flat');
  await app.client.setSteps(clip.id, { clip: [newStep('convert', 'convert', { profile })] });
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
});
afterAll(() => app.close());

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
  const share = await shareOffCpu(app, page, clip, 2);
  console.log(`corners: GPU more than 2 from CPU at ${(100 * share).toFixed(4)} % of values`);
  expect(share).toBeLessThan(0.001);
});

/** Starts the estimation of vignetting in the clip. */
const find = (): Promise<void> =>
  page
    .getByTestId('tray')
    .getByRole('button', { name: /^Find how dark/ })
    .tap();

/** The residual of the lens's falloff after steps, over corners, edges and centre: shares of the light. */
async function left(steps: Step[]): Promise<number[]> {
  const { camera } = sceneOf('paddle_out_07.mp4');
  const plain = steps.filter((s) => s.kind === 'convert');
  const before = await cpuFrame(app, clip, 960, plain);
  const after = await cpuFrame(app, clip, 960, steps);
  const { width, height } = before;
  return [
    [2, 2],
    [width - 3, 2],
    [2, height - 3],
    [width - 3, height - 3],
    [width >> 1, 4],
    [4, height >> 1],
    [width >> 1, height >> 1],
  ].map(([x, y]) => {
    const at = 3 * (y * width + x) + 1;
    const given = bt709.decode(after.rgb[at]) / bt709.decode(before.rgb[at]);
    // The synthetic camera's effect on light at this position.
    const taken = cornerGain(camera, (x + 0.5) / width, (y + 0.5) / height, width / height);
    return Math.abs(given * taken - 1);
  });
}

test('the light that the camera’s lens took from the corners is back to within two in a hundred', async () => {
  const worst = Math.max(...(await left(await keptSteps(app.client, clip.id))));
  console.log(`corners: at most ${(100 * worst).toFixed(2)} % left`);
  expect(worst).toBeLessThan(0.02);
});

test('it is found by itself, from what moves through the picture; one undo takes it back', async () => {
  await find();
  await page
    .getByTestId('tray')
    .getByText(/^\d+ ± \d+\s% dark, by \d+ places/)
    .waitFor();
  await settled(page);
  const steps = await keptSteps(app.client, clip.id);
  const { amount, begins } = steps.find((s) => s.kind === 'corners')!.params as { amount: number; begins: number };
  const parts = await left(steps);
  const corners = Math.max(...parts.slice(0, 4));
  console.log(
    `corners found: ${(100 * amount).toFixed(1)} % from ${begins.toFixed(2)}; in the corners at most ${(100 * corners).toFixed(2)} % left, elsewhere ${(100 * Math.max(...parts)).toFixed(2)} %`,
  );
  expect(corners).toBeLessThan(0.03);
  // This camera sways by only a twentieth of the width: less is known between centre and corner.
  expect(Math.max(...parts)).toBeLessThan(0.08);
  await page.getByRole('button', { name: 'Undo' }).tap();
  await page.getByTestId('step-corners').getByText('45 % lighter').waitFor();
  await settled(page);
  const back = (await keptSteps(app.client, clip.id)).find((s) => s.kind === 'corners')!.params;
  expect(back).toMatchObject({ amount: 0.45, begins: 1 });
});

test('a camera that stands still is told so, and nothing is changed', async () => {
  const { boat_shed_01: still } = await app.clips('boat_shed_01');
  await app.client.setSteps(still.id, { clip: [newStep('corners', 'corners', {})] });
  await page.goto(`${app.running.address}/clip/${still.id}`);
  await settled(page);
  await takeStep(page, 'corners');
  await find();
  await page
    .getByTestId('tray')
    .getByText(/^The camera hardly moves/)
    .waitFor();
  expect((await keptSteps(app.client, still.id))[0].params).toMatchObject({ amount: 0 });
});
