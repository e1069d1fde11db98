import type { Page } from 'playwright-core';
import type { Clip } from '@inkavo/core/model/outing';
import { newStep } from '@inkavo/core/model/grade';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { dragBy, openTestApp, screenPicture, settled, textOf, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let clip: Clip;
let other: Clip;
beforeAll(async () => {
  app = await openTestApp();
  const clips = await app.clips('boat_shed_01', 'paddle_out_07');
  [clip, other] = [clips.boat_shed_01, clips.paddle_out_07];
  page = await app.page(SIZES.phone);
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
});
afterAll(() => app.close());

const button = (name: string | RegExp) => page.getByRole('button', { name, exact: typeof name === 'string' });
const frame = async (): Promise<number> => Number(await page.getByTestId('scrub').getAttribute('aria-valuenow'));
const stored = async (): Promise<Clip> => (await app.client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip;

test('in and out are dragged: the picture follows, the kept length is shown, each drag is one thing to undo', async () => {
  const last = clip.facts.frames - 1;
  const { width } = (await page.getByTestId('scrub').boundingBox())!;
  await dragBy(page, page.getByTestId('trim-in'), width / 4, 0);
  const { inFrame } = await until(stored, (c) => c.inFrame > 0);
  expect(Math.abs(inFrame - last / 4)).toBeLessThan(3);
  expect(await frame()).toBe(inFrame);
  await dragBy(page, page.getByTestId('trim-out'), -width / 4, 0);
  const { outFrame } = await until(stored, (c) => c.outFrame < last);
  expect(await frame()).toBe(outFrame);
  const kept = outFrame - inFrame + 1;
  const seconds = Math.floor(kept / 30);
  expect(await textOf(page.getByTestId('length'))).toBe(`kept 0:0${seconds}.${String(kept % 30).padStart(2, '0')}`);
  // Neither can pass the other.
  await dragBy(page, page.getByTestId('trim-in'), width, 0);
  await until(stored, (c) => c.inFrame === outFrame);
  await button('Undo').click();
  await until(stored, (c) => c.inFrame === inFrame && c.outFrame === outFrame);
  await button('Undo').click();
  await button('Undo').click();
  await until(stored, (c) => c.inFrame === 0 && c.outFrame === last);
  await page.reload();
  await settled(page);
  await button('Redo').click();
  await until(stored, (c) => c.inFrame === inFrame);
  await button('Undo').click();
  await until(stored, (c) => c.inFrame === 0);
});

test('in and out that the server does not get are kept here, said, and sent when it can be reached', async () => {
  await page
    .context()
    .route('**/api/clips/*', (route) => (route.request().method() === 'PATCH' ? route.abort() : route.continue()));
  await page.getByTestId('trim-in').focus();
  await page.keyboard.press('PageUp');
  await page
    .getByTestId('keep-state')
    .getByText(/keeping|on this device/)
    .waitFor();
  await page.reload();
  await page.getByTestId('trim-in').waitFor();
  expect(await page.getByTestId('trim-in').getAttribute('aria-valuenow')).toBe('10');
  expect((await stored()).inFrame).toBe(0);
  await page.context().unroute('**/api/clips/*');
  await page.getByTestId('keep-state').click();
  await until(stored, (c) => c.inFrame === 10);
  await page.getByTestId('keep-state').getByText('kept', { exact: true }).waitFor();
  await app.client.ask('PATCH', `/clips/${clip.id}`, { inFrame: 0 });
});

test('it plays at a quarter, half and twice the speed, and stops at out where it is told to', async () => {
  await page.reload();
  await settled(page);
  await app.client.ask('PATCH', `/clips/${clip.id}`, { inFrame: 0, outFrame: 45 });
  await page.reload();
  await settled(page);
  const advance = async (): Promise<number> => {
    await page.keyboard.press('Home');
    await page.getByTestId('scrub').focus();
    await page.keyboard.press('Home');
    await settled(page);
    await button('Play').click();
    // Over 20 frames by the page's own clock: a machine that stalls for a second would break a fixed time.
    const moved = await page.evaluate(
      (frames) =>
        new Promise<number>((resolve) => {
          const scrub = document.querySelector('[data-testid=scrub]')!;
          let [begun, first] = [0, 0];
          const look = (now: number): void => {
            const at = Number(scrub.getAttribute('aria-valuenow'));
            if (!begun && at > 2) [begun, first] = [now, at];
            // After out it starts over.
            const passed = at >= first ? at - first : at + frames - first;
            if (begun && passed >= 20) resolve((passed * 1000) / (now - begun));
            else requestAnimationFrame(look);
          };
          look(performance.now());
        }),
      46,
    );
    await button('Pause').click();
    await settled(page);
    return moved;
  };
  const speed = async (label: string): Promise<void> => {
    await button(/speed, loop, in and out/).click();
    await page.getByRole('radio', { name: label }).click();
    await button('Close').click();
  };
  await speed('A quarter of the speed');
  expect(await textOf(page.getByTestId('time'))).toContain('¼×');
  const slow = await advance();
  await speed('The recorded speed');
  const plain = await advance();
  console.log(`frames a second at a quarter: ${slow.toFixed(1)}, at the recorded speed: ${plain.toFixed(1)}`);
  expect(slow).toBeLessThan(plain * 0.7);
  expect(slow).toBeGreaterThan(2);

  await button(/speed, loop, in and out/).click();
  await page.getByRole('radio', { name: 'Twice the speed' }).click();
  await page.getByRole('radio', { name: 'Stop' }).click();
  await button('Close').click();
  await button('Play').click();
  // Without a loop it stops at out.
  await until(frame, (f) => f === 45);
  await button('Play').waitFor();
  await settled(page);
  await app.client.ask('PATCH', `/clips/${clip.id}`, { outFrame: clip.facts.frames - 1 });
});

test('where the proxy comes slowly it is said; paused before it begins, nothing is wrong', async () => {
  let slow = true;
  const context = page.context();
  await context.route('**/proxy.mp4*', async (route) => {
    for (let waited = 0; slow && waited < 100; waited += 1) await new Promise((resolve) => setTimeout(resolve, 100));
    await route.continue();
  });
  await page.reload();
  await settled(page);
  const coming = page.getByRole('status', { name: 'Waiting for more of the clip to arrive' });
  await button('Play').click();
  await coming.waitFor();
  await button('Pause').click();
  await coming.waitFor({ state: 'detached' });
  await button('Play').click();
  await coming.waitFor();
  slow = false;
  await coming.waitFor({ state: 'detached' });
  const begun = await frame();
  await until(frame, (f) => f !== begun);
  await button('Pause').click();
  await settled(page);
  expect(await page.getByText('cannot be played here').count()).toBe(0);
  await context.unroute('**/proxy.mp4*');
});

test('nothing moves in colours that are not known yet: the first frame waits until the browser is measured', async () => {
  let measured = false;
  await page.route('**/proxy-chart.mp4*', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 700));
    measured = true;
    await route.continue();
  });
  await page.reload();
  await page.getByTestId('picture').waitFor();
  await button('Play').click();
  await page.waitForFunction(
    () => document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset.showing === 'moving',
  );
  expect(measured).toBe(true);
  await button('Pause').click();
  await settled(page);
  await page.unroute('**/proxy-chart.mp4*');
});

