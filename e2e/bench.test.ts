import type { Page } from 'playwright-core';
import { newStep, type Step } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { make, QUICK_H264, workFolder } from '@inkavo/media/testClips';
import { join } from 'node:path';
import { writeFileSync } from 'node:fs';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import {
  dragBy,
  dragPicture,
  keptSteps,
  openTestApp,
  settled,
  tapPicture,
  textOf,
  type TestApp,
  takeFromShelf,
  takeStep,
} from './testApp';

let app: TestApp;
let page: Page;
let dive: Clip;
let bank: Clip;

beforeAll(async () => {
  app = await openTestApp();
  const clips = await app.clips('mooring_block_02', 'boat_shed_01');
  dive = clips.mooring_block_02;
  bank = clips.boat_shed_01;
  page = await app.page(SIZES.wide);
});
afterAll(() => app.close());

const open = async (clip: Clip, on = page): Promise<void> => {
  await on.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(on);
};
const black = (steps: Step[]): unknown => steps.find((s) => s.kind === 'range')!.params.black;

test('green water: the slate picked by a dragged area, and the slate then reads neutral', async () => {
  await open(dive);
  await page.getByTestId('scrub').focus();
  await page.keyboard.press('Home');
  await settled(page);
  await page.getByTestId('step-balance').click();
  await page.getByRole('button', { name: 'Pick neutral' }).click();
  await dragPicture(page, [0.33, 0.44], [0.5, 0.52]);
  await page.getByText(/Balanced on a light of \d+\sK|balanced by channel gains/).waitFor();
  await page.getByText(/neutral within 1\s%/).waitFor();
  await settled(page);
  const { params } = (await keptSteps(app.client, dive.id)).find((s) => s.kind === 'balance')!;
  expect(params.method === 'gains' || params.kelvin !== 6504).toBe(true);
});

test('open water that is picked keeps its colour from then on, where none was kept', async () => {
  const before = await keptSteps(app.client, dive.id);
  await app.client.setSteps(dive.id, { clip: [newStep('water', 'w', { depth: 5, distance: 1.5, keepWater: 0 })] });
  await open(dive);
  await takeStep(page, 'w');
  await page.getByRole('button', { name: 'Pick open water' }).click();
  await tapPicture(page, 0.5, 0.1);
  await page.getByText(/open water keeps its colour\.$/).waitFor();
  await settled(page);
  expect((await keptSteps(app.client, dive.id))[0].params).toMatchObject({ keepWater: 1, depth: 5 });
  await app.client.setSteps(dive.id, { clip: before });
});

test('a sample that cannot be neutral is refused, and why is said', async () => {
  await open(bank);
  await page.getByTestId('step-balance').click();
  await page.getByRole('button', { name: 'Pick neutral' }).click();
  // Over several patches of the board.
  await dragPicture(page, [0.48, 0.4], [0.6, 0.5]);
  await page.getByText(/holds more than one colour/).waitFor();
  expect((await keptSteps(app.client, bank.id)).find((s) => s.kind === 'balance')!.params.kelvin).toBe(6504);
});

test('a standard, correct clip: white is read as neutral', async () => {
  await open(bank);
  await page
    .getByTestId('reading')
    .getByText(/%|clipped/)
    .waitFor();
  await tapPicture(page, 0.487, 0.421);
  await page.getByText(/neutral within 1\s%/).waitFor();
});

