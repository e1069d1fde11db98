import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Locator, Page } from 'playwright-core';
import { readRecipe, writeGrade } from '@inkavo/core/formats/json';
import { writeCube } from '@inkavo/core/formats/cube';
import { gradeToLut } from '@inkavo/core/formats/gradeLut';
import { gradeOf, newStep } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { ciede2000 } from '@inkavo/core/colour/difference';
import { linearToLab } from '@inkavo/core/colour/lab';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { lightOf, type FilmedPatch } from '@inkavo/core/model/fitProfile';
import type { ShelfItem, ShelfProfile } from '@inkavo/core/model/shelf';
import { workFolder } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { patchesOf } from './truth';
import { bringToShelf, keptSteps, openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let clips: Record<string, Clip>;
const folder = workFolder();
const write = (name: string, text: string): string => {
  writeFileSync(join(folder, name), text);
  return join(folder, name);
};
const table = (title: string, white: number): string =>
  writeCube(gradeToLut([newStep('range', 'r', { white })], 9, title));

beforeAll(async () => {
  app = await openTestApp();
  clips = await app.clips('boat_shed_01', 'mooring_block_02', 'channel_east_03');
  page = await app.page(SIZES.phone);
  await page.goto(`${app.running.address}/clip/${clips.boat_shed_01.id}`);
  await settled(page);
});
afterAll(() => app.close());

const more = (): Promise<void> => page.getByRole('button', { name: 'More', exact: true }).tap();
const openShelf = async (): Promise<void> => {
  await more();
  await page.getByRole('button', { name: /^Shelf/ }).tap();
};
const card = (title: string): Locator => page.getByRole('button', { name: title, exact: true });
const shelf = (): Promise<ShelfItem[]> => app.client.get<ShelfItem[]>('/shelf');
/** Mean of the pictures in an element, 0–255, once they are loaded. */
const meanOf = async (picture: Locator): Promise<number> => {
  await picture.waitFor();
  return picture.evaluate(async (img: HTMLImageElement) => {
    await img.decode();
    const canvas = new OffscreenCanvas(img.naturalWidth, img.naturalHeight);
    const context = canvas.getContext('2d')!;
    context.drawImage(img, 0, 0);
    const { data } = context.getImageData(0, 0, canvas.width, canvas.height);
    return data.reduce((sum, v, i) => (i % 4 === 3 ? sum : sum + v), 0) / (0.75 * data.length);
  });
};

test('many files at once: good ones come in under their group, each bad one is named with what is wrong', async () => {
  await openShelf();
  await page.getByRole('radio', { name: 'Tables' }).tap();
  const names = Array.from({ length: 44 }, (_, i) => `Step ${i + 1}`);
  await bringToShelf(page, [
    ...names.map((name, i) => write(`${i}.cube`, table(name, -0.05 * (i % 12)))),
    write('torn.cube', table('Torn', 0).slice(0, 2000)),
    write('letter.cube', table('Letter', 0).replace(/\n0 0 0\n|\n0\.\d+ 0\.\d+ 0\.\d+\n/, '\n0 a 0\n')),
  ]);
  await page.getByText('44 on the shelf, 2 refused').waitFor();
  await page.getByText(/torn\.cube: (Line \d+|The file ends)/).waitFor();
  await page.getByText(/letter\.cube: Line \d+: "a" is not a number\./).waitFor();
  await page.getByRole('button', { name: 'Close' }).last().tap();
  expect((await shelf()).filter((i) => names.includes(i.title))).toHaveLength(44);
  const cards = page.getByRole('button', { name: /^Step \d+$/ });
  await page.getByLabel('Search').fill('step 1');
  await until(
    () => cards.count(),
    (n) => n === 14,
  );
  // Of many items, those further down are drawn when they are nearly visible.
  await page.getByLabel('Search').fill('step');
  const some = await until(
    () => cards.count(),
    (n) => n > 14,
  );
  expect(some).toBeLessThan(44);
  await cards.nth(some - 1).scrollIntoViewIfNeeded();
  await until(
    () => cards.count(),
    (n) => n === 44,
  );
});

test('each is drawn on the frame; two are held against each other; holding shows the picture as it is now', async () => {
  const small = async (title: string): Promise<number> => {
    await card(title).scrollIntoViewIfNeeded();
    return meanOf(card(title).locator('img'));
  };
  const [bright, dark] = [await small('Step 1'), await small('Step 12')];
  expect(dark).toBeLessThan(bright * 0.7);
  await card('Step 1').tap();
  await page.getByRole('button', { name: 'Against …' }).tap();
  await card('Step 12').tap();
  const large = page.getByRole('img', { name: 'Step 1 against Step 12' });
  await until(
    () => large.locator('img').count(),
    (n) => n === 2,
  );
  expect(await meanOf(large.locator('img').nth(1))).toBeLessThan((await meanOf(large.locator('img').first())) * 0.7);
  await page.getByRole('radio', { name: 'Swapped by a tap' }).tap();
  await large.tap();
  await page.getByRole('button', { name: 'Take Step 12' }).waitFor();
  await large.tap();
  await page.getByRole('button', { name: 'Take Step 1' }).tap();
  const lut = await until(
    async () => (await keptSteps(app.client, clips.boat_shed_01.id)).at(-1)!,
    (s) => s.kind === 'lut',
  );
  // A look goes behind all other steps of the clip.
  expect(lut.params.title).toBe('Step 1');
});

test('steps are kept as a recipe, which is renamed, saved to a file, removed and put back by undo', async () => {
  await page.getByRole('button', { name: 'Copy and paste steps' }).tap();
  await page.getByRole('button', { name: 'Keep as a recipe …' }).tap();
  await page.getByLabel('Name', { exact: true }).fill('Shed');
  await page.getByRole('button', { name: 'Keep', exact: true }).tap();
  await page.getByText('"Shed" is on the shelf.').waitFor();
  await openShelf();
  await page.getByRole('button', { name: 'Shed: name, group, save, remove' }).tap();
  await page.getByLabel('Name', { exact: true }).fill('Boat shed');
  await page.getByRole('button', { name: 'Keep', exact: true }).tap();
  await page.getByRole('button', { name: 'Boat shed: name, group, save, remove' }).tap();
  const file = page.waitForEvent('download');
  await page.getByLabel('Save Boat shed as a file').tap();
  const read = readRecipe(readFileSync((await (await file).path())!, 'utf8'));
  expect([read.name, read.steps.map((s) => s.kind), Object.keys(read.luts!).length]).toEqual(['Boat shed', ['lut'], 1]);
  await page.getByRole('button', { name: 'Remove', exact: true }).tap();
  await card('Boat shed').waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'Undo' }).last().tap();
  await card('Boat shed').waitFor();
});

