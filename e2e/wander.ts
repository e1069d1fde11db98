import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CDPSession, Page } from 'playwright-core';
import { randomFrom } from '@inkavo/core/random';
import { SIZES, type SizeName } from './browser';
import { stallingProxy, type StallingProxy } from './stallingProxy';
import { keptSteps, openTestApp, type TestApp } from './testApp';

/**
 * Uses the application at random, as `npm run wander -- SEED MINUTES SIZE`, and reports problems: errors in the page,
 * responses of 500 and above, technical texts, screens without controls, a bench that does not settle, and steps that
 * differ after a reload, or after undo and redo. With `poor` as a fourth argument, over a network that goes silent or
 * breaks off at random moments: once it is back, every screen must show its data. Not part of the tests: its findings
 * become tests.
 */
const [seed = 1, minutes = 5] = process.argv.slice(2, 4).map(Number);
const size = SIZES[(process.argv[4] ?? 'phone') as SizeName];
const poor = process.argv[5] === 'poor';
const CLIPS = ['boat_shed_01', 'channel_east_03', 'paddle_out_07', 'mooring_block_02'];
/** Number of actions between two checks of what is saved. */
const UNTIL_CHECK = 35;
const PATIENCE = { timeout: poor ? 60_000 : 40_000 };
const KEYS = ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Space', 'Enter', 'Tab', 'Delete', 'PageUp'];
const CHORDS = ['Control+z', 'Control+Shift+z', 'Escape'];
const TEXTS = ['', 'x', '12', '-3.5', '1e9', '<b> & 1', '0', 'été 日本', '     ', '99999999'];
/** Of a poor network: number of actions between two faults on average, and a fault's longest duration in milliseconds. */
const FAULTS = { every: 12, longest: 14_000 };
const ROUTES = [/\/api\/outings/, /\/api\/clips/, /\/frame/, /\/proxy/, /\/thumb/, /\/api\/events/, /\/changes/];
const WAITS = /cannot be reached|no server|waiting for the connection/;
const UNREADABLE = /undefined|NaN|\[object|Infinity|Invalid input/;

const random = randomFrom(seed);
const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
const spread = (reach: number): number => (random() - 0.5) * 2 * reach;
const pictures = mkdtempSync(join(tmpdir(), 'inkavo-wander-'));
const trail: string[] = [];
let found = 0;

async function report(page: Page, what: string): Promise<void> {
  found += 1;
  const path = join(pictures, `${found}.png`);
  await page.screenshot({ path }).catch(() => undefined);
  console.log(`\n${what}\n  at ${page.url()}, ${path}, after:\n  ${trail.slice(-8).join('\n  ')}`);
}

interface Control {
  role: string;
  name: string;
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Usable controls: visible ones whose centre is not covered. */
const controls = (page: Page): Promise<Control[]> =>
  page.evaluate(() => {
    const roles = ['button', 'slider', 'radio', 'checkbox', 'tab', 'switch', 'link', 'menuitem'];
    const asked = [...roles.map((role) => `[role=${role}]`), 'a[href]', 'button', 'input', 'textarea', 'canvas'];
    return Array.from(document.querySelectorAll<HTMLElement>(asked.join())).flatMap((element) => {
      const { left, top, width, height } = element.getBoundingClientRect();
      const [x, y] = [left + width / 2, top + height / 2];
      const at = document.elementFromPoint(x, y);
      if (!at || !(element.contains(at) || at.contains(element)) || element.ariaDisabled === 'true') return [];
      const name = (element.ariaLabel ?? element.innerText).replace(/\s+/g, ' ').slice(0, 60);
      return [{ role: element.role ?? element.tagName.toLowerCase(), name, x, y, width, height }];
    });
  });

/** Drags with one pointer over the page. */
async function drag(cdp: CDPSession, x: number, y: number, dx: number, dy: number): Promise<void> {
  const touch = (type: 'touchStart' | 'touchMove', share: number): Promise<unknown> =>
    cdp.send('Input.dispatchTouchEvent', { type, touchPoints: [{ x: x + share * dx, y: y + share * dy }] });
  await touch('touchStart', 0);
  for (let k = 1; k <= 5; k += 1) await touch('touchMove', k / 5);
  await cdp.send('Input.dispatchTouchEvent', { type: 'touchEnd', touchPoints: [] });
}

/** Uses a control, or a key. */
async function act(page: Page, cdp: CDPSession, control: Control): Promise<void> {
  const { role, name, x, y, width, height } = control;
  const chance = random();
  if (chance < 0.05) {
    const key = pick([...KEYS, ...CHORDS]);
    trail.push(`press ${key}`);
    await page.keyboard.press(key);
  } else if (role === 'input' || role === 'textarea') {
    const text = pick(TEXTS);
    trail.push(`type "${text}" into ${name}`);
    await page.mouse.click(x, y);
    await page.keyboard.press('Control+a');
    await page.keyboard.type(text);
  } else if ((role === 'slider' || role === 'canvas') && chance < 0.8) {
    const [dx, dy] = [Math.round(spread(120)), Math.round(spread(role === 'canvas' ? 100 : 30))];
    trail.push(`drag ${name || role} by ${dx}, ${dy}`);
    await drag(cdp, x + spread(0.35 * width), y + spread(0.35 * height), dx, dy);
  } else {
    trail.push(`tap ${role} ${name}`);
    await page.touchscreen.tap(x, y);
    if (random() < 0.06) await page.touchscreen.tap(x, y);
  }
}

let faulty = false;
/** Begins a fault of the network, which ends by itself after a while, or does nothing. */
async function fail(network: StallingProxy): Promise<void> {
  if (faulty || random() > 1 / FAULTS.every) return;
  const kind = pick(['silent', 'silent for one route', 'broken off', 'broken off for a moment']);
  const route = pick(ROUTES);
  const ms = Math.round(FAULTS.longest * random());
  trail.push(`network ${kind} ${kind === 'silent for one route' ? String(route) : ''} for ${ms} ms`);
  faulty = true;
  if (kind === 'silent') network.stall();
  else if (kind === 'silent for one route') void network.silence(route);
  else network.breakOff(kind === 'broken off');
  setTimeout(() => {
    network.revive();
    faulty = false;
    trail.push('network back');
  }, ms);
}

/** Over a network that is back, nothing waits for it any more. */
async function recovers(page: Page): Promise<void> {
  while (faulty) await page.waitForTimeout(200);
  const gone = await page
    .waitForFunction((waits) => !new RegExp(waits).test(document.body.innerText), WAITS.source, PATIENCE)
    .then(() =>
      page.waitForFunction(() => !document.querySelector('[role=progressbar]:not([aria-valuenow])'), PATIENCE),
    )
    .then(() => true)
    .catch(() => false);
  // What somebody tapped for in vain says so in its sheet until the next tap.
  const inSheet = await page.getByRole('dialog').first().isVisible();
  if (!gone && !inSheet) await report(page, 'The network is back, and the screen still waits for it.');
}

/** Whether the bench has settled: everything saved, drawn and measured. */
const rests = (page: Page): Promise<boolean> =>
  page
    .waitForFunction(
      () => {
        const picture = document.querySelector<HTMLCanvasElement>('[data-testid=picture]')?.dataset;
        const kept = document.querySelector('[data-testid=keep-state]')?.textContent?.trim() === 'kept';
        const baked = ['65', '0'].includes(picture?.table ?? '') && picture?.measured === picture?.table;
        return kept && baked && !picture?.held && picture?.cells !== 'coming';
      },
      undefined,
      PATIENCE,
    )
    .then(() => true)
    .catch(() => false);

const chips = (page: Page): Promise<string> =>
  page.evaluate(() =>
    Array.from(document.querySelectorAll<HTMLElement>('[data-testid^="step-"]'), (chip) => chip.innerText).join(' | '),
  );

/** On the bench: what is saved equals what is shown, also after undo and redo, and after a reload. */
async function check(app: TestApp, page: Page): Promise<void> {
  const clip = /\/clip\/([^/?]+)/.exec(page.url())?.[1];
  if (!clip) return;
  for (let k = 0; k < 6; k += 1) await page.keyboard.press('Escape');
  const pause = page.getByRole('button', { name: 'Pause' });
  if (await pause.isVisible()) await pause.tap();
  if (!page.url().includes(clip)) return;
  if (!(await rests(page))) return report(page, 'The bench does not come to rest.');
  const seen = async (): Promise<string> => `${await chips(page)} ${JSON.stringify(await keptSteps(app.client, clip))}`;
  const before = await seen();
  const undo = page.getByRole('button', { name: 'Undo', exact: true }).first();
  if ((await undo.getAttribute('aria-disabled')) !== 'true') {
    await undo.tap();
    await page.getByRole('button', { name: 'Redo', exact: true }).first().tap();
    await rests(page);
    const after = await seen();
    if (after !== before) await report(page, `Undo and redo lead elsewhere:\n  ${before}\n  ${after}`);
  }
  const kept = await seen();
  await page.reload();
  if (!(await rests(page))) return report(page, 'The bench does not come to rest after a reload.');
  const after = await seen();
  if (after !== kept) await report(page, `A reload shows other steps:\n  ${kept}\n  ${after}`);
}

async function main(): Promise<void> {
  const app = await openTestApp(poor ? { beatMs: 1000 } : {});
  const network = poor ? await stallingProxy(app.running.address) : undefined;
  const address = network?.address ?? app.running.address;
  const ids = Object.values(await app.clips(...CLIPS)).map(({ id }) => id);
  const page = await app.page(size, 1, false);
  page.setDefaultTimeout(8000);
  page.on('pageerror', (error) => void report(page, `Error in the page: ${error.stack ?? error.message}`));
  page.on('response', (r) => r.status() >= 500 && void report(page, `${r.status()} of ${r.url()}`));
  const cdp = await page.context().newCDPSession(page);
  const begin = async (): Promise<void> => {
    const path = random() < 0.75 ? `/clip/${pick(ids)}` : '/';
    trail.push(`go to ${path}`);
    await page.goto(address + path);
    await page.waitForTimeout(1500);
  };
  await begin();
  let idle = 0;
  const end = Date.now() + minutes * 60_000;
  for (let n = 1; Date.now() < end; n += 1) {
    const list = await controls(page).catch((): Control[] => []);
    idle = list.length ? 0 : idle + 1;
    if (idle === 15) await report(page, 'Nothing can be done here.');
    if (idle === 15) await begin();
    if (list.length === 0) {
      await page.waitForTimeout(1000);
      continue;
    }
    if (network) await fail(network);
    // A control may be gone by the time it is used.
    await act(page, cdp, pick(list)).catch(() => undefined);
    await page.waitForTimeout(pick([0, 30, 120, 300]));
    const words = await page.evaluate(() => document.body.innerText).catch(() => '');
    const bad = words.split('\n').find((line) => UNREADABLE.test(line));
    if (bad) await report(page, `No person should read: ${bad}`);
    if (n % UNTIL_CHECK) continue;
    if (network) await recovers(page);
    await check(app, page).catch((error: Error) => trail.push(`check given up: ${error.message.split('\n')[0]}`));
    if (random() < 0.4) await begin();
  }
  console.log(`\n${found} findings in ${trail.length} actions (seed ${seed}).`);
  await app.close();
  process.exit(found > 0 ? 1 : 0);
}

void main();
