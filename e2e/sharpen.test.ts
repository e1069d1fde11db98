import type { Page } from 'playwright-core';
import { newStep, type Step } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { shapeSchema } from '@inkavo/core/regions/shape';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { keptSteps, openTestApp, screenPicture, settled, splitInHalf, takeStep, type TestApp } from './testApp';
import { exportedFrame } from './exported';
import { cpuFrame, shareOffCpu } from './offCpu';

let app: TestApp;
let clip: Clip;

beforeAll(async () => {
  app = await openTestApp();
  ({ mooring_block_02: clip } = await app.clips('mooring_block_02'));
});
afterAll(() => app.close());

const sharpen = (id: string, px: number, amount: number): Step => newStep('sharpen', id, { amount, radius: px / 1920 });
const oval = shapeSchema.parse({
  id: 'e',
  kind: 'ellipse',
  keys: [{ seconds: 0, x: 0.5, y: 0.28, width: 0.5, height: 0.4, feather: 0.1 }],
});
const water = newStep('water', 'water', { depth: 5, veilRed: 0.1, veilGreen: 0.4, veilBlue: 0.45, distance: 1 });
const GRADES: Record<string, Step[]> = {
  'between two tables': [
    newStep('range', 'range', { contrast: 1.15 }),
    sharpen('sharp', 1.5, 1.5),
    newStep('saturation', 'saturation', { amount: 1.2 }),
  ],
  'twice, and in a region by colour without specks': [
    newStep('region', 'place', {
      shapes: [oval],
      matte: { lightness: { low: 0.3, high: 1, soft: 0.2 } },
      clean: 0.01,
    }),
    water,
    sharpen('fine', 0.8, 1),
    { ...sharpen('coarse', 3, 0.8), region: 'place' },
    { ...newStep('range', 'range', { exposure: 0.3 }), region: 'place' },
  ],
};

async function openWith(page: Page, steps: Step[]): Promise<void> {
  await app.client.setSteps(clip.id, { clip: steps });
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
}

test.each(Object.entries(GRADES))(
  '%s: pixel by pixel the screen is what the CPU backend makes',
  async (_name, steps) => {
    const page = await app.page({ width: 2480, height: 1800 });
    await openWith(page, steps);
    expect((await screenPicture(page)).width).toBe(clip.facts.width);
    const share = await until(
      () => shareOffCpu(app, page, clip, 1),
      (off) => off < 0.001,
    );
    console.log(`sharpened: GPU more than 1 from CPU at ${(100 * share).toFixed(4)} % of values`);
    await page.context().close();
  },
);

