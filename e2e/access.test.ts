import { readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { SIZES } from './browser';
import { openTestApp, settled, tapPicture, type TestApp } from './testApp';

const AXE = readFileSync(require.resolve('axe-core/axe.min.js'), 'utf8');

let app: TestApp;
let clip: Clip;
let bench: string;
beforeAll(async () => {
  app = await openTestApp();
  clip = (await app.clips('boat_shed_01')).boat_shed_01;
  bench = `/clip/${clip.id}`;
  const params: Record<string, Record<string, unknown>> = {
    hues: { stems: [{ hue: 0.4, turn: 0.05 }] },
    water: {
      depth: {
        keys: [
          { seconds: 0, value: 0 },
          { seconds: 2, value: 0.2, ease: 'hold' },
        ],
      },
    },
  };
  const kinds = ['convert', 'water', 'haze', 'balance', 'range', 'bands', 'curves', 'saturation', 'hues', 'lut'];
  const steps = kinds.map((kind) => newStep(kind, kind, params[kind]));
  await app.client.setSteps(clip.id, { clip: steps });
});
afterAll(() => app.close());

const TAGS = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'];
// Experimental: it joins the words of neighbouring lines without a space between them.
const OFF = { 'label-content-name-mismatch': { enabled: false } };
/**
 * Dusk: everything of WCAG 2.2, levels A and AA. Noon differs only in colours, and its text contrast is that of AAA.
 */
const CHECKS = {
  dusk: { runOnly: { type: 'tag', values: TAGS }, rules: OFF },
  noon: { runOnly: { type: 'rule', values: ['color-contrast', 'color-contrast-enhanced', 'link-in-text-block'] } },
} as const;

/** Findings of the automated check in a mode, one line each. */
const violations = (page: Page, mode: keyof typeof CHECKS): Promise<string[]> =>
  page.evaluate(
    async ([asked, checks]) => {
      document.documentElement.dataset.mode = asked;
      // The new colours appear with the next drawing.
      await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
      const { axe } = window as unknown as { axe: { run(o: object): Promise<{ violations: Found[] }> } };
      type Found = { id: string; help: string; nodes: { html: string; failureSummary?: string }[] };
      const found = await axe.run(checks);
      return found.violations.map(
        (v: Found) =>
          `${v.id}: ${v.help}: ${v.nodes
            .map((n) => n.html.slice(0, 160))
            .slice(0, 3)
            .join(' | ')}`,
      );
    },
    [mode, CHECKS[mode]] as const,
  );

/** Minimum width and height of a touch target in pixels (WCAG 2.2, 2.5.5, level AAA). */
const TARGET = 44;
/**
 * Controls with a smaller touch target, as "name: width × height": measured along the lines through the centre of each,
 * where a finger reaches it and nothing that covers it, to two pixels (the outline of its container). Includes those
 * that the edge of the window cuts off where nothing can be scrolled. Disabled ones are excluded, and those that have
 * to be scrolled to.
 */
const hardToTouch = (page: Page): Promise<string[]> =>
  page.evaluate((least) => {
    const roles = ['button', 'radio', 'checkbox', 'switch', 'tab', 'menuitem', 'link'].map((role) => `[role=${role}]`);
    const asked = [...roles, 'button', 'a', 'input', 'select'].join();
    const reach = (element: Element, x: number, y: number, dx: number, dy: number): number => {
      let n = 0;
      while (n < least && element.contains(document.elementFromPoint(x + (n + 1) * dx, y + (n + 1) * dy))) n += 1;
      return n;
    };
    const pushedAside = (element: Element | null): boolean =>
      element !== null && (getComputedStyle(element).overflowX === 'auto' || pushedAside(element.parentElement));
    return Array.from(document.querySelectorAll(asked)).flatMap((element) => {
      const box = element.getBoundingClientRect();
      if (element.ariaDisabled === 'true' || box.width === 0 || box.top < 0 || box.bottom > innerHeight) return [];
      const name = (element.getAttribute('aria-label') ?? element.textContent ?? element.tagName).slice(0, 60);
      if (box.left < -1 || box.right > innerWidth + 1) return pushedAside(element) ? [] : [`${name}: cut off`];
      const [x, y] = [box.left + box.width / 2, box.top + box.height / 2];
      if (!element.contains(document.elementFromPoint(x, y))) return [];
      const across = reach(element, x, y, 1, 0) + reach(element, x, y, -1, 0) + 1;
      const down = reach(element, x, y, 0, 1) + reach(element, x, y, 0, -1) + 1;
      return Math.min(across, down) < least - 2 ? [`${name}: ${across} × ${down}`] : [];
    });
  }, TARGET);

const button = (page: Page, name: string | RegExp) =>
  page
    .getByRole('button', { name, exact: typeof name === 'string' })
    .first()
    .click();
const shown = async (page: Page, id: string): Promise<void> => {
  const chip = page.getByTestId(`step-${id}`);
  if ((await chip.getAttribute('aria-pressed')) === 'false') await chip.click();
  await settled(page);
};

/** The next trace, where only one is shown. */
const nextView = async (page: Page): Promise<void> => {
  const next = page.getByRole('button', { name: /show the next view$/ });
  if (await next.isVisible()) await next.click();
};

/** Every screen and sheet, and how to reach it. */
const SCREENS: [string, (page: Page, go: (path: string) => Promise<unknown>) => Promise<unknown>][] = [
  ['the outings', (page, go) => go('/').then(() => page.getByText('Saltmark survey').waitFor())],
  [
    'an outing',
    (page, go) => go(`/outing/${clip.outingId}`).then(() => page.getByText('boat_shed_01').first().waitFor()),
  ],
  ['the name of an outing', (page) => button(page, /^This outing/)],
  [
    'a camera',
    async (page) => {
      await button(page, 'Close');
      await button(page, /^Camera /);
    },
  ],
  [
    'the camera of a clip',
    async (page) => {
      await button(page, 'Close');
      await button(page, /^Clip boat_shed_01/);
      await page.getByRole('radio', { name: 'A new camera' }).click();
    },
  ],
  [
    'several clips',
    async (page) => {
      await button(page, 'Close');
      await button(page, 'Choose several clips');
      await page.getByRole('checkbox', { name: /boat_shed_01/ }).click();
      await button(page, 'With them …');
    },
  ],
  [
    'what was removed',
    async (page, go) => {
      await go('/');
      await button(page, /^Removed/);
      await page.getByText('Nothing was removed').waitFor();
    },
  ],
  ['an address that leads nowhere', (_page, go) => go('/nowhere')],
  ['the queue', (_page, go) => go('/exports')],
  ['the bench', (page, go) => go(bench).then(() => settled(page))],
  ['playing', (page) => button(page, /speed, loop, in and out/)],
  [
    'copying steps',
    async (page) => {
      await button(page, 'Close');
      await button(page, 'Copy and paste steps');
    },
  ],
  ['to which clips', (page) => button(page, 'To these clips …')],
  [
    'the help',
    async (page) => {
      await button(page, 'Close');
      await page.keyboard.press('Shift+?');
      await page.getByRole('dialog', { name: 'Help' }).waitFor();
    },
  ],
  [
    'a hint',
    async (page) => {
      await button(page, 'Show the hints again');
      await page.getByRole('note').waitFor();
    },
  ],
  [
    'side by side',
    async (page) => {
      await button(page, 'Close this hint');
      await button(page, 'Compare and check');
      await button(page, 'Side by side');
    },
  ],
  [
    'the whole screen',
    async (page) => {
      await button(page, 'Compare and check');
      await button(page, 'One picture');
      await button(page, 'Compare and check');
      await button(page, 'Full screen');
      await page.getByTestId('full-bar').waitFor();
    },
  ],
  ['balance', (page) => button(page, 'Leave full screen').then(() => shown(page, 'balance'))],
  ['bands', (page) => shown(page, 'bands')],
  ['curves', (page) => shown(page, 'curves')],
  ['the hue band', (page) => shown(page, 'hues')],
  ['a table', (page) => shown(page, 'lut')],
  ['what concerns a step', (page) => page.getByTestId('step-lut').click()],
  [
    'comparing',
    async (page) => {
      await button(page, 'Close');
      await button(page, 'Compare and check');
    },
  ],
  ['a split', (page) => button(page, 'Split')],
  [
    'a touched spot',
    async (page) => {
      await button(page, 'Compare and check');
      await button(page, 'No split');
      await tapPicture(page, 0.4, 0.3);
      await page.getByRole('button', { name: 'This is neutral' }).waitFor();
    },
  ],
  ['more', (page) => button(page, 'More')],
  [
    'a first pass',
    async (page) => {
      await button(page, 'Close');
      await button(page, /^First pass/);
      await page
        .getByText(/Nothing to mend|They are ordinary steps/)
        .first()
        .waitFor();
      await page.getByText('Reading the whole clip …').waitFor({ state: 'detached' });
    },
  ],
  [
    'a hold check',
    async (page) => {
      await button(page, 'Close');
      await button(page, 'Compare and check');
      await button(page, /^Hold check/);
      await button(page, /^Measure/);
      await page.getByRole('button', { name: 'Measure again' }).waitFor();
    },
  ],
  [
    'water',
    async (page) => {
      await button(page, 'Close');
      await shown(page, 'water');
    },
  ],
  ['haze', (page) => shown(page, 'haze')],
  ['a dive log', (page) => shown(page, 'water').then(() => button(page, 'Dive log'))],
  [
    'keyframes',
    async (page) => {
      await button(page, 'Close');
      await button(page, 'Keyframes of the step in hand');
      await page.getByTestId('key-lane').waitFor();
    },
  ],
  [
    'the pad',
    async (page) => {
      await button(page, 'Close the keyframes');
      await shown(page, 'convert');
      await nextView(page);
      await nextView(page);
      await page.getByRole('button', { name: 'Targets of the standard bars' }).waitFor();
    },
  ],
  ['the histogram', (page) => nextView(page)],
];

test.each(['phone', 'wide'] as const)(
  'no violation on any screen at the size of a %s, in Dusk and in Noon',
  async (size) => {
    const page = await app.page(SIZES[size]);
    const go = (path: string) => page.goto(app.running.address + path);
    const found: string[] = [];
    for (const [name, reach] of SCREENS) {
      await reach(page, go);
      await page.waitForTimeout(150);
      if (await page.evaluate(() => !('axe' in window))) await page.evaluate(AXE);
      for (const mode of ['noon', 'dusk'] as const) {
        found.push(...(await violations(page, mode)).map((v) => `${name}, ${mode}: ${v}`));
        // Noon differs only in colours.
        if (mode === 'dusk') found.push(...(await hardToTouch(page)).map((v) => `${name}, hard to touch: ${v}`));
      }
    }
    expect(found).toEqual([]);
    await page.context().close();
  },
);
