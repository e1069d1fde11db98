import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, Locator, Page } from 'playwright-core';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import type { SourceContent } from '@inkavo/core/model/source';
import type { Step } from '@inkavo/core/model/grade';
import { startServer, type Running } from '@inkavo/server/app';
import { configFromEnv, type Config } from '@inkavo/server/config';
import { Client, until } from '@inkavo/server/testServer';
import { openBrowser, openContext } from './browser';
import { keepProxies, layProxies } from '@inkavo/server/testProxies';

/** The complete application for a test: a server with an empty library, the demo card, and the built application. */
export interface TestApp {
  running: Running;
  client: Client;
  data: string;
  /** A page of a new visitor; errors in it fail the test at the end, unless disabled. */
  page(size: { width: number; height: number }, scale?: number, errorsFail?: boolean): Promise<Page>;
  /** Imports demo clips without the interface. */
  clips(...names: string[]): Promise<Record<string, Clip>>;
  close(): Promise<void>;
}

/** Stored state in which all hints have been used. */
const HINTS_SEEN = JSON.stringify(['trace', 'chips', 'hold']);

/** `config`: overrides. */
export async function openTestApp(config: Partial<Config> = {}): Promise<TestApp> {
  const data = mkdtempSync(join(tmpdir(), 'inkavo-e2e-'));
  layProxies(data, 'demo');
  const running = await startServer({ ...configFromEnv({}), port: 0, data, ...config });
  const client = new Client(running.address);
  let browser: Promise<Browser> | undefined;
  const errors: string[] = [];
  return {
    running,
    client,
    data,
    async page(size, scale = 1, errorsFail = true) {
      browser ??= openBrowser();
      const context = await openContext(await browser, size, scale);
      // A visitor who knows the hints; the test of the first visit clears this. An empty page (about:blank) has no
      // storage.
      await context.addInitScript((seen) => {
        if (!location.protocol.startsWith('http')) return;
        if (localStorage.getItem('inkavo-hints') === null) localStorage.setItem('inkavo-hints', seen);
      }, HINTS_SEEN);
      await context.addInitScript(() =>
        document.addEventListener('securitypolicyviolation', ({ violatedDirective, blockedURI }) =>
          console.error(`Against the page’s policy: ${violatedDirective} ${blockedURI}`),
        ),
      );
      const page = await context.newPage();
      page.setDefaultTimeout(120_000);
      if (!errorsFail) return page;
      page.on('pageerror', (error) => errors.push(error.message));
      page.on(
        'console',
        (m) => m.type() === 'error' && !/404|409|422|ERR_|Failed to load/.test(m.text()) && errors.push(m.text()),
      );
      return page;
    },
    async clips(...names) {
      const { outing } = await client.post<{ outing: Outing }>('/demo', { load: false });
      const { cameras } = await client.get<SourceContent>('/sources/card');
      const paths = cameras
        .flatMap((c) => c.recordings.flatMap((r) => r.paths))
        .filter((p) => names.some((n) => p.includes(n)));
      await client.post(`/outings/${outing.id}/import`, { clips: paths.map((path) => ({ paths: [path] })) });
      const look = async () => await client.clips(outing.id);
      const list = await until(
        look,
        (seen) => names.every((n) => seen.some((c) => c.name.includes(n) && c.proxy === 'ready')),
        180_000,
      );
      keepProxies(
        data,
        'demo',
        list.filter((c) => c.proxy === 'ready' && names.some((n) => c.name.includes(n))).map((c) => c.hash),
      );
      return Object.fromEntries(names.map((n) => [n, list.find((c) => c.name.includes(n))!]));
    },
    async close() {
      await (await browser)?.close();
      await running.close();
      if (errors.length) throw new Error(`Errors in the page:\n${[...new Set(errors)].join('\n')}`);
    },
  };
}

/** Sets the renderer of a page from its next navigation on: the GPU, which is emulated here, or the CPU. */
export async function drawnBy(page: Page, drawing: 'gpu' | 'cpu'): Promise<void> {
  await page.addInitScript((value) => localStorage.setItem('inkavo-drawing', value), drawing);
}

/** The server's steps of a clip. */
export const keptSteps = async (client: Client, id: string): Promise<Step[]> =>
  (await client.get<{ clip: Clip }>(`/clips/${id}`)).clip.steps;

/**
 * Changes the steps of a clip shown in a page, as if from another device, and waits until the page has settled. The id
 * of the last one must be new to it.
 */
export async function changeUnder({ client }: TestApp, page: Page, clip: Clip, steps: readonly Step[]): Promise<void> {
  await client.setSteps(clip.id, { clip: [...steps] });
  await page.getByTestId(`step-${steps[steps.length - 1].id}`).waitFor({ state: 'attached' });
  await settled(page);
}

/** An element's text, with plain spaces in place of no-break spaces. */
export const textOf = async (element: Locator): Promise<string> =>
  (await element.innerText()).replaceAll('\u00a0', ' ');

/** Waits until the bench shows the original's frame, everything is saved, and the full table is drawn and measured. */
export async function settled(page: Page): Promise<void> {
  await page.getByTestId('keep-state').getByText('kept', { exact: true }).waitFor();
  await page.getByRole('status', { name: 'Fetching the frame' }).waitFor({ state: 'detached' });
  await page.waitForFunction(() => {
    const { table, measured, held, cells } =
      document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset;
    return !held && cells !== 'coming' && ['65', '0'].includes(table ?? '') && measured === table;
  });
}