test('the play button winds: to the right on, to the left back, and stands where it is let go', async () => {
  await page.reload();
  await settled(page);
  const start = await frame();
  const box = (await button('Play').boundingBox())!;
  const [x, y] = [box.x + 22, box.y + 22];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 90, y, { steps: 4 });
  await page.waitForTimeout(500);
  const forward = await frame();
  expect(forward).toBeGreaterThan(start + 10);
  await page.mouse.move(Math.max(1, x - 90), y, { steps: 4 });
  await page.waitForTimeout(400);
  await page.mouse.up();
  const stopped = await frame();
  expect(stopped).toBeLessThan(forward + 60);
  await settled(page);
  expect(await frame()).toBe(stopped);
  await button('Play').waitFor();
});

test('100 % shows one pixel of the file as one of the screen; full screen gives the picture the window, Back ends it', async () => {
  await button('Compare and check').click();
  await button('100 %').click();
  const zoom = await page.getByRole('button', { name: /times: show the whole picture/ }).getAttribute('aria-label');
  const width = await page.evaluate(() => document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.width);
  expect(Number.parseFloat(zoom!)).toBeCloseTo(clip.facts.width / width, 1);
  await button('Compare and check').click();
  await button('Whole picture').click();

  await button('Compare and check').click();
  await button('Full screen').click();
  await page.getByTestId('full-bar').waitFor();
  const box = (await page.getByTestId('picture').boundingBox())!;
  const viewport = page.viewportSize()!;
  expect(Math.max(box.width / viewport.width, box.height / viewport.height)).toBeGreaterThan(0.99);
  expect(await page.getByTestId('step-range').isVisible()).toBe(false);
  await page.goBack();
  await page.getByTestId('step-range').waitFor();
  await settled(page);
});

