import { join } from 'node:path';
import { writeFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { writeCube } from '@inkavo/core/formats/cube';
import { gradeToLut } from '@inkavo/core/formats/gradeLut';
import { newStep } from '@inkavo/core/model/grade';
import { workFolder } from '@inkavo/media/testClips';
import { SIZES } from './browser';
import { keptSteps, openHouse, screenPicture, settled, type House } from './house';

let house: House;
let page: Page;
let id: string;
beforeAll(async () => {
  house = await openHouse();
  id = (await house.clips('boat_shed_01')).boat_shed_01.id;
  page = await house.page(SIZES.phone);
  await page.goto(`${house.running.address}/clip/${id}`);
  await settled(page);
}, 120_000);
afterAll(() => house.close());

const folder = workFolder();
const meanOf = async (): Promise<number> => {
  const { rgb } = await screenPicture(page);
  return rgb.reduce((a, b) => a + b, 0) / rgb.length;
};

test('a table is brought in from a file, chosen, and seen; a damaged one is refused with its line', async () => {
  const text = writeCube(gradeToLut([newStep('range', 'r', { white: -0.3 })], 17, 'Half light'));
  writeFileSync(join(folder, 'half.cube'), text);
  writeFileSync(join(folder, 'damaged.cube'), text.slice(0, 4000));
  const before = await meanOf();
  await page.getByRole('button', { name: 'Add a step' }).tap();
  await page.getByRole('button', { name: /^LUT/ }).tap();
  await page.getByRole('button', { name: /Table: none chosen/ }).tap();
  const choose = async (name: string) => {
    const chooser = page.waitForEvent('filechooser');
    await page.getByRole('button', { name: 'Bring in a .cube or CLF file' }).tap();
    await (await chooser).setFiles(join(folder, name));
  };
  await choose('damaged.cube');
  await page.getByText(/damaged.cube: (Line \d+|The file ends).*Nothing was taken in/).waitFor();
  await choose('half.cube');
  await page.getByRole('button', { name: /Table: Half light/ }).waitFor();
  await settled(page);
  expect(await meanOf()).toBeLessThan(before * 0.85);
  const step = (await keptSteps(house.client, id)).find((s) => s.kind === 'lut')!;
  expect(step.params.title).toBe('Half light');
});

test('the demo’s own tables lie ready, and the step is still there after a reload', async () => {
  const dimmed = await meanOf();
  await page.reload();
  await settled(page);
  expect(Math.abs((await meanOf()) - dimmed)).toBeLessThan(0.5);
  await page.getByTestId('step-lut').tap();
  await page.getByRole('button', { name: /Table: Half light/ }).tap();
  await page.getByRole('radio', { name: /Late sun/ }).tap();
  await settled(page);
  expect(await meanOf()).toBeGreaterThan(dimmed);
});