test('by touch: added, too fine for the whole picture and said so, seen pixel by pixel, and the same in the export', async () => {
  const page = await app.page(SIZES.phone, 2);
  await openWith(page, [newStep('range', 'range', { contrast: 1.15 })]);
  await page.getByRole('button', { name: 'Add a step' }).tap();
  await page.getByRole('button', { name: /^Sharpen/ }).tap();
  const tray = page.getByTestId('tray');
  await tray.getByText('Too fine to be seen at this size.').waitFor();
  const amount = tray.getByRole('slider', { name: 'Sharpen' });
  await amount.focus();
  for (let i = 0; i < 6; i += 1) await page.keyboard.press('PageUp');
  await tray.getByRole('button', { name: 'Show a pixel of the file as one of the screen' }).tap();
  await tray.getByRole('button', { name: 'Show the whole picture' }).waitFor();
  expect(await tray.getByText('Too fine').count()).toBe(0);
  await settled(page);
  await page.waitForFunction(
    () => document.querySelector<HTMLElement>('[data-testid=picture]')!.dataset.showing === 'detail',
  );
  const steps = await keptSteps(app.client, clip.id);
  expect(steps[1]).toMatchObject({ kind: 'sharpen', params: { amount: 1.2 } });

  // The visible part around the centre, by the CPU backend with the step and without.
  const { width, height } = await screenPicture(page);
  const share = width / clip.facts.width;
  const [left, top] = [clip.facts.width, clip.facts.height].map((all) => Math.round((all * (1 - share)) / 2));
  const apart = async (by: Step[]): Promise<number> => {
    const cpu = await cpuFrame(app, clip, clip.facts.width, by);
    const { rgb } = await screenPicture(page);
    let off = 0;
    for (let y = 0; y < height; y += 1)
      for (let x = 0; x < width; x += 1) {
        const to = cpu.rgb[3 * ((top + y) * cpu.width + left + x) + 1];
        if (Math.abs(255 * Math.min(1, Math.max(0, to)) - rgb[3 * (y * width + x) + 1]) > 1.5) off += 1;
      }
    return off / (width * height);
  };
  // Without a GPU a drawing may arrive much later.
  const withStep = await until(
    () => apart(steps),
    (off) => off < 0.001,
  );
  const without = await apart(steps.slice(0, 1));
  console.log(
    `magnified: more than 1 from the CPU at ${(100 * withStep).toFixed(3)} % of pixels, without the step ${(100 * without).toFixed(1)} %`,
  );
  expect(without).toBeGreaterThan(0.2);

  const exported = await exportedFrame(app, clip);
  const cpu = await cpuFrame(app, clip, clip.facts.width, steps);
  let off = 0;
  for (let i = 0; i < exported.y.length; i += 1) {
    const [r, g, b] = [0, 1, 2].map((c) => Math.min(1, Math.max(0, cpu.rgb[3 * i + c])));
    const luma = (16 + 219 * (0.2126 * r + 0.7152 * g + 0.0722 * b)) * 2 ** (exported.format.depth - 8);
    if (Math.abs(luma - exported.y[i]) > 2) off += 1;
  }
  console.log(`export: luma more than 2 from the CPU at ${((100 * off) / exported.y.length).toFixed(4)} % of pixels`);
  expect(off / exported.y.length).toBeLessThan(0.001);
  await page.context().close();
});

test('what a region leaves out is hatched through all passes', async () => {
  const page = await app.page(SIZES.phone);
  const steps = GRADES['twice, and in a region by colour without specks'];
  await openWith(page, steps);
  const whole = await screenPicture(page);
  await takeStep(page, 'range');
  await page.getByRole('button', { name: /^Place and change/ }).tap();
  await page.getByRole('button', { name: 'Hatch what is not chosen' }).tap();
  await page.waitForTimeout(500);
  await settled(page);
  const changed = (hatched: typeof whole, x: number, y: number): boolean => {
    const o = 3 * (Math.round(y * whole.height) * whole.width + Math.round(x * whole.width));
    return [0, 1, 2, 3, 4, 5, 6, 7, 8].some((i) => Math.abs(hatched.rgb[o + 3 * i] - whole.rgb[o + 3 * i]) > 20);
  };
  await until(
    () => screenPicture(page),
    (hatched) => [0.03, 0.9].every((x) => changed(hatched, x, 0.06)),
  );
  await page.context().close();
});

test('a split leaves the sharpened half as it was, and shows the other as recorded', async () => {
  const page = await app.page(SIZES.phone);
  const steps = GRADES['twice, and in a region by colour without specks'];
  await openWith(page, steps);
  const graded = await screenPicture(page);
  await splitInHalf(page);
  await settled(page);
  /** The largest difference to another picture between two shares of the width. */
  const off = (
    split: typeof graded,
    from: number,
    to: number,
    other: Float32Array | Uint8Array,
    scale: number,
  ): number => {
    let most = 0;
    for (let y = 0; y < split.height; y += 1)
      for (let x = Math.ceil(from * split.width); x < to * split.width; x += 1)
        for (let c = 0; c < 3; c += 1) {
          const o = 3 * (y * split.width + x) + c;
          const wanted = Math.min(255, Math.max(0, scale * other[o]));
          most = Math.max(most, Math.abs(wanted - split.rgb[o]));
        }
    return most;
  };
  const recorded = await cpuFrame(app, clip, graded.width, []);
  await until(
    () => screenPicture(page),
    (split) => off(split, 0, 0.45, recorded.rgb, 255) < 1.5 && off(split, 0.55, 1, graded.rgb, 1) === 0,
  );
  await page.context().close();
});