test('every number: nudge, wheel, keys, reset by its dot; kept over a reload', async () => {
  await open(bank);
  await page.getByTestId('step-range').click();
  const ruler = page.getByRole('slider', { name: 'Black point' });
  await page.getByRole('button', { name: 'Black point: more' }).click();
  expect(await textOf(page.getByTestId('value-black'))).toBe('+0.5 %');
  await ruler.focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+ArrowRight');
  expect(await ruler.getAttribute('aria-valuenow')).toBe('0.0105');
  const box = (await ruler.boundingBox())!;
  await page.mouse.move(box.x + 50, box.y + 20);
  await page.mouse.wheel(0, -100);
  expect(await ruler.getAttribute('aria-valuenow')).toBe('0.0155');
  await settled(page);
  await page.reload();
  await settled(page);
  expect(black(await keptSteps(app.client, bank.id))).toBeCloseTo(0.0155, 9);
  await page.getByRole('button', { name: 'Black point: reset' }).click();
  expect(await textOf(page.getByTestId('value-black'))).toBe('0.0 %');
  await settled(page);
});

test('a step is switched off, weakened, given to the camera, removed; undone, it is there again', async () => {
  await open(bank);
  await page.getByTestId('step-saturation').click();
  await page.getByTestId('step-saturation').click();
  await page.getByRole('radio', { name: 'Off' }).click();
  await page.getByRole('radio', { name: 'Its camera' }).click();
  await page.getByRole('button', { name: 'Close' }).click();
  await page.getByText('Camera · Bank camera').waitFor();
  await settled(page);
  const { camera } = await app.client.get<{ camera: { steps: Step[] } }>(`/clips/${bank.id}`);
  expect(camera.steps).toMatchObject([{ kind: 'saturation', on: false }]);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await settled(page);
  expect((await keptSteps(app.client, bank.id)).find((s) => s.kind === 'saturation')).toMatchObject({ on: true });
});

test('of a clip that is opened after another one nothing is said before its own frame is there', async () => {
  await page.goto(`${app.running.address}/outing/${bank.outingId}`);
  await page.getByRole('link', { name: /boat_shed_01/ }).click();
  await settled(page);
  let arrive = (): void => undefined;
  const late = new Promise<void>((done) => (arrive = done));
  await page.route(/\/frame\?/, (route) => late.then(() => route.continue()));
  await page.goBack();
  await page.getByRole('link', { name: /mooring_block_02/ }).click();
  await page.getByText('Measuring the frame …').waitFor();
  // By then the other worker has baked the grade with which the first one would measure.
  await page.waitForFunction(() =>
    ['65', '0'].includes(document.querySelector<HTMLCanvasElement>('[data-testid=picture]')?.dataset.table ?? ''),
  );
  await page.waitForTimeout(500);
  expect(await page.getByText('Measuring the frame …').isVisible()).toBe(true);
  arrive();
  await settled(page);
  expect(await page.getByText('Measuring the frame …').isVisible()).toBe(false);
  await page.unroute(/\/frame\?/);
});

test('left at once after a change, the change is kept all the same', async () => {
  await open(bank);
  await page.getByTestId('step-range').click();
  await page.getByRole('button', { name: 'Soft ends: more' }).click();
  await page.getByRole('button', { name: 'Back to the outing' }).click();
  await until(
    async () => (await keptSteps(app.client, bank.id)).find((s) => s.kind === 'range')!.params.soft,
    (soft) => soft === 0.005,
  );
});