test('side by side: as recorded at the left, graded at the right, each whole; also without the step in hand', async () => {
  await app.client.setSteps(clip.id, { clip: [newStep('saturation', 'saturation', { amount: 0 })] });
  await page.reload();
  await settled(page);
  await button('Compare and check').click();
  await button('Side by side').click();
  /** Mean difference between red and blue in the centre of the left and of the right picture: 0 for grey. */
  const colour = async (): Promise<[number, number]> => {
    await settled(page);
    const { width, height, rgb } = await screenPicture(page);
    const sums: [number, number] = [0, 0];
    for (let y = Math.ceil(height * 0.3); y < height * 0.7; y += 3)
      for (let x = 0; x < width; x += 3) {
        const p = (y * width + x) * 3;
        sums[x < width / 2 ? 0 : 1] += Math.abs(rgb[p] - rgb[p + 2]);
      }
    return sums;
  };
  await page.getByText('as recorded', { exact: true }).waitFor();
  const [left, right] = await colour();
  expect(left).toBeGreaterThan(20 * Math.max(1, right));
  // The whole picture fits each half: only the surround is above and below.
  const { width, rgb } = await screenPicture(page);
  const corner = [rgb[0], rgb[1], rgb[2], rgb[(width - 1) * 3]];
  expect(Math.max(...corner) - Math.min(...corner)).toBe(0);
  await button('Compare and check').click();
  await page.getByRole('radio', { name: 'Without this step' }).click();
  await button('Close').click();
  await page.getByText('without the step', { exact: true }).waitFor();
  const [without, graded] = await colour();
  expect(without).toBeGreaterThan(20 * Math.max(1, graded));
  await button('Compare and check').click();
  await button('One picture').click();
  await settled(page);
});

