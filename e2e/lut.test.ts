import { join } from 'node:path';
import { readFileSync, writeFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { readCdl } from '@inkavo/core/formats/cdl';
import { readClf } from '@inkavo/core/formats/clf/read';
import { readCube, writeCube } from '@inkavo/core/formats/cube';
import { readGrade } from '@inkavo/core/formats/json';
import { gradeToLut } from '@inkavo/core/formats/gradeLut';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { workFolder } from '@inkavo/media/testClips';
import { SIZES } from './browser';
import { bringToShelf, keptSteps, openTestApp, screenPicture, settled, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let id: string;
beforeAll(async () => {
  app = await openTestApp();
  id = (await app.clips('boat_shed_01')).boat_shed_01.id;
  page = await app.page(SIZES.phone);
  await page.goto(`${app.running.address}/clip/${id}`);
  await settled(page);
});
afterAll(() => app.close());

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
  await bringToShelf(
    page,
    ['damaged.cube', 'half.cube'].map((name) => join(folder, name)),
  );
  await page.getByText('1 on the shelf, 1 refused').waitFor();
  await page.getByText(/damaged.cube: (Line \d+|The file ends)/).waitFor();
  await page.getByRole('button', { name: 'Close' }).last().tap();
  await page.getByRole('button', { name: 'Half light', exact: true }).tap();
  await page.getByRole('button', { name: 'Take it' }).tap();
  await page.getByRole('button', { name: /Table: Half light/ }).waitFor();
  await settled(page);
  expect(await meanOf()).toBeLessThan(before * 0.85);
  const step = (await keptSteps(app.client, id)).find((s) => s.kind === 'lut')!;
  expect(step.params.title).toBe('Half light');
});

test('the demo’s own tables lie ready, and the step is still there after a reload', async () => {
  const dimmed = await meanOf();
  await page.reload();
  await settled(page);
  expect(Math.abs((await meanOf()) - dimmed)).toBeLessThan(0.5);
  await page.getByRole('button', { name: /Table: Half light/ }).tap();
  // One tap previews it, a second one takes it.
  await page.getByRole('button', { name: 'Late sun', exact: true }).tap();
  await page.getByRole('button', { name: /^Late sun, held up/ }).tap();
  await settled(page);
  expect(await meanOf()).toBeGreaterThan(dimmed);
});

test('the grade is saved as a table, a CLF, a CDL that says what it lacks, and a grade file', async () => {
  const steps = await keptSteps(app.client, id);
  const save = async (format: string): Promise<string> => {
    await page.getByRole('radio', { name: format, exact: true }).tap();
    const file = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save', exact: true }).tap();
    return readFileSync((await (await file).path())!, 'utf8');
  };
  const openSheet = async (): Promise<void> => {
    await page.getByRole('button', { name: 'More', exact: true }).tap();
    await page.getByRole('button', { name: 'Save the grade as a file' }).tap();
  };
  await openSheet();
  const cube = readCube(await save('.cube'));
  expect([cube.size, cube.title]).toEqual([33, 'boat_shed_01.mp4']);
  await openSheet();
  expect(readClf(await save('CLF')).nodes.map((n) => n.kind)).toEqual(['matrix', 'lut3d']);
  await openSheet();
  expect(readGrade(await save('Grade')).steps).toEqual(steps);
  await openSheet();
  expect(readCdl(await save('CDL'))).toHaveLength(1);
  await page.getByText('boat_shed_01.cc was saved. Not in it: LUT.').waitFor();
});

test('a camera’s steps leave as a table too; what no table can hold is named, and the rest is offered', async () => {
  const { clip } = await app.client.get<{ clip: Clip }>(`/clips/${id}`);
  const steps = [newStep('range', 'r', { black: -0.05 }), newStep('haze', 'h', { amount: 0.5 })];
  expect((await app.client.setSteps(id, { camera: steps })).status).toBe(200);
  await page.goto(`${app.running.address}/outing/${clip.outingId}`);
  await page
    .getByRole('button', { name: /^Camera .*: name, kind, remove/ })
    .first()
    .tap();
  await page.getByRole('button', { name: 'Save its steps as a file …' }).tap();
  await page.getByRole('button', { name: 'Save', exact: true }).tap();
  await page.getByText(/^Haze depends on the place in the picture/).waitFor();
  const file = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save what fits' }).tap();
  const cube = readCube(readFileSync((await (await file).path())!, 'utf8'));
  const expected = gradeToLut([steps[0]], 33, '').data;
  expect(cube.data.every((v, i) => Math.abs(v - expected[i]) < 1e-5)).toBe(true);
  await page.getByText(/was saved. Not in it: Haze\.$/).waitFor();
});
