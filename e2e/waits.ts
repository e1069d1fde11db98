import type { Locator, Page } from 'playwright-core';
import { secondsOf } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import type { Baked } from '@inkavo/core/program/baked';
import { DRAG_SIZE } from '@inkavo/core/program/bake';
import { compile } from '@inkavo/core/program/compile';
import { bakeFor } from '@inkavo/core/program/cpu/gradePicture';
import { restFrame } from '@inkavo/media/frames/rest';
import type { TestApp } from './testApp';
import { bringRenderers, listed, samplesOf, type Renderers } from './renderers';

/** What a page notes while a finger moves, in its own milliseconds. */
type Seen = Record<'moves' | 'draws' | 'traces' | 'long', number[]>;

/** From a move to what it shows, at the 95th percentile, in milliseconds. */
export interface Waits {
  picture: number;
  trace: number;
  /** The longest task of the page over 50 ms. */
  longest: number;
  moves: number;
}

/** Share of the sorted values below which 95 % of them lie. */
const p95 = (values: number[]): number => values.toSorted((a, b) => a - b)[Math.floor(values.length * 0.95)];

/** Makes a page note when a pointer moves, and when picture and trace have been drawn. */
export const watchWaits = (page: Page): Promise<void> =>
  page.evaluate(() => {
    const seen = { moves: [] as number[], draws: [] as number[], traces: [] as number[], long: [] as number[] };
    Object.assign(window, { seen });
    addEventListener('pointermove', () => seen.moves.push(performance.now()), true);
    // The page hears of each picture that its worker has drawn.
    const canvas = document.querySelector('[data-testid=picture]')!;
    new MutationObserver(() => seen.draws.push(performance.now())).observe(canvas, { attributeFilter: ['data-drawn'] });
    const put = CanvasRenderingContext2D.prototype.putImageData;
    CanvasRenderingContext2D.prototype.putImageData = function (...args: unknown[]) {
      seen.traces.push(performance.now());
      return put.apply(this, args as Parameters<typeof put>);
    };
    new PerformanceObserver((list) => list.getEntries().forEach((e) => seen.long.push(e.duration))).observe({
      entryTypes: ['longtask'],
    });
  });

/** Drags down or up in sixty moves, `by` pixels each, and says how long it was from a move to what it shows. */
export async function dragged(page: Page, target: Locator, by: number): Promise<Waits> {
  await page.evaluate(() =>
    Object.values((window as unknown as { seen: Seen }).seen).forEach((list) => (list.length = 0)),
  );
  const box = (await target.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 60; i += 1) {
    await page.mouse.move(x, y + by * i);
    await page.waitForTimeout(33);
  }
  await page.mouse.up();
  const seen = await page.evaluate(() => (window as unknown as { seen: Seen }).seen);
  const waits = (shown: number[]) => seen.moves.slice(10).map((m) => (shown.find((d) => d > m) ?? Infinity) - m);
  return {
    picture: p95(waits(seen.draws)),
    trace: p95(waits(seen.traces)),
    longest: Math.max(0, ...seen.long),
    moves: seen.moves.length - 10,
  };
}

/**
 * The waits of the best of up to three drags; `enough`: with a picture this fast one is enough. What else the machine does
 * only ever adds to the waits: the best is the nearest to what it takes.
 */
export async function dragWaits(page: Page, target: Locator, enough: number): Promise<Waits> {
  const drags = [await dragged(page, target, -1)];
  while (drags.length < 3 && drags[drags.length - 1].picture > enough)
    drags.push(await dragged(page, target, drags.length % 2 ? 1 : -1));
  return drags.toSorted((a, b) => a.picture - b.picture)[0];
}

/**
 * How long it takes to draw a frame of a clip through steps alone, as while a finger is down: the application's own renderer
 * in the page, of the kind that the page draws with, the median of many, in milliseconds.
 */
export async function bareDraw(
  { running: { parts } }: TestApp,
  page: Page,
  clip: Clip,
  steps: readonly Step[],
): Promise<number> {
  const { kind, ...size } = await page.getByTestId('picture').evaluate((canvas: HTMLCanvasElement) => ({
    kind: canvas.dataset.drawnBy as 'gpu' | 'cpu',
    width: Math.round(canvas.clientWidth * devicePixelRatio),
    height: Math.round(canvas.clientHeight * devicePixelRatio),
  }));
  const source = await parts.clips.source(clip, parts.library.original(clip.hash));
  const rest = await restFrame(source, clip.referenceFrame, size.width);
  const { ops, planes } = bakeFor(compile(steps, secondsOf(clip.facts, clip.referenceFrame)), rest, DRAG_SIZE);
  await bringRenderers(page);
  return page.evaluate(
    async ({ kind: of, given, format, samples, screen }) => {
      const { typed, bytesOf, WHOLE, ...classes } = (window as unknown as { renderers: Renderers }).renderers;
      const canvas = new OffscreenCanvas(1, 1);
      const picture = of === 'gpu' ? new classes.GpuPicture(canvas, () => undefined) : new classes.CpuPicture(canvas);
      const ready = typed(given) as Baked;
      picture.setRest(bytesOf(samples), format);
      picture.setOps(ready.ops);
      picture.setPlanes(ready.planes);
      const look = { slot: 'graded', split: null, beside: false, overlay: 'none', region: null, quick: true } as const;
      const gl = canvas.getContext(of === 'gpu' ? 'webgl2' : '2d');
      const times: number[] = [];
      for (let i = 0; i < 40; i += 1) {
        const from = performance.now();
        await picture.draw('rest', WHOLE, look, screen);
        // What the GPU draws is there once a pixel has been read.
        if (gl && 'readPixels' in gl) gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
        // The first ones link programs, and tell the renderer whether it is slow here.
        if (i >= 10) times.push(performance.now() - from);
      }
      return times.toSorted((a, b) => a - b)[times.length >> 1];
    },
    { kind, given: listed({ ops, planes }), format: rest.format, samples: samplesOf(rest), screen: size },
  );
}