describe('copying steps', () => {
  beforeAll(async () => {
    await app.client.setSteps(clip.id, {
      clip: [
        newStep('balance', 'balance', { kelvin: 5200 }),
        newStep('range', 'range', { black: -0.05 }),
        newStep('saturation', 'saturation'),
      ],
    });
    await page.goto(`${app.running.address}/clip/${clip.id}`);
    await settled(page);
  });
  const steps = async (id: string) => (await app.client.get<{ clip: Clip }>(`/clips/${id}`)).clip.steps;

  test('several at once, to these clips: each takes the place of its kind, and it can be undone', async () => {
    const before = await steps(other.id);
    await button('Copy and paste steps').click();
    const sheet = page.getByRole('dialog', { name: 'Copy and paste steps' });
    // A choice that has an effect is selected already.
    expect(await sheet.getByRole('checkbox', { name: 'Balance' }).getAttribute('aria-checked')).toBe('true');
    expect(await sheet.getByRole('checkbox', { name: 'Saturation' }).getAttribute('aria-checked')).toBe('false');
    await sheet.getByRole('button', { name: 'To these clips …' }).click();
    await page.getByRole('checkbox', { name: /paddle_out_07/ }).click();
    await button('Put into 1 clip').click();
    await page.getByText('Pasted 2 steps into paddle_out_07.mp4.').waitFor();
    const after = await steps(other.id);
    expect(after.map((s) => s.id)).toEqual(before.map((s) => s.id));
    expect(after.find((s) => s.kind === 'balance')!.params).toMatchObject({ kelvin: 5200 });
    expect(after.find((s) => s.kind === 'range')!.params).toMatchObject({ black: -0.05 });
    await page.getByTestId('messages').getByRole('button', { name: 'Undo' }).click();
    await until(
      () => steps(other.id),
      (now) => JSON.stringify(now) === JSON.stringify(before),
    );
  });

  test('by Ctrl+C and Ctrl+V: into another clip in the place of its step, in the same clip beside it', async () => {
    await page.getByTestId('step-range').click();
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await page.keyboard.press('Control+c');
    await page.getByText('Copied: Range.').waitFor();
    await page.keyboard.press('Control+v');
    await until(
      () => steps(clip.id),
      (now) => now.filter((s) => s.kind === 'range').length === 2,
    );
    await page.keyboard.press('Control+z');
    await until(
      () => steps(clip.id),
      (now) => now.filter((s) => s.kind === 'range').length === 1,
    );
    await page.goto(`${app.running.address}/clip/${other.id}`);
    await settled(page);
    await button('Copy and paste steps').click();
    await button('Paste: Range').click();
    await until(
      () => steps(other.id),
      (now) => now.filter((s) => s.kind === 'range' && s.params.black === -0.05).length === 1,
    );
    expect((await steps(other.id)).filter((s) => s.kind === 'range')).toHaveLength(1);
  });
});

test('a clip is split at the frame shown: the other part has its steps, is opened, and the cut is undone and done again', async () => {
  const last = clip.facts.frames - 1;
  await app.client.setSteps(clip.id, { clip: [newStep('saturation', 'strong', { amount: 1.4 })] });
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  await page.getByTestId('time').tap();
  await button('Split at the frame shown').waitFor();
  await page.getByLabel('Frame shown').fill('0:02.00');
  await page.getByLabel('Frame shown').press('Enter');
  await button('Split at the frame shown').tap();
  await page.getByText('Split. Another clip begins at 0:02.00.').waitFor();
  await until(stored, (c) => c.outFrame === 59);
  expect(await page.getByTestId('trim-out').getAttribute('aria-valuenow')).toBe('59');
  await button('Open it').tap();
  await page.getByRole('heading', { name: 'boat_shed_01 2.mp4' }).waitFor();
  await settled(page);
  expect(await frame()).toBeGreaterThanOrEqual(60);
  const id = page.url().split('/').at(-1)!;
  const rest = async (): Promise<Clip> => (await app.client.get<{ clip: Clip }>(`/clips/${id}`)).clip;
  expect(await rest()).toMatchObject({ inFrame: 60, outFrame: last, steps: (await stored()).steps });
  await page.getByTestId('step-strong').waitFor();

  await page.goto(`${app.running.address}/outing/${clip.outingId}`);
  await page.getByText('boat_shed_01 2.mp4').waitFor();
  await button(/^Undo: cut/).click();
  await page.getByText('boat_shed_01 2.mp4').waitFor({ state: 'detached' });
  await until(stored, (c) => c.outFrame === last);
  await button(/^Redo: cut/).click();
  await page.getByText('boat_shed_01 2.mp4').waitFor();
  await until(stored, (c) => c.outFrame === 59);
});