test('at every size nothing of the bench is cut off and the tray needs no scrolling', async () => {
  for (const size of Object.values(SIZES)) {
    const other = await app.page(size);
    await open(dive, other);
    for (const kind of ['convert', 'balance', 'range', 'saturation']) {
      const chip = other.getByTestId(`step-${kind}`);
      if ((await chip.getAttribute('aria-pressed')) === 'false') await chip.click();
      const rulers = await other.getByTestId('tray').getByRole('slider').all();
      for (const ruler of rulers) {
        const box = (await ruler.boundingBox())!;
        expect(box.x).toBeGreaterThanOrEqual(0);
        expect(box.x + box.width).toBeLessThanOrEqual(size.width);
        expect(box.y + box.height).toBeLessThanOrEqual(size.height);
      }
    }
    const [picture, wave] = [
      (await other.getByTestId('picture').boundingBox())!,
      (await other.getByTestId('waveform').boundingBox())!,
    ];
    // Column by column.
    expect(Math.abs(picture.x - wave.x)).toBeLessThan(1);
    expect(Math.abs(picture.width - wave.width)).toBeLessThan(1);
    expect(await other.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(size.width);
    await other.context().close();
  }
});

test('files chosen on the device are sent; a broken one is refused with a sentence', async () => {
  const folder = workFolder();
  make(join(folder, 'phone_clip.mp4'), 'testsrc2=size=640x360:rate=30:duration=1', QUICK_H264);
  writeFileSync(join(folder, 'broken.mp4'), 'this is no video');
  await page.goto(`${app.running.address}/outing/${bank.outingId}`);
  await page.getByRole('button', { name: 'Bring in' }).click();
  await page.getByTestId('file-input').setInputFiles([join(folder, 'phone_clip.mp4'), join(folder, 'broken.mp4')]);
  await page.getByText(/^1 of 2 clips · .* · 1 cannot be read$/).waitFor();
  await page.getByRole('button', { name: /^Look through the clips of/ }).click();
  await page.getByText('There is no video in it, or it is damaged.').waitFor();
  await page.getByRole('checkbox', { name: 'broken.mp4' }).click();
  await page.getByRole('button', { name: /^Bring in 2 ·/ }).click();
  await page.getByRole('link', { name: /phone_clip/ }).waitFor();
  await page.getByText('broken.mp4 was not brought in').waitFor();
  await page.getByText(/not a video file/).waitFor();
});

test('what is here already is left out unless it is wanted; two files at a time are sent', async () => {
  const folder = workFolder();
  const fresh = ['three', 'four', 'five', 'six', 'seven', 'eight'];
  const paths = ['phone_clip', ...fresh].map((name) => join(folder, `${name}.mp4`));
  paths.forEach((path, i) => make(path, `testsrc2=size=${640 - 32 * i}x360:rate=30:duration=1`, QUICK_H264));
  let [under, most] = [0, 0];
  const isSent = (url: string): boolean => url.includes('/api/uploads');
  page.on('request', (r) => isSent(r.url()) && (most = Math.max(most, ++under)));
  page.on('requestfinished', (r) => isSent(r.url()) && (under -= 1));
  page.on('requestfailed', (r) => isSent(r.url()) && (under -= 1));
  await page.getByRole('button', { name: 'Bring in' }).click();
  await page.getByTestId('file-input').setInputFiles(paths);
  const sheet = page.getByRole('dialog');
  await sheet.getByText(/^6 of 7 clips ·/).waitFor();
  await sheet.getByRole('button', { name: /^Look through the clips of/ }).click();
  const again = sheet.getByRole('checkbox', { name: 'phone_clip.mp4' });
  await sheet.getByText(/^here already · 640×360/).waitFor();
  await again.click();
  await sheet.getByText(/^7 of 7 clips ·/).waitFor();
  await again.click();
  await sheet.getByRole('button', { name: /^Bring in 6 ·/ }).click();
  for (const name of fresh) await page.getByRole('link', { name: new RegExp(`^${name}`) }).waitFor();
  const clips = await app.client.clips(bank.outingId);
  expect(clips.filter((c) => c.name === 'phone_clip.mp4')).toHaveLength(1);
  await app.client.ask('POST', '/removed', {
    kind: 'clip',
    ids: clips.filter((c) => fresh.includes(c.name.replace('.mp4', ''))).map((c) => c.id),
  });
  // A request counts until its end is reported, shortly after the next has begun.
  expect(most).toBeGreaterThanOrEqual(2);
  expect(most).toBeLessThanOrEqual(3);
});

test('dragging a ruler far from its row is finer', async () => {
  await open(bank);
  await page.getByTestId('step-saturation').click();
  const ruler = page.getByRole('slider', { name: 'Saturation', exact: true });
  const value = async (): Promise<number> => Number(await ruler.getAttribute('aria-valuenow'));
  await dragBy(page, ruler, -80, 0);
  const near = (await value()) - 1;
  await page.getByRole('button', { name: 'Saturation: reset' }).click();
  await dragBy(page, ruler, -80, 240);
  const far = (await value()) - 1;
  expect(near).toBeGreaterThan(0.1);
  expect(far).toBeGreaterThan(0);
  expect(far).toBeLessThan(near / 2);
});

test('the helmet clip is balanced automatically, by the method that is chosen', async () => {
  const { paddle_out_07: helmet } = await app.clips('paddle_out_07');
  await open(helmet);
  await page.getByRole('button', { name: /Change it/ }).click();
  await takeFromShelf(page, 'Action camera flat');
  await page.getByTestId('step-balance').click();
  await page.getByRole('button', { name: 'Balance automatically' }).click();
  await page.getByRole('button', { name: /White patch/ }).click();
  await settled(page);
  expect((await keptSteps(app.client, helmet.id)).find((s) => s.kind === 'balance')!.params.kelvin).not.toBe(6504);
});

test('a curve: a point is added, moved and pulled out again', async () => {
  await open(dive);
  await page.getByRole('button', { name: 'Add a step' }).click();
  await page.getByRole('button', { name: /^Curves/ }).click();
  const box = (await page.getByRole('application', { name: /^Curve/ }).boundingBox())!;
  const at = (x: number, y: number): [number, number] => [box.x + x * box.width, box.y + (1 - y) * box.height];
  const points = async () =>
    (await keptSteps(app.client, dive.id)).find((s) => s.kind === 'curves')!.params.all as { x: number; y: number }[];
  await page.mouse.move(...at(0.4, 0.5));
  await page.mouse.down();
  await page.mouse.move(...at(0.4, 0.3), { steps: 5 });
  await page.mouse.up();
  await settled(page);
  const kept = await points();
  expect(kept).toHaveLength(3);
  expect(kept[1].x).toBeCloseTo(0.4, 1);
  expect(kept[1].y).toBeCloseTo(0.3, 1);
  await page.mouse.move(...at(0.4, 0.3));
  await page.mouse.down();
  await page.mouse.move(box.x + 0.4 * box.width, box.y + box.height + 90, { steps: 5 });
  await page.mouse.up();
  await settled(page);
  expect(await points()).toHaveLength(2);
});

test('clips of a camera change places by their grip, and the place is kept', async () => {
  await page.goto(`${app.running.address}/outing/${bank.outingId}`);
  const folder = workFolder();
  for (const [name, size] of [
    ['one', 320],
    ['two', 352],
  ] as const) {
    make(join(folder, `${name}.mp4`), `testsrc2=size=${size}x180:rate=30:duration=0.4`, QUICK_H264);
  }
  await page
    .getByTestId('file-input')
    .or(page.getByRole('button', { name: 'Bring in' }))
    .first()
    .click();
  await page.getByTestId('file-input').setInputFiles([join(folder, 'one.mp4'), join(folder, 'two.mp4')]);
  await page.getByRole('dialog').getByRole('button', { name: 'Bring in' }).click();
  await page.getByRole('link', { name: /^two/ }).waitFor();
  await page.getByRole('link', { name: /^one/ }).waitFor();
  const names = async (): Promise<string[]> =>
    (await app.client.clips(bank.outingId)).map((c) => c.name).filter((n) => /^(one|two)/.test(n));
  const [first, second] = await names();
  const grip = (name: string) => page.getByRole('button', { name: `Move ${name}` });
  const [from, to] = [(await grip(second).boundingBox())!, (await grip(first).boundingBox())!];
  await page.mouse.move(from.x + 20, from.y + 20);
  await page.mouse.down();
  await page.mouse.move(to.x + 10, to.y + 20, { steps: 12 });
  await page.mouse.up();
  await until(names, (list) => list[0] === second);
});
