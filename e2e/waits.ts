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

/** Measurements in a page during a drag, in milliseconds. */
type Seen = Record<'moves' | 'draws' | 'traces' | 'long', number[]>;

/** Latency from a move to its effect at the 95th percentile, in milliseconds. */
export interface Waits {
  picture: number;
  trace: number;
  /** The longest task of the main thread over 50 ms. */
  longest: number;
  moves: number;
}

/** The 95th percentile of sorted values. */
const p95 = (values: number[]): number => values.toSorted((a, b) => a - b)[Math.floor(values.length * 0.95)];

/** Instruments a page to record pointer moves, and drawings of picture and trace. */
export const watchWaits = (page: Page): Promise<void> =>
  page.evaluate(() => {
    const seen = { moves: [] as number[], draws: [] as number[], traces: [] as number[], long: [] as number[] };
    Object.assign(window, { seen });
    addEventListener('pointermove', () => seen.moves.push(performance.now()), true);
    // The page is notified of each picture that its worker has drawn.
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

/** Drags vertically in sixty moves of `by` pixels each, and measures the latency from a move to its effect. */
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
 * The best of up to three drags; `enough`: stop at this latency. Other load only ever adds to the latency, so the best
 * is the most accurate.
 */
export async function dragWaits(page: Page, target: Locator, enough: number): Promise<Waits> {
  const drags = [await dragged(page, target, -1)];
  while (drags.length < 3 && drags[drags.length - 1].picture > enough)
    drags.push(await dragged(page, target, drags.length % 2 ? 1 : -1));
  return drags.toSorted((a, b) => a.picture - b.picture)[0];
}

/**
 * Time to draw a graded frame of a clip alone, as during a drag: the application's own renderer of the current kind,
 * the median of many, in milliseconds.
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
        // The GPU has finished once a pixel has been read.
        if (gl && 'readPixels' in gl) gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
        // The first ones link programs, and let the renderer detect whether it is slow.
        if (i >= 10) times.push(performance.now() - from);
      }
      return times.toSorted((a, b) => a - b)[times.length >> 1];
    },
    { kind, given: listed({ ops, planes }), format: rest.format, samples: samplesOf(rest), screen: size },
  );
}
