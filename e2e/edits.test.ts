import type { Page, Route } from 'playwright-core';
import { newStep, type Step } from '@inkavo/core/model/grade';
import type { Camera, Clip, Outing } from '@inkavo/core/model/outing';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { keptSteps, openTestApp, settled, takeStep, textOf, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let clip: Clip;
let other: Clip;

beforeAll(async () => {
  app = await openTestApp();
  const clips = await app.clips('boat_shed', 'paddle_out');
  [clip, other] = [clips.boat_shed, clips.paddle_out];
});
afterAll(() => app?.close());
beforeEach(async () => {
  page = await app.page(SIZES.phone);
  await app.client.setSteps(clip.id, {
    clip: ['convert', 'balance', 'range', 'saturation'].map((kind) => newStep(kind, kind)),
    camera: [],
  });
});
afterEach(async () => {
  await page.context().close();
});

const open = async (on: Page = page, to: Clip = clip): Promise<void> => {
  await on.goto(`${app.running.address}/clip/${to.id}`);
  await on.getByTestId('keep-state').waitFor();
  await takeStep(on, 'range');
};
const more = (what: string, on: Page = page) => on.getByRole('button', { name: `${what}: more` }).click();
const numbers = async (): Promise<Record<string, unknown>> =>
  (await keptSteps(app.client, clip.id)).find((s) => s.kind === 'range')!.params;
const state = (text: RegExp, on: Page = page) => on.getByTestId('keep-state').getByText(text).waitFor();
const withRange = (steps: Step[], params: object): Step[] =>
  steps.map((s) => (s.kind === 'range' ? { ...s, params: { ...s.params, ...params } } : s));
/** Another user changes the range. */
const theirs = async (params: object): Promise<void> => {
  const steps = await keptSteps(app.client, clip.id);
  expect((await app.client.setSteps(clip.id, { clip: withRange(steps, params) })).status).toBe(200);
};
/** Neither this browser's changes nor the server's events get through. */
const off = async (on: Page = page): Promise<void> => {
  await on.context().route('**/changes', (route) => route.abort());
  await on.context().route('**/events', (route) => route.abort());
};
/** Opens the clip and changes its black point while offline. */
async function editOff(): Promise<void> {
  await open();
  await off();
  await more('Black point');
  await state(/on this device/);
}
const back = (on: Page = page) => on.context().unroute('**/changes');
/** The device's stored entries, by key. */
const onDevice = (on: Page = page) =>
  on.evaluate(() => Object.keys(localStorage).filter((k) => k.startsWith('inkavo-change-')).length);

/** Taps the centre of a button, after checking that nothing covers it. */
async function tapTop(on: Page, testId: string): Promise<void> {
  const button = on.getByTestId(testId);
  await button.waitFor();
  await button.scrollIntoViewIfNeeded();
  const box = (await button.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  const hit = await on.evaluate(
    ([px, py, id]) => document.elementFromPoint(Number(px), Number(py))?.closest(`[data-testid="${id}"]`) !== null,
    [x, y, testId],
  );
  expect(hit).toBe(true);
  await on.mouse.click(x, y);
}

test.each(Object.entries(SIZES))(
  'the same step changed in two places: asked on a %s, answered by a tap',
  async (_name, size) => {
    const other = await app.page(size);
    await open(other);
    await off(other);
    await more('Black point', other);
    await state(/on this device/, other);
    await theirs({ black: -0.1, white: 0.02 });
    await back(other);
    await other.getByText('Changed in two places').waitFor();
    // Both pictures can be compared.
    await other.waitForFunction(
      () =>
        Array.from(document.querySelectorAll('[role=group] img')).filter(
          (i) => (i as HTMLImageElement).naturalWidth > 0,
        ).length === 2,
    );
    await tapTop(other, 'use-mine');
    await settled(other);
    expect((await numbers()).black).toBeCloseTo(0.005, 9);
    expect(await onDevice(other)).toBe(0);
    await other.context().close();
  },
);

test('a reload while the question stands asks it again; the other answer takes the other’s step', async () => {
  await editOff();
  await theirs({ black: -0.1 });
  await back();
  await page.getByText('Changed in two places').waitFor();
  await page.reload();
  await tapTop(page, 'use-theirs');
  await settled(page);
  expect((await numbers()).black).toBeCloseTo(-0.1, 9);
  await page.getByTestId('step-range').click();
  expect(await textOf(page.getByTestId('value-black'))).toMatch(/10\.0\s%/);
  expect(await onDevice()).toBe(0);
});

test('put off, the question is asked again by a tap, and later edits are kept with the answer', async () => {
  await editOff();
  await theirs({ black: -0.1 });
  await back();
  await page.getByRole('button', { name: 'Close' }).click();
  await state(/changed elsewhere/);
  await more('White point');
  await page.getByTestId('keep-state').click();
  await tapTop(page, 'use-mine');
  await settled(page);
  expect(await numbers()).toMatchObject({ black: 0.005, white: 0.005 });
});

test('edited off the network and closed; meanwhile only the camera is changed: opened again, both are there', async () => {
  await editOff();
  const context = page.context();
  await page.close();
  await app.client.setSteps(clip.id, { camera: [newStep('balance', 'camera-balance')] });
  page = await context.newPage();
  await open();
  await page.getByTestId('value-black').filter({ hasText: '+0.5 %' }).waitFor();
  await back();
  await settled(page);
  expect(await numbers()).toMatchObject({ black: 0.005 });
  const { camera } = await app.client.get<{ camera: { steps: Step[] } }>(`/clips/${clip.id}`);
  expect(camera.steps.map((s) => s.id)).toEqual(['camera-balance']);
});

test('an answer that is lost on its way makes no conflict with oneself, and loses nothing that follows', async () => {
  await open();
  let lost = 0;
  const lose = async (route: Route): Promise<void> => {
    if (lost > 0) return route.fallback();
    lost += 1;
    // The server has stored it; the response never arrives.
    await route.fetch();
    await route.abort();
  };
  await page.route('**/changes', lose);
  await more('Black point');
  await state(/on this device/);
  await more('White point');
  await more('Soft ends');
  await settled(page);
  expect(lost).toBe(1);
  expect(await numbers()).toMatchObject({ black: 0.005, white: 0.005, soft: 0.005 });
});

test('an edit that follows one that is refused is not lost with it', async () => {
  await open();
  let refusals = 0;
  await page.route('**/changes', async (route) => {
    if (refusals > 0) return route.fallback();
    refusals += 1;
    // The next edit is made while this one is being sent.
    await page.getByRole('button', { name: 'White point: more' }).click();
    const problem = { type: 'x', title: 'x', status: 400, code: 'bad-request', detail: 'no.' };
    await route.fulfill({ status: 400, contentType: 'application/problem+json', json: problem });
  });
  await more('Black point');
  await settled(page);
  expect(refusals).toBe(1);
  expect(await numbers()).toMatchObject({ black: 0.005, white: 0.005 });
  expect(await onDevice()).toBe(0);
});

test('two pages off the network edit different steps of one clip: neither deletes what the other has', async () => {
  await open();
  const second = await page.context().newPage();
  await open(second);
  await off();
  await more('Black point');
  await state(/on this device/);
  await second.getByTestId('step-saturation').click();
  await second.getByRole('button', { name: 'Saturation: more' }).click();
  await state(/on this device/, second);
  expect(await onDevice()).toBe(2);
  await back();
  await settled(page);
  await settled(second);
  const steps = await keptSteps(app.client, clip.id);
  expect(steps.find((s) => s.kind === 'range')!.params.black).toBeCloseTo(0.005, 9);
  expect(steps.find((s) => s.kind === 'saturation')!.params.amount).toBeGreaterThan(1);
});

test('a clip that was left off the network is sent from the outing, without being opened again', async () => {
  await editOff();
  await page.getByRole('button', { name: 'Back to the outing' }).click();
  await page.getByText(/Edits of a clip wait on this device/).waitFor();
  await back();
  await until(numbers, (n) => n.black === 0.005);
  await page.getByText(/Edits of a clip wait/).waitFor({ state: 'detached' });
  expect(await onDevice()).toBe(0);
});

test('what a page left behind is sent by another one that is opened anywhere', async () => {
  await editOff();
  const context = page.context();
  await page.close();
  await context.unroute('**/changes');
  page = await context.newPage();
  await page.goto(app.running.address);
  await until(numbers, (n) => n.black === 0.005);
});

test('a conflict of a clip that is not open can be decided where one is', async () => {
  await editOff();
  await theirs({ black: -0.1 });
  await page.getByRole('button', { name: 'Back to the outing' }).click();
  await back();
  await page.getByRole('button', { name: 'Decide' }).click();
  await tapTop(page, 'use-mine');
  await until(numbers, (n) => n.black === 0.005);
});

test('another window’s step is taken in while the clip is open, and undo does not take it back', async () => {
  await open();
  await more('Black point');
  await settled(page);
  const steps = await keptSteps(app.client, clip.id);
  const saturated = steps.map((s) => (s.kind === 'saturation' ? { ...s, params: { ...s.params, amount: 1.5 } } : s));
  await app.client.setSteps(clip.id, { clip: saturated });
  await page.getByText(/made elsewhere has been joined/).waitFor();
  await page.getByRole('button', { name: 'Undo' }).click();
  await settled(page);
  await until(numbers, (n) => n.black === 0);
  expect((await keptSteps(app.client, clip.id)).find((s) => s.kind === 'saturation')!.params.amount).toBe(1.5);
});

test('in and out that were set elsewhere show while the clip is open, and undo does not take them back', async () => {
  await open();
  await page.getByRole('button', { name: 'Set out to this frame' }).click();
  const trim = async () => {
    const { inFrame, outFrame } = (await app.client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip;
    return [inFrame, outFrame];
  };
  const [, out] = await until(trim, ([, last]) => last < clip.outFrame);
  await settled(page);
  await app.client.ask('PATCH', `/clips/${clip.id}`, { inFrame: 3 });
  await page.getByText(/set elsewhere, and is so here now/).waitFor();
  await page.getByRole('slider', { name: /^In/ }).filter({ visible: true }).waitFor();
  expect(await page.getByRole('slider', { name: /^In/ }).getAttribute('aria-valuenow')).toBe('3');
  await page.getByRole('button', { name: 'Undo' }).click();
  await until(trim, ([first, last]) => first === 3 && last > out);
});

test('a device without room says so, and never that an edit is kept on it', async () => {
  await open();
  await off();
  await page.evaluate(() => {
    Storage.prototype.setItem = () => {
      throw new DOMException('full', 'QuotaExceededError');
    };
  });
  await more('Black point');
  await state(/not kept: no server, device full/);
  await back();
  await settled(page);
  expect(await numbers()).toMatchObject({ black: 0.005 });
});

test('what the server refuses or has no room for is said as what it is, and stays on the device', async () => {
  await open();
  const answer = (status: number, code: string, detail: string) => async (route: Route) =>
    route.fulfill({
      status,
      contentType: 'application/problem+json',
      json: { type: 'x', title: 'x', status, code, detail },
    });
  await page.route('**/changes', answer(507, 'disk-full', 'The server’s disk is full.'));
  await more('Black point');
  await state(/on this device: server’s disk full/);
  await page.unroute('**/changes');
  await settled(page);
  await page.route('**/changes', answer(400, 'bad-request', 'clip.next.0: no.'));
  await more('Black point');
  await state(/not kept: refused/);
  await page.getByTestId('keep-state').click();
  await page.getByText(/clip\.next\.0: no\./).waitFor();
  expect(await onDevice()).toBe(1);
  await page.getByRole('button', { name: 'Let it go' }).click();
  await settled(page);
  expect(await textOf(page.getByTestId('value-black'))).toBe('+0.5 %');
  expect(await onDevice()).toBe(0);
  await page.unroute('**/changes');
  // It does not block the other clip.
  await open(page, other);
  await more('Black point');
  await settled(page);
});

test('an out that could not be sent before its page went is sent by a page that opens no clip', async () => {
  await open();
  const out = async () => (await app.client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip.outFrame;
  const before = await out();
  const own = `**/api/clips/${clip.id}`;
  await page.context().route(own, (route) => (route.request().method() === 'PATCH' ? route.abort() : route.continue()));
  await page.getByRole('button', { name: 'Set out to this frame' }).click();
  await page.waitForFunction((id) => localStorage.getItem('inkavo-clips-pending')?.includes(id), clip.id);
  await page.goto('about:blank');
  await page.context().unroute(own);
  expect(await out()).toBe(before);
  await page.goto(app.running.address);
  await until(out, (now) => now !== before);
});

test('beside regions with thousands of keys an edit is as small as any: kept on the device, and sent', async () => {
  // Three regions tracked for half a minute: 1.9 MB. Together with their previous state, twice that had to be stored
  // and sent.
  const keys = Array.from({ length: 1000 }, (_, i) => ({ seconds: i / 30, x: 0.3 + 0.1 * Math.sin(i / 9), y: 0.3 }));
  const turn = (i: number): number => 0.5 * Math.sin(i * (Math.PI / 6));
  const points = Array.from({ length: 12 }, (_, i) => ({ x: turn(i), y: turn(i + 3) }));
  const path = { id: 'shape', kind: 'path', keys: keys.map((key) => ({ ...key, width: 0.2 + 1 / 7e4, points })) };
  const regions = ['one', 'two', 'three'].map((id) => newStep('region', id, { shapes: [path] }));
  const steps = [...regions, newStep('range', 'range'), { ...newStep('saturation', 's'), region: 'one' }];
  expect(JSON.stringify(steps).length).toBeGreaterThan(1.8e6);
  await app.client.setSteps(clip.id, { clip: steps });
  await editOff();
  expect(await onDevice()).toBe(1);
  await page.reload();
  await state(/on this device/);
  await takeStep(page, 'range');
  const sent = page.waitForRequest('**/changes');
  await back();
  expect((await sent).postData()!.length).toBeLessThan(5000);
  await settled(page);
  expect(await keptSteps(app.client, clip.id)).toEqual(withRange(steps, { black: 0.005 }));
});

test('an edit that an earlier version of the application left on the device is sent', async () => {
  await page.goto(app.running.address);
  const {
    camera,
    outing,
    clip: now,
  } = await app.client.get<{ camera: Camera; outing: Outing; clip: Clip }>(`/clips/${clip.id}`);
  const base = { camera: camera.steps, outing: outing.steps, clip: now.steps, overrides: now.overrides };
  const next = { ...base, clip: withRange(now.steps, { black: 0.02 }) };
  const entry = { clipId: clip.id, clipName: clip.name, frame: 0, tab: 'closed-by-now', at: 1e12, base, next };
  await page.evaluate(
    (text) => localStorage.setItem('inkavo-change-left-behind', text),
    JSON.stringify({ id: 'left-behind', ...entry }),
  );
  await page.reload();
  await until(numbers, (params) => params.black === 0.02);
  await until(onDevice, (count) => count === 0);
});