test('a saved grade is read back, and put into several clips of an outing at once', async () => {
  const steps = [newStep('range', 'r', { exposure: -0.5 }), newStep('saturation', 's', { amount: 0 })];
  await bringToShelf(page, [write('dusk.json', writeGrade(gradeOf(steps, 'Dusk, grey')))]);
  await page.getByText('1 on the shelf').waitFor();
  await page.getByRole('button', { name: 'Close' }).last().tap();
  await page.goto(`${app.running.address}/outing/${clips.boat_shed_01.outingId}`);
  await page.getByRole('button', { name: 'Choose several clips' }).tap();
  for (const name of ['mooring_block_02', 'channel_east_03']) await page.getByRole('checkbox', { name }).tap();
  await page.getByRole('button', { name: 'With them …' }).tap();
  await page.getByRole('button', { name: 'Put a recipe into them …' }).tap();
  await card('Dusk, grey').tap();
  await page.getByRole('button', { name: 'Put into all 2' }).tap();
  for (const { id } of [clips.mooring_block_02, clips.channel_east_03]) {
    const kept = await until(
      () => keptSteps(app.client, id),
      (list) => list.some((s) => s.kind === 'saturation' && s.params.amount === 0),
    );
    expect(kept.find((s) => s.kind === 'range')!.params.exposure).toBe(-0.5);
  }
  await page.getByText('Pasted 2 steps into 2 clips.').waitFor();
});

