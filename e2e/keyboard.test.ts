import type { Page } from 'playwright-core';
import type { Job } from '@inkavo/core/model/job';
import type { Clip } from '@inkavo/core/model/outing';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { keptSteps, openTestApp, openStep, settled, textOf, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let clip: Clip;
beforeAll(async () => {
  app = await openTestApp();
  clip = (await app.clips('boat_shed_01')).boat_shed_01;
  page = await app.page(SIZES.wide);
});
afterAll(() => app.close());

/** The accessible name of the focused element. */
const focused = () =>
  page.evaluate(() => {
    const at = document.activeElement;
    return at?.getAttribute('aria-label') ?? at?.textContent ?? '';
  });
/** Presses Tab until an element has the focus; returns how often. */
async function tabTo(name: RegExp, most = 40): Promise<number> {
  for (let stops = 1; stops <= most; stops += 1) {
    await page.keyboard.press('Tab');
    if (name.test(await focused())) return stops;
  }
  throw new Error(`${name} was not reached by ${most} stops; the last is "${await focused()}".`);
}
const press = (...keys: string[]) =>
  keys.reduce((done, key) => done.then(() => page.keyboard.press(key)), Promise.resolve());
const frame = async (): Promise<number> => Number(await page.getByTestId('scrub').getAttribute('aria-valuenow'));

test('by keyboard alone: from the start page to a finished export', async () => {
  await page.goto(app.running.address);
  await page.getByRole('link', { name: /Saltmark survey/ }).waitFor();
  await tabTo(/Saltmark survey/);
  await press('Enter');
  await page.getByRole('link', { name: /boat_shed_01/ }).waitFor();
  await tabTo(/boat_shed_01/);
  await press('Enter');
  await settled(page);
  // The step in hand is at most six tab stops from the top of the page.
  expect(await tabTo(/^To the step in hand/)).toBe(1);
  await press('Enter');
  const first = await focused();
  expect(first).not.toMatch(/^To the step/);
  // To the range step by the key for the next step; then along its rulers, and one of them up.
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  for (let i = 0; i < 6 && (await page.getByTestId('step-range').getAttribute('aria-pressed')) !== 'true'; i += 1)
    await press('n');
  await page.keyboard.press('Tab');
  await page.evaluate(() => document.querySelector<HTMLElement>('[data-ruler]')!.focus());
  const rulers = await page.locator('[data-ruler]').count();
  expect(rulers).toBeGreaterThan(1);
  // One tab stop for all of them, arrow keys inside.
  expect(await page.locator('[data-ruler][tabindex="0"]').count()).toBe(1);
  const one = await focused();
  await press('ArrowDown');
  const two = await focused();
  expect(two).not.toBe(one);
  await press('ArrowRight', 'ArrowRight');
  const changed = (await until(
    () => keptSteps(app.client, clip.id),
    (steps) => JSON.stringify(steps.find((s) => s.kind === 'range')!.params) !== '{}',
  ))!.find((s) => s.kind === 'range')!.params;
  expect(Object.values(changed).filter((v) => v !== 0).length).toBeGreaterThan(0);
  // Undone and redone.
  await press('Control+z', 'Control+z', 'Control+Shift+z', 'Control+Shift+z');
  await settled(page);

  await tabTo(/^Export$/);
  await press('Enter');
  await page.getByRole('dialog', { name: 'Export this clip' }).waitFor();
  // A choice is one tab stop; arrow keys select.
  await page.waitForFunction(() => document.activeElement?.closest('[role=dialog]') !== null);
  for (let i = 0; i < 6 && !/H\.264/.test(await focused()); i += 1) await page.keyboard.press('Tab');
  await press('ArrowDown');
  expect(await page.getByRole('radio', { name: /H\.265/ }).getAttribute('aria-checked')).toBe('true');
  await press('End');
  expect(await page.getByRole('radio', { name: /FFV1/ }).getAttribute('aria-checked')).toBe('true');
  await tabTo(/^Export$/, 12);
  await press('Enter');
  await page.waitForURL('**/exports');
  await until(
    () => app.client.get<Job[]>('/jobs'),
    (list) => list.some((j) => j.kind === 'export' && j.state === 'done'),
  );
  await page.getByRole('link', { name: /^Save boat_shed_01/ }).waitFor();
  await tabTo(/^Save boat_shed_01/);
});

test('shortcuts of the bench do what the list under ? says; typed text and open sheets have the keys to themselves', async () => {
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  await press('Shift+?');
  const list = page.getByRole('dialog', { name: 'Help' });
  await list.getByText('Start here: set in').waitFor();
  // Nothing moves behind a sheet.
  const before = await frame();
  await press('ArrowRight');
  expect(await frame()).toBe(before);
  await press('Escape');
  await list.waitFor({ state: 'detached' });
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());

  await press('ArrowRight');
  expect(await frame()).toBe(before + 1);
  await press('Shift+ArrowRight', 'ArrowLeft');
  expect(await frame()).toBe(before + 10);
  await press('s');
  await press('End', 'ArrowLeft', 'e');
  await until(
    async () => (await app.client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip,
    (c) => c.inFrame === before + 10 && c.outFrame === clip.facts.frames - 2,
  );
  await press('Home');
  expect(await frame()).toBe(before + 10);
  await press('Control+z', 'Control+z');
  await until(
    async () => (await app.client.get<{ clip: Clip }>(`/clips/${clip.id}`)).clip,
    (c) => c.inFrame === 0 && c.outFrame === clip.facts.frames - 1,
  );
  await press('b');
  await page.getByText('As recorded', { exact: true }).waitFor();
  await press('b');
  await page.getByText('As recorded', { exact: true }).waitFor({ state: 'detached' });
  const reading = () => textOf(page.getByTestId('reading'));
  const said = await reading();
  await press('r');
  await until(reading, (now) => now !== said);
  await press('Space');
  await page.getByRole('button', { name: 'Pause' }).waitFor();
  await press('Space');
  await page.getByRole('button', { name: 'Play', exact: true }).waitFor();
  await settled(page);
  await press('1');
  await page.getByRole('button', { name: /times: show the whole picture/ }).waitFor();
  await press('1');
  await press('w');
  await page.getByTestId('full-bar').waitFor();
  await press('w');
  await page.getByTestId('full-bar').waitFor({ state: 'detached' });

  // In a text field letters are text.
  await openStep(page, 'range');
  const name = page.getByRole('textbox', { name: 'Name of this step' });
  await name.fill('');
  await name.pressSequentially('serb');
  expect(await name.inputValue()).toBe('serb');
  await name.fill('');
  await press('Escape');

  // Letter shortcuts can be switched off; those with Ctrl stay.
  await press('Shift+?');
  await page.getByRole('radiogroup', { name: 'Keys without Ctrl or Cmd' }).getByRole('radio', { name: 'Off' }).click();
  await press('Escape');
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await press('b');
  expect(await page.getByText('As recorded', { exact: true }).isVisible()).toBe(false);
});

test.each(Object.entries(SIZES))(
  'on a %s the focus returns where it came from after a sheet and a keypad',
  async (_n, size) => {
    const own = await app.page(size);
    await own.goto(`${app.running.address}/clip/${clip.id}`);
    await settled(own);
    const at = () => own.evaluate(() => document.activeElement?.getAttribute('aria-label'));
    // A sheet handles keys once it has the focus, shortly after it appears.
    const escape = async (): Promise<void> => {
      await own.waitForFunction(() => Boolean(document.activeElement?.closest('[role=dialog]')));
      await own.keyboard.press('Escape');
      await own.getByRole('dialog').waitFor({ state: 'detached' });
    };
    for (const label of ['Compare and check', 'More']) {
      await own.getByRole('button', { name: label, exact: true }).focus();
      await own.keyboard.press('Enter');
      await own.getByRole('dialog').waitFor();
      await escape();
      await own.waitForFunction((l) => document.activeElement?.getAttribute('aria-label') === l, label);
      expect(await at()).toBe(label);
    }
    await own.getByTestId('step-saturation').click();
    const ruler = own.getByTestId('tray').getByRole('slider', { name: 'Saturation' });
    await ruler.focus();
    await own.keyboard.press('Enter');
    await own.getByRole('dialog', { name: 'Saturation' }).waitFor();
    await escape();
    await own.waitForFunction(() => document.activeElement?.getAttribute('aria-label') === 'Saturation');
    await own.context().close();
  },
);
