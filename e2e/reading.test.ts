import type { Page } from 'playwright-core';
import { newStep, type Step } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { changeUnder, keptSteps, openTestApp, screenPicture, settled, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let shed: Clip;
beforeAll(async () => {
  app = await openTestApp();
  shed = (await app.clips('boat_shed_01')).boat_shed_01;
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

test('another explanation can be had once it is worked out, and the first one again', async () => {
  await page.goto(`${app.running.address}/clip/${shed.id}`);
  await settled(page);
  const before = await keptSteps(app.client, shed.id);
  await page.getByRole('button', { name: /First pass/ }).tap();
  await page.getByText(/^Nothing to mend/).waitFor();
  expect(await page.getByRole('checkbox').count()).toBe(0);
  await page.getByRole('button', { name: 'or: a wrong white', exact: true }).tap();
  await page.getByRole('checkbox', { name: /^Balance: / }).waitFor();
  await page.getByText('As offered', { exact: true }).waitFor();
  await page.getByRole('button', { name: 'or: nothing wrong', exact: true }).tap();
  await page.getByText(/^Nothing to mend/).waitFor();
  expect(await page.getByRole('checkbox').count()).toBe(0);
  expect(await keptSteps(app.client, shed.id)).toEqual(before);
  await page.getByRole('button', { name: 'Close', exact: true }).tap();
});

test('what acts on the clip already is told beside what is offered, and switched off where that is wanted', async () => {
  const own = (await keptSteps(app.client, shed.id)).filter((s) => s.kind !== 'range');
  await changeUnder(app, page, shed, [...own, newStep('range', 'bright', { exposure: 0.5 })]);
  const bright = async () => (await keptSteps(app.client, shed.id)).find((s) => s.id === 'bright')!;
  await page.getByRole('button', { name: /First pass/ }).tap();
  await page.getByRole('button', { name: 'or: a wrong white', exact: true }).tap();
  await page.getByText('As offered', { exact: true }).waitFor();
  const light = async (): Promise<number> => {
    await settled(page);
    const { rgb } = await screenPicture(page);
    return rgb.reduce((sum, v) => sum + v, 0) / rgb.length;
  };
  const off = page.getByRole('checkbox', { name: /^Switch off: Range: / });
  expect(await off.getAttribute('aria-checked')).toBe('false');
  const before = await light();
  await off.tap();
  expect(await light()).toBeLessThan(before - 10);
  await page.getByRole('button', { name: /Take (this step|these \d steps)/ }).tap();
  await settled(page);
  expect(await bright()).toMatchObject({ on: false, params: { exposure: 0.5 } });
  await page.getByRole('button', { name: 'Undo', exact: true }).last().tap();
  await settled(page);
  expect((await bright()).on).toBe(true);
});

test('what an earlier first pass left is off unless it is wanted, and the camera’s steps are off in this clip alone', async () => {
  const first = { ...newStep('range', 'first', { exposure: 0.5 }), proposed: true };
  await app.client.setSteps(shed.id, { clip: [first], camera: [newStep('saturation', 'vivid', { amount: 1.3 })] });
  await page.goto(`${app.running.address}/clip/${shed.id}`);
  await settled(page);
  await page.getByRole('button', { name: /First pass/ }).tap();
  await page.getByRole('button', { name: 'or: a wrong white', exact: true }).tap();
  const left = page.getByRole('checkbox', { name: /^Switch off: Range: An earlier first pass put it here/ });
  expect(await left.getAttribute('aria-checked')).toBe('true');
  const cameras = page.getByRole('checkbox', {
    name: /^Switch off: Saturation: It is of the camera, .*Off in this clip alone/,
  });
  expect(await cameras.getAttribute('aria-checked')).toBe('false');
  await cameras.tap();
  await page.getByRole('button', { name: /Take (this step|these \d steps)/ }).tap();
  await settled(page);
  const kept = await app.client.get<{ clip: Clip; camera: { steps: Step[] } }>(`/clips/${shed.id}`);
  expect(kept.clip.steps.find((s) => s.id === 'first')!.on).toBe(false);
  expect(kept.clip.steps.find((s) => s.kind === 'balance')!.proposed).toBe(true);
  expect(kept.clip.overrides).toEqual({ vivid: { on: false } });
  expect(kept.camera.steps[0].on).toBe(true);
  // If nothing needs correction, only the steps of an earlier first pass can be removed.
  await app.client.setSteps(shed.id, { clip: [first], camera: [] });
  await page.goto(`${app.running.address}/clip/${shed.id}`);
  await settled(page);
  await page.getByRole('button', { name: /First pass/ }).tap();
  await page.getByText(/^Nothing to mend/).waitFor();
  expect(await left.getAttribute('aria-checked')).toBe('false');
  await left.tap();
  await page.getByRole('button', { name: 'Switch off', exact: true }).tap();
  await settled(page);
  expect(await keptSteps(app.client, shed.id)).toEqual([{ ...first, on: false }]);
  await app.client.setSteps(shed.id, {
    clip: ['balance', 'range', 'saturation'].map((kind) => newStep(kind, kind)),
    camera: [],
  });
});

test('the hold check measures the whole clip, shows where it does not hold, and what it offers mends it', async () => {
  await page.goto(`${app.running.address}/clip/${shed.id}`);
  await settled(page);
  await page
    .getByRole('group', { name: 'Steps' })
    .getByRole('button', { name: /^Range/ })
    .first()
    .tap();
  await page.getByRole('radio', { name: 'Light' }).tap();
  const more = page.getByRole('button', { name: 'Exposure: more' });
  for (let i = 0; i < 24; i += 1) await more.tap();
  await settled(page);
  const check = async (): Promise<void> => {
    await page.getByRole('button', { name: 'Compare and check' }).tap();
    await page.getByRole('button', { name: /Hold check/ }).tap();
    await page.getByRole('button', { name: /Measure/ }).tap();
    await page.getByRole('button', { name: 'Measure again' }).waitFor();
  };
  await check();
  const trouble = page
    .getByRole('button', { name: /\d+\.\d\s% of the frame is lost by the grade. Go to the worst frame/ })
    .first();
  const lost = Number(/(\d+\.\d)\s%/.exec((await trouble.getAttribute('aria-label'))!)![1]);
  expect(lost).toBeGreaterThan(0.5);
  await trouble.tap();
  await page.getByTestId('hold-band').waitFor();
  await settled(page);
  // The picture is not covered, and shows the worst frame and the mend before it is applied.
  const whitest = async (): Promise<number> => {
    const { rgb } = await screenPicture(page);
    return rgb.reduce((count, v) => count + (v === 255 ? 1 : 0), 0);
  };
  const white = await whitest();
  expect(white).toBeGreaterThan(0);
  // Held, it is as recorded: less bright.
  const { x, y } = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.move(x + 60, y + 60);
  await page.mouse.down();
  expect(await until(whitest, (count) => count < 0.5 * white)).toBeLessThan(0.5 * white);
  await page.mouse.up();
  expect(await until(whitest, (count) => count === white)).toBe(white);
  const kept = await keptSteps(app.client, shed.id);
  await page.getByRole('radio', { name: /^Softer ends.*Lost by the grade there: \d+\.\d\s% instead of/ }).tap();
  await page.getByText('As offered', { exact: true }).waitFor();
  await settled(page);
  expect(await whitest()).toBeLessThan(0.5 * white);
  expect(await keptSteps(app.client, shed.id)).toEqual(kept);
  await page.getByRole('button', { name: 'Before', exact: true }).tap();
  await page.getByText('As it is', { exact: true }).waitFor();
  await settled(page);
  expect(await whitest()).toBe(white);
  await page.getByRole('button', { name: 'Do this' }).tap();
  await settled(page);
  expect(await whitest()).toBeLessThan(0.5 * white);
  expect((await keptSteps(app.client, shed.id)).find((s) => s.kind === 'range')!.params.soft).toBeGreaterThan(0.1);
  await page.getByRole('button', { name: 'Undo' }).tap();
  await settled(page);
});
