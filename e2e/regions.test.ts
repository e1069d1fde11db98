import type { Page } from 'playwright-core';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { newStep, type Step } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { PROFILES } from '@inkavo/core/model/profile';
import { matteFunction } from '@inkavo/core/regions/matte';
import type { Region } from '@inkavo/core/regions/region';
import { shapeSchema } from '@inkavo/core/regions/shape';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { dragPicture, keptSteps, openTestApp, screenPicture, settled, takeStep, textOf, type TestApp } from './testApp';
import { cpuFrame, shareOffCpu } from './offCpu';
import { THREE_MOVING } from './regionGrade';
import { patchesOf } from './truth';

let app: TestApp;
let page: Page;
let clips: Record<string, Clip>;
const convert = newStep('convert', 'convert', {
  profile: PROFILES.find((p) => p.name === 'Drone log, 10 bit'),
  rollOff: 0.85,
});

beforeAll(async () => {
  app = await openTestApp();
  clips = await app.clips('channel_east_03', 'mooring_block_02');
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

const drone = (): Clip => clips.channel_east_03;
async function openWith(on: Page, clip: Clip, steps: Step[]): Promise<void> {
  await app.client.setSteps(clip.id, { clip: steps });
  await on.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(on);
}
const regionOf = async (clip: Clip): Promise<Region> =>
  (await keptSteps(app.client, clip.id)).find((s) => s.kind === 'region')!.params as unknown as Region;
const poseOf = async (clip: Clip) => (await regionOf(clip)).shapes[0].keys[0];
const drag = async (on: Page, from: readonly [number, number], to: readonly [number, number]): Promise<void> => {
  await dragPicture(on, from, to);
  await settled(on);
};

/** Position on the page of a point of the picture (shares of its size). */
async function pixelOf(on: Page, x: number, y: number): Promise<[number, number]> {
  const box = (await on.getByTestId('picture').boundingBox())!;
  return [box.x + x * box.width, box.y + y * box.height];
}

test('a sky is made darker by a gradient, by touch: where it acts is said, the ground stays as it was', async () => {
  await openWith(page, drone(), [convert, newStep('range', 'range')]);
  await takeStep(page, 'range');
  const before = await screenPicture(page);
  await page.getByRole('button', { name: 'Acts everywhere: change where' }).tap();
  await page.getByRole('button', { name: 'New region: Gradient' }).tap();
  await page.getByTestId('region-outline').waitFor();
  await page
    .getByTestId('step-range')
    .getByText(/^Gradient/)
    .waitFor();
  await page.getByRole('button', { name: 'Done: back to the step' }).tap();
  await page.getByRole('radio', { name: 'Light', exact: true }).tap();
  const exposure = page.getByTestId('tray').getByRole('slider', { name: 'Exposure' });
  await exposure.focus();
  for (let i = 0; i < 2; i += 1) await page.keyboard.press('PageDown');
  await settled(page);
  const mean = (p: typeof before, top: number, bottom: number): number => {
    const [from, to] = [top, bottom].map((v) => 3 * p.width * Math.round(v * p.height));
    return p.rgb.subarray(from, to).reduce((a, b) => a + b, 0) / (to - from);
  };
  const after = await until(
    () => screenPicture(page),
    (p) => mean(p, 0, 0.2) < mean(before, 0, 0.2) - 5,
  );
  expect(Math.abs(mean(after, 0.85, 1) - mean(before, 0.85, 1))).toBeLessThan(0.5);
  expect(await shareOffCpu(app, page, drone(), 1)).toBeLessThan(0.001);
});

describe.each(['phone', 'tablet', 'wide'] as const)('on a %s', (size) => {
  test('the nearest hand follows a drag that begins anywhere, and says what it does', async () => {
    const own = await app.page(SIZES[size]);
    await openWith(own, drone(), [convert, newStep('range', 'range', { exposure: -1 })]);
    await takeStep(own, 'range');
    await own.getByRole('button', { name: 'Acts everywhere: change where' }).click();
    await own.getByRole('button', { name: 'New region: Ellipse' }).click();
    await settled(own);
    const made = await poseOf(drone());
    // From the right edge of the frame: the nearest handle is the width, far from the finger.
    await drag(own, [0.97, 0.5], [0.87, 0.5]);
    const narrow = await poseOf(drone());
    expect(narrow.width).toBeLessThan(made.width - 0.1);
    expect([narrow.x, narrow.y, narrow.height]).toEqual([made.x, made.y, made.height]);
    // At its centre: the whole shape.
    await drag(own, [0.5, 0.5], [0.4, 0.6]);
    const moved = await poseOf(drone());
    expect(moved.x).toBeLessThan(made.x - 0.07);
    expect(moved.width).toBe(narrow.width);
    // The feather shows its width while it is dragged.
    const box = (await own.getByTestId('picture').boundingBox())!;
    await own.mouse.move(box.x + 8, box.y + 0.6 * box.height);
    await own.mouse.down();
    await own.mouse.move(box.x + 0.02 * box.width - 20, box.y + 0.6 * box.height, { steps: 4 });
    await own
      .getByTestId('hand-text')
      .getByText(/^soft over \d+ px$/)
      .waitFor();
    await own.mouse.up();
    await settled(own);
    expect((await poseOf(drone())).feather).toBeGreaterThan(made.feather);
    expect(await shareOffCpu(app, own, drone(), 1)).toBeLessThan(0.001);
    await own.context().close();
  });
});

test('the keyboard moves it too, and undo takes one move back', async () => {
  const own = await app.page(SIZES.wide);
  await openWith(own, drone(), [convert, newStep('range', 'range', { exposure: -1 })]);
  await takeStep(own, 'range');
  await own.getByRole('button', { name: 'Acts everywhere: change where' }).press('Enter');
  await own.getByRole('button', { name: 'New region: Rectangle' }).press('Enter');
  await settled(own);
  const made = await poseOf(drone());
  await own.getByRole('slider', { name: 'Width of the rectangle' }).focus();
  await own.keyboard.press('ArrowRight');
  await settled(own);
  expect((await poseOf(drone())).width).toBeCloseTo(made.width + 0.02, 6);
  await own.keyboard.press('Control+z');
  await settled(own);
  expect((await poseOf(drone())).width).toBe(made.width);
  await own.context().close();
});

test('what is not chosen is hatched, on the screen alone', async () => {
  const oval = shapeSchema.parse({
    id: 'e',
    kind: 'ellipse',
    keys: [{ seconds: 0, x: 0.5, y: 0.28, width: 0.5, height: 0.4 }],
  });
  const own = await app.page(SIZES.phone);
  await openWith(own, drone(), [
    newStep('region', 'place', { shapes: [oval] }),
    convert,
    { ...newStep('range', 'range'), region: 'place' },
  ]);
  await takeStep(own, 'range');
  await own.getByRole('button', { name: /^Place and change/ }).click();
  const before = await screenPicture(own);
  await own.getByRole('button', { name: 'Hatch what is not chosen' }).click();
  await own.waitForTimeout(500);
  await settled(own);
  const { width, height, rgb } = await screenPicture(own);
  const changed = (x: number, y: number): number => {
    let n = 0;
    for (let j = -9; j < 9; j += 1)
      for (let i = -9; i < 9; i += 1) {
        const o = 3 * ((Math.round(y * height) + j) * width + Math.round(x * width) + i);
        if (Math.abs(rgb[o] - before.rgb[o]) > 20) n += 1;
      }
    return n / 18 ** 2;
  };
  expect(changed(0.5, 0.5)).toBe(0);
  // Fine lines: they do not cover everything, and no colour is added.
  expect(changed(0.1, 0.1)).toBeGreaterThan(0.1);
  expect(changed(0.1, 0.1)).toBeLessThan(0.5);
  await own.context().close();
});

test('scopes and readings are of the region alone when asked', async () => {
  const clip = drone();
  const own = await app.page(SIZES.wide);
  // The lower right corner: land, no sky.
  const low = shapeSchema.parse({
    id: 'low',
    kind: 'rectangle',
    keys: [{ seconds: 0, x: 0.5, y: 0.53, width: 1.2, height: 0.06, round: 0, feather: 0 }],
  });
  await openWith(own, clip, [
    newStep('region', 'place', { shapes: [low] }),
    convert,
    { ...newStep('range', 'range'), region: 'place' },
  ]);
  await takeStep(own, 'range');
  const range = own.getByTestId('reading').getByText(/Shadows at|Black at|highlights|white/i);
  await range.waitFor();
  const ofFrame = await textOf(own.getByTestId('reading'));
  await own.getByRole('button', { name: /^Place and change/ }).click();
  await own.getByRole('button', { name: /^More about/ }).click();
  await own.getByRole('radio', { name: 'This region' }).click();
  await own.getByRole('button', { name: 'Close' }).click();
  await own
    .getByTestId('reading')
    .getByText(/^In the region: /)
    .waitFor();
  await settled(own);
  await until(
    () => textOf(own.getByTestId('reading')),
    (now) => !now.endsWith(ofFrame),
  );
  const said = await textOf(own.getByTestId('reading'));
  console.log(`of the frame: ${ofFrame} of the region: ${said}`);
  // The CPU backend's result for those rows: their highest luma is the one in the sentence.
  const frame = await cpuFrame(app, clip, 740, [convert]);
  const lumas: number[] = [];
  for (let y = Math.ceil(0.895 * frame.height); y < 0.99 * frame.height; y += 1)
    for (let x = 0; x < frame.width; x += 1) {
      const o = 3 * (y * frame.width + x);
      lumas.push(0.2126 * frame.rgb[o] + 0.7152 * frame.rgb[o + 1] + 0.0722 * frame.rgb[o + 2]);
    }
  lumas.sort((a, b) => a - b);
  const high = 100 * lumas[Math.floor(0.995 * lumas.length)];
  const numbers = said.match(/\d+(?=\s%)/g)!.map(Number);
  expect(Math.min(...numbers.map((n) => Math.abs(n - high)))).toBeLessThan(3);
  await own.context().close();
});

test('two picks choose a patch: 99 % of it, and under 1 % of the others', async () => {
  // The patches' positions are known for some frames.
  await app.client.ask('PATCH', `/clips/${drone().id}`, { referenceFrame: 15 });
  const clip = { ...drone(), referenceFrame: 15 };
  const places = patchesOf('QUADCOPTER', 15);
  const leaf = places.find((p) => p.name === 'leaf')!;
  const own = await app.page(SIZES.wide);
  await openWith(own, clip, [convert, newStep('saturation', 'saturation')]);
  await takeStep(own, 'saturation');
  await own.getByRole('button', { name: 'Acts everywhere: change where' }).click();
  await own.getByRole('button', { name: 'New region: By colour' }).click();
  await own.getByText('Where it acts').waitFor({ state: 'detached' });
  await own.getByText('Tap a colour to choose, or drag over it').waitFor();
  const at = (u: number, v: number): [number, number] => [leaf.x + u * leaf.width, leaf.y + v * leaf.height];
  await drag(own, at(0.1, 0.2), at(0.9, 0.8));
  await own
    .getByRole('button', { name: /^Chosen: / })
    .first()
    .waitFor();
  await settled(own);
  await own.mouse.click(...(await pixelOf(own, ...at(0.5, 0.5))));
  await own
    .getByRole('button', { name: /^Chosen: / })
    .nth(1)
    .waitFor();
  await settled(own);
  const { matte } = await regionOf(clip);
  expect(matte!.like!.picks).toHaveLength(2);
  const share = matteFunction(matte!);
  const frame = await cpuFrame(app, clip, 1920, [convert]);
  const chosen = ({ x, y, width, height }: (typeof places)[number]): number => {
    let [n, all] = [0, 0];
    for (let row = Math.ceil(y * frame.height); row < (y + height) * frame.height - 1; row += 1)
      for (let col = Math.ceil(x * frame.width); col < (x + width) * frame.width - 1; col += 1, all += 1)
        n += share([0, 1, 2].map((c) => frame.rgb[3 * (row * frame.width + col) + c]) as Vec3);
    return n / all;
  };
  const others = places.filter((p) => p !== leaf).map(chosen);
  console.log(
    `chosen: ${(100 * chosen(leaf)).toFixed(1)} % of the patch, ${others.map((v) => (100 * v).toFixed(2)).join(', ')} % of the others`,
  );
  expect(chosen(leaf)).toBeGreaterThan(0.99);
  expect(Math.max(...others)).toBeLessThan(0.01);
  // A tap removes a swatch.
  await own
    .getByRole('button', { name: /^Chosen: / })
    .nth(1)
    .click();
  await settled(own);
  expect((await regionOf(clip)).matte!.like!.picks).toHaveLength(1);
  await own.context().close();
});

test('specks and holes go by one ruler, as the CPU backend says, and readings of the region know it', async () => {
  const clip = clips.mooring_block_02;
  const own = await app.page(SIZES.phone);
  const darker = (): Step => ({ ...newStep('range', 'range', { exposure: -1.5 }), region: 'bright' });
  await openWith(own, clip, [
    newStep('region', 'bright', { matte: { lightness: { low: 0.42, high: 1, soft: 0.01 } } }),
    darker(),
  ]);
  await takeStep(own, 'range');
  await own.getByRole('button', { name: /^Place and change/ }).tap();
  /** Share of all pixels that differ much from both neighbours. */
  const lonely = async (): Promise<number> => {
    const { width, rgb } = await screenPicture(own);
    let n = 0;
    for (let i = 3; i < rgb.length - 3; i += 3) {
      if ((i / 3) % width < 1 || (i / 3) % width > width - 2) continue;
      const [left, here, right] = [rgb[i - 2], rgb[i + 1], rgb[i + 4]];
      if (Math.min(Math.abs(here - left), Math.abs(here - right)) > 25 && here > left === here > right) n += 1;
    }
    return (3 * n) / rgb.length;
  };
  const before = await lonely();
  const ruler = own.getByRole('slider', { name: 'Clean up' });
  await ruler.focus();
  await own.keyboard.press('PageUp');
  await settled(own);
  expect((await regionOf(clip)).clean).toBeCloseTo(0.01, 6);
  const after = await lonely();
  console.log(`lonely pixels: ${(100 * before).toFixed(3)} % before, ${(100 * after).toFixed(3)} % after`);
  expect(before).toBeGreaterThan(0.001);
  expect(after).toBeLessThan(before / 2);
  expect(await shareOffCpu(app, own, clip, 1)).toBeLessThan(0.002);
  await own.getByRole('button', { name: /^More about/ }).tap();
  await own.getByRole('radio', { name: 'This region' }).tap();
  await own.getByRole('button', { name: 'Close' }).tap();
  await own
    .getByTestId('reading')
    .getByText(/^In the region: /)
    .waitFor();
  await own.context().close();
});

test('a low sun is painted: a soft ellipse of the bright is warmer, the land as it was, the edge darker', async () => {
  const own = await app.page(SIZES.wide);
  const clip = drone();
  const { referenceFrame } = clip;
  await app.client.ask('PATCH', `/clips/${clip.id}`, { referenceFrame });
  await openWith(own, clip, [convert, newStep('balance', 'balance')]);
  const before = await screenPicture(own);
  await takeStep(own, 'balance');
  await own.getByRole('button', { name: 'Acts everywhere: change where' }).click();
  await own.getByRole('button', { name: 'New region: Ellipse' }).click();
  // Up and to the left, and wide and soft.
  await drag(own, [0.5, 0.5], [0.2, 0.2]);
  await drag(own, [0.6, 0.2], [0.75, 0.2]);
  await own.getByRole('radio', { name: 'Lightness' }).click();
  await own.getByRole('radio', { name: 'bright', exact: true }).click();
  await own.getByRole('button', { name: 'Done: back to the step' }).click();
  const warmer = own
    .getByTestId('tray')
    .getByRole('slider', { name: /Kelvin|Temperature|White/ })
    .first();
  await warmer.focus();
  for (let i = 0; i < 3; i += 1) await own.keyboard.press('PageUp');
  await own.getByRole('button', { name: 'Add a step' }).click();
  await own.getByRole('button', { name: /^Corners/ }).click();
  await own.getByTestId('tray').getByRole('slider', { name: 'Corners' }).focus();
  for (let i = 0; i < 4; i += 1) await own.keyboard.press('PageDown');
  await settled(own);
  /** Means around a position: a single pixel may be a glint. */
  const at = (p: typeof before, x: number, y: number): number[] => {
    const [left, top] = [Math.round(x * p.width) - 10, Math.round(y * p.height) - 10];
    const sum = [0, 0, 0];
    for (let i = 0; i < 400; i += 1)
      for (let c = 0; c < 3; c += 1) sum[c] += p.rgb[3 * ((top + Math.floor(i / 20)) * p.width + left + (i % 20)) + c];
    return sum.map((v) => v / 400);
  };
  // A new shader may be linked later than its drawing is reported.
  const after = await until(
    () => screenPicture(own),
    (p) => at(p, 0.98, 0.97)[1] < at(before, 0.98, 0.97)[1] - 8,
  );
  const warmth = (p: typeof before, x: number, y: number): number => at(p, x, y)[0] - at(p, x, y)[2];
  expect(warmth(after, 0.2, 0.3)).toBeGreaterThan(warmth(before, 0.2, 0.3) + 5);
  // Dark land below is not bright, and distant parts are not in the ellipse.
  expect(Math.abs(warmth(after, 0.6, 0.75) - warmth(before, 0.6, 0.75))).toBeLessThan(6);
  expect(await shareOffCpu(app, own, clip, 2)).toBeLessThan(0.01);
  await own.context().close();
});

test('copied into another clip, steps bring their region along', async () => {
  const own = await app.page(SIZES.phone);
  await openWith(own, clips.mooring_block_02, []);
  await openWith(own, drone(), [THREE_MOVING[0], convert, THREE_MOVING[5]]);
  await own.getByRole('button', { name: 'Copy and paste steps' }).click();
  await own.getByRole('button', { name: /^Copy \d steps|^Copy Range/ }).click();
  await own.goto(`${app.running.address}/clip/${clips.mooring_block_02.id}`);
  await settled(own);
  await own.getByRole('button', { name: 'Copy and paste steps' }).click();
  await own.getByRole('button', { name: /^Paste: / }).click();
  await settled(own);
  const steps = await keptSteps(app.client, clips.mooring_block_02.id);
  const region = steps.find((s) => s.kind === 'region')!;
  expect(region.params).toMatchObject({ shapes: [{ kind: 'ellipse', keys: [{ x: 0.3 }, { x: 0.6 }] }] });
  expect(steps.find((s) => s.kind === 'range')).toMatchObject({ region: region.id });
  await own.context().close();
});