/** The picture on the screen as 8-bit R'G'B', read from the canvas itself. */
export async function screenPicture(page: Page): Promise<{ width: number; height: number; rgb: Uint8Array }> {
  await page.waitForFunction(
    () => document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset.drawing !== 'yes',
  );
  const shot = await page.evaluate(async () => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!;
    const copy = document.createElement('canvas').getContext('2d', { willReadFrequently: true })!;
    const read = (): ImageData => {
      Object.assign(copy.canvas, { width: canvas.width, height: canvas.height });
      copy.drawImage(canvas, 0, 0);
      return copy.getImageData(0, 0, canvas.width, canvas.height);
    };
    const alike = (a: ImageData, b: ImageData): boolean => {
      const [p, q] = [a, b].map(({ data }) => new Uint32Array(data.buffer));
      return p.length === q.length && p.every((v, k) => v === q[k]);
    };
    // A worker's drawing appears on the page a frame or more later: read until it is stable.
    let shown = read();
    for (let same = 0, tries = 0; same < 2 && tries < 40; tries += 1) {
      await new Promise((resolve) => setTimeout(resolve, 60));
      const next = read();
      same = alike(next, shown) ? same + 1 : 0;
      shown = next;
    }
    const { width, height, data } = shown;
    const url = await new Promise<string>((resolve) => {
      const reader = new FileReader();
      reader.onload = () => resolve(reader.result as string);
      reader.readAsDataURL(new Blob([data]));
    });
    return { width, height, url };
  });
  const rgba = Buffer.from(shot.url.split(',')[1], 'base64');
  const rgb = new Uint8Array(3 * shot.width * shot.height).map((_, i) => rgba[4 * Math.floor(i / 3) + (i % 3)]);
  return { width: shot.width, height: shot.height, rgb };
}

/** Drags with a pointer from the centre of an element, with steps on the way. */
export async function dragBy(page: Page, target: Locator, dx: number, dy: number): Promise<void> {
  const box = (await target.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 8; i += 1) {
    await page.mouse.move(x + (dx * i) / 8, y + (dy * i) / 8);
    await page.waitForTimeout(16);
  }
  await page.mouse.up();
}

/** Drags the split from the left edge of the picture to its middle: as recorded on its left. */
export async function splitInHalf(page: Page): Promise<void> {
  const box = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.move(box.x + 6, box.y + 90);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + 90, { steps: 6 });
  await page.mouse.up();
  await page.getByText('as recorded', { exact: true }).waitFor();
}

/** Taps the picture at a position given as shares of its width and height. */
export async function tapPicture(page: Page, x: number, y: number): Promise<void> {
  const box = (await page.getByTestId('picture').boundingBox())!;
  await page.touchscreen.tap(box.x + x * box.width, box.y + y * box.height);
}

/** Drags over the picture between two positions, given as shares of its width and height. */
export async function dragPicture(
  page: Page,
  from: readonly [number, number],
  to: readonly [number, number],
): Promise<void> {
  const box = (await page.getByTestId('picture').boundingBox())!;
  const cdp = await page.context().newCDPSession(page);
  const send = (type: 'mousePressed' | 'mouseMoved' | 'mouseReleased', share: number): Promise<unknown> => {
    const [x, y] = [0, 1].map((k) => from[k] + share * (to[k] - from[k]));
    const at = { x: box.x + x * box.width, y: box.y + y * box.height };
    return cdp.send('Input.dispatchMouseEvent', { type, ...at, button: 'left', buttons: 1, clickCount: 1 });
  };
  // Without delays: on a busy machine a pause would count as a hold.
  const moves = [1, 2, 3, 4, 5, 6].map((k) => () => send('mouseMoved', k / 6));
  await Promise.all([() => send('mousePressed', 0), ...moves, () => send('mouseReleased', 1)].map((event) => event()));
  await cdp.detach();
}

/** Takes a step in hand, unless it already is (a second tap would open its sheet). */
export async function takeStep(page: Page, id: string): Promise<void> {
  const chip = page.getByTestId(`step-${id}`);
  if ((await chip.getAttribute('aria-pressed')) !== 'true') await chip.click();
}

/** Opens the general settings of a step. */
export async function openStep(page: Page, id: string): Promise<void> {
  await takeStep(page, id);
  await page.waitForFunction(
    (step) => document.querySelector(`[data-testid="step-${step}"]`)!.getAttribute('aria-pressed') === 'true',
    id,
  );
  await page.getByTestId(`step-${id}`).click();
}

/** Takes an item from the open shelf. */
export async function takeFromShelf(page: Page, title: string): Promise<void> {
  await page.getByRole('button', { name: title, exact: true }).click();
  await page.getByRole('button', { name: 'Take it' }).click();
}

/** Chooses files in the shelf's own sheet, which stays open with the results. */
export async function bringToShelf(page: Page, paths: string[]): Promise<void> {
  await page.getByRole('button', { name: 'Bring in files …' }).tap();
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Choose files' }).tap();
  await (await chooser).setFiles(paths);
}