test('the shelf is a screen of its own, drawn on the clip that was open last, at a wide window beside its picture', async () => {
  const wide = await app.page(SIZES.wide);
  await wide.goto(`${app.running.address}/shelf`);
  await wide.getByText(/^seen on /).waitFor();
  await wide.getByRole('button', { name: 'Black and white', exact: true }).click();
  const large = wide.getByRole('img', { name: 'Black and white' });
  const picture = (await large.boundingBox())!;
  const list = (await wide.getByRole('group', { name: 'Weather' }).boundingBox())!;
  expect(list.x).toBeGreaterThan(picture.x + picture.width);
  await wide.context().close();
});

test('a profile is fitted to a filmed chart: its patches are tapped, and come out with their own light after one gain', async () => {
  const clip = (await app.clips('paddle_out_07')).paddle_out_07;
  const frame = 15;
  await app.client.ask('PATCH', `/clips/${clip.id}`, { referenceFrame: frame });
  const neutral = patchesOf('HELMET_CAMERA', frame)
    .filter(({ reflectance }) => Math.max(...reflectance) - Math.min(...reflectance) < 0.02)
    .sort((a, b) => b.reflectance[1] - a.reflectance[1]);
  expect(neutral.length).toBeGreaterThanOrEqual(3);
  const own = await app.page(SIZES.wide);
  await own.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(own);
  await own.getByRole('button', { name: /Change it/ }).click();
  await own.getByRole('button', { name: 'A profile from a filmed chart …' }).click();
  const picture = own.getByAltText('The frame as recorded');
  await picture.waitFor();
  for (const { x, y, width, height } of neutral) {
    await picture.scrollIntoViewIfNeeded();
    const box = (await picture.boundingBox())!;
    // Dropped beside it, seen in the loupe, and moved onto it.
    await own.mouse.move(box.x + x * box.width, box.y + y * box.height);
    await own.mouse.down();
    await own.mouse.move(box.x + (x + width / 2) * box.width, box.y + (y + height / 2) * box.height, { steps: 3 });
    await own
      .getByTestId('loupe')
      .getByText(/^\d\d\.\d\s%$/)
      .waitFor();
    await own.mouse.up();
    await own.getByTestId('loupe').waitFor({ state: 'detached' });
  }
  const patches: FilmedPatch[] = [];
  for (const [i, { reflectance }] of neutral.entries()) {
    await own.getByLabel(`Light of patch ${i + 1}, %`).fill((100 * reflectance[1]).toFixed(1));
    const text = (await own.getByText(new RegExp(`^${i + 1}: filmed at`)).textContent())!;
    patches.push({ code: Number(/([\d.]+)\s%/.exec(text)![1]) / 100, light: reflectance[1] });
  }
  await own.getByText(/^Patches are met within \d\.\d\s% of the code range/).waitFor();
  await own.getByLabel('Name', { exact: true }).fill('Helmet, fitted');
  await own.getByRole('button', { name: 'Put on the shelf' }).click();
  await own.getByText('"Helmet, fitted" is on the shelf.').waitFor();
  const item = (await shelf()).find((i) => i.title === 'Helmet, fitted') as ShelfProfile;
  const lab = (v: number): Vec3 => linearToLab([v, v, v]);
  const off = lightOf(patches, item.profile).map((v, i) => ciede2000(lab(v), lab(patches[i].light)));
  console.log(`fitted from ${patches.length} patches: CIEDE2000 ${off.map((d) => d.toFixed(2)).join(', ')}`);
  expect(off.reduce((a, b) => a + b) / off.length).toBeLessThan(1);
  await own.context().close();
});
