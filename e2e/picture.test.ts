import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import { PROFILES } from '@inkavo/core/model/profile';
import { bake } from '@inkavo/core/program/bake';
import { compile, tableOf } from '@inkavo/core/program/compile';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { restFrame } from '@inkavo/media/frames/rest';
import { sourceOf, TAGS_709, workFolder } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { drawnBy, keptSteps, openTestApp, screenPicture, settled, type TestApp } from './testApp';
import { THREE_MOVING } from './regionGrade';
import { SIZES } from './browser';
import { bareDraw, dragged, dragWaits, watchWaits, type Waits } from './waits';

/** Large enough to show a picture of 512 × 512 pixel for pixel. */
const LARGE = { width: 1400, height: 1000 };

let app: TestApp;
let page: Page;
beforeAll(async () => {
  app = await openTestApp();
  page = await app.page(LARGE);
  await drawnBy(page, 'gpu');
});
afterAll(() => app.close());

const NODES = 64;
const SIDE = 512;

/** A clip of one picture with 64³ colours spread over the whole code-value cube, 10 bit, lossless. */
function makeCube(folder: string): string {
  const planes = [0, 1, 2].map((c) =>
    Uint16Array.from({ length: SIDE * SIDE }, (_, i) => (Math.floor(i / NODES ** c) % NODES) * 16 + 8),
  );
  const raw = join(folder, 'cube.raw');
  writeFileSync(raw, Buffer.concat(planes.map((p) => Buffer.from(p.buffer))));
  const path = join(folder, 'cube.mkv');
  execFileSync('ffmpeg', [
    '-loglevel',
    'error',
    '-y',
    '-f',
    'rawvideo',
    '-pix_fmt',
    'yuv444p10le',
    '-s',
    `${SIDE}x${SIDE}`,
    '-r',
    '25',
    '-i',
    raw,
    '-c:v',
    'ffv1',
    ...TAGS_709,
    path,
  ]);
  return path;
}

async function bringIn(path: string): Promise<Clip> {
  const { outing } = await app.client.post<{ outing: Outing }>('/demo', { load: false });
  await page.goto(`${app.running.address}/outing/${outing.id}`);
  await page.getByRole('button', { name: 'Bring in', exact: true }).click();
  await page.getByTestId('file-input').setInputFiles(path);
  await page.getByRole('dialog').getByRole('button', { name: 'Bring in' }).click();
  const look = async () => await app.client.clips(outing.id);
  return (await until(look, (clips) => clips.some((c) => path.endsWith(c.name) && c.proxy === 'ready'))).find((c) =>
    path.endsWith(c.name),
  )!;
}

test('GPU against CPU backend over the whole code-value cube: within 1 of 255 at 99.9 % of values', async () => {
  const path = makeCube(workFolder());
  const clip = await bringIn(path);
  const grades = {
    standard: [
      newStep('balance', 'b', { kelvin: 4300 }),
      newStep('range', 'r', { contrast: 1.4, soft: 0.1, mid: 0.05 }),
      newStep('saturation', 's', { amount: 1.5, weak: 0.5 }),
      newStep('channels', 'c', { greenMiddle: 0.03, redBottom: -0.02 }),
      newStep('bands', 'a', { midtonesSaturation: 1.2, shadowsLevel: -0.03 }),
    ],
    log: [
      newStep('convert', 'c', { profile: PROFILES[1], rollOff: 0.85 }),
      newStep('balance', 'b', { kelvin: 5300 }),
      newStep('range', 'r', { black: -0.1 }),
    ],
  };
  const rest = await restFrame(await sourceOf(path), 0, SIDE);
  for (const [name, steps] of Object.entries(grades)) {
    await app.client.setSteps(clip.id, { clip: steps });
    await page.goto(`${app.running.address}/clip/${clip.id}`);
    await settled(page);
    const { width, rgb } = await screenPicture(page);
    expect(width).toBe(SIDE);
    const cpu = pictureToRgb(bake(tableOf(compile(steps, 0)), 65), rest);
    let off = 0;
    cpu.forEach((v, i) => {
      if (Math.abs(Math.round(Math.min(1, Math.max(0, v)) * 255) - rgb[i]) > 1) off += 1;
    });
    console.log(`${name}: GPU more than 1 from CPU at ${((100 * off) / cpu.length).toFixed(4)} % of values`);
    expect(off / cpu.length).toBeLessThan(0.001);
  }
});

test('while a finger moves, picture and trace are drawn again and again', async () => {
  const { boat_shed_01: clip } = await app.clips('boat_shed_01');
  // Its picture is 964 × 542 pixels: the size for which the latencies are specified.
  const own = await app.page({ width: 1505, height: 1020 });
  await own.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(own);
  await own.getByTestId('step-range').click();
  await settled(own);
  await watchWaits(own);
  const slider = own.getByRole('slider', { name: 'Shadows on the waveform' });
  const { picture, trace, longest, moves } = await dragWaits(own, slider, 60);
  const bare = await bareDraw(app, own, clip, await keptSteps(app.client, clip.id));
  console.log(
    `from a move to the next drawn picture ${picture.toFixed(0)} ms (${(picture / bare).toFixed(1)} times drawing alone) and trace ${trace.toFixed(0)} ms at the 95th percentile over ${moves} moves; longest task over 50 ms: ${longest.toFixed(0)} ms`,
  );
  expect(moves).toBeGreaterThan(40);
  // Specified are 50 and 100 ms; the limits here allow for other load, and for the machine's speed by the time of
  // drawing alone.
  expect(picture).toBeLessThan(Math.max(200, 8 * bare));
  expect(trace).toBeLessThan(Math.max(400, 15 * bare));
  // None over 50 ms is specified; drawing outside the main thread leaves none.
  expect(longest).toBeLessThan(250);
});

/** Maximum milliseconds from a move to its picture on any machine, with all kinds of steps at once. */
const BORNE = 600;

test.each(['gpu', 'cpu'] as const)(
  'with three moving regions, a matte, water and corners the picture still follows a finger: %s',
  async (drawing) => {
    const { mooring_block_02: clip } = await app.clips('mooring_block_02');
    // A smaller picture for the GPU, which is emulated here: the limit is relative to drawing alone.
    const own = await app.page(drawing === 'gpu' ? SIZES.wide : { width: 1505, height: 1020 });
    await drawnBy(own, drawing);
    await app.client.setSteps(clip.id, { clip: THREE_MOVING });
    await own.goto(`${app.running.address}/clip/${clip.id}`);
    await settled(own);
    await own.getByTestId('step-range').click();
    await settled(own);
    await watchWaits(own);
    const slider = own.getByRole('slider', { name: 'Shadows on the waveform' });
    // The GPU: 1.4 to 4.7 times drawing alone on an idle machine, whatever its speed. Drawing on the CPU is a small
    // part of the page's work here: 5 to 10 times.
    const borne = (bare: number): number => Math.max(BORNE, (drawing === 'gpu' ? 8 : 25) * bare);
    // Each drag is compared with drawing alone just after it: a slow moment of the machine would affect only one of
    // them.
    const round = async (): Promise<Waits & { bare: number }> => {
      const waits = await dragWaits(own, slider, BORNE);
      return { ...waits, bare: await bareDraw(app, own, clip, THREE_MOVING) };
    };
    let { picture, moves, bare } = await round();
    for (let i = 0; i < 2 && picture >= borne(bare); i += 1) ({ picture, moves, bare } = await round());
    // Grabbed again while the full tables are baked: baking waits, not the finger. It took 3.7 times as long when they
    // were baked in one go; each drag is compared with the one just before it, and a slow moment of the machine does
    // not occur three times.
    const holdAgain = async (): Promise<{ again: number; whole: number }> => {
      const whole = await dragged(own, slider, -1);
      await own.waitForTimeout(400);
      return { again: (await dragged(own, slider, 1)).picture, whole: whole.picture };
    };
    const late = ({ again, whole }: { again: number; whole: number }): boolean => again >= Math.max(300, 3 * whole);
    // A software GPU takes this long to draw the picture with these tables: there it says nothing.
    let hold = drawing === 'cpu' ? await holdAgain() : undefined;
    for (let i = 0; i < 2 && hold && late(hold); i += 1) hold = await holdAgain();
    console.log(
      `three regions and water, ${drawing}: from a move to the next drawn picture ${picture.toFixed(0)} ms at the 95th percentile over ${moves} moves, ${(picture / bare).toFixed(1)} times drawing alone (${bare.toFixed(0)} ms)${hold ? `; taken hold of again ${hold.again.toFixed(0)} ms` : ''}`,
    );
    if (hold) expect(late(hold)).toBe(false);
    expect(moves).toBeGreaterThan(40);
    expect(picture).toBeLessThan(borne(bare));
  },
);

test('magnified, the picture has all the detail that the file has there, and the same colours', async () => {
  const { boat_shed_01: clip } = await app.clips('boat_shed_01');
  const own = await app.page({ width: 390, height: 844 });
  await own.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(own);
  const showing = (what: string) =>
    own.waitForFunction(
      (wanted) => document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset.showing === wanted,
      what,
    );
  const box = (await own.getByTestId('picture').boundingBox())!;
  // First without the finer picture, then with it.
  const finer = '**/frame?*part=*';
  await own.route(finer, (route) => route.abort());
  await own.mouse.move(box.x + box.width * 0.45, box.y + box.height * 0.5);
  for (let i = 0; i < 8; i += 1) await own.mouse.wheel(0, -100);
  await own.getByRole('button', { name: 'show the whole picture' }).waitFor();
  const coarse = await screenPicture(own);
  await own.unroute(finer);
  await own.mouse.wheel(0, -100);
  await showing('detail');
  await own.mouse.wheel(0, 100);
  await showing('detail');
  const fine = await screenPicture(own);
  const { width } = fine;
  const mean = (rgb: Uint8Array): number => rgb.reduce((a, b) => a + b, 0) / rgb.length;
  const edges = (rgb: Uint8Array): number => {
    let sum = 0;
    for (let i = 0; i + 3 < rgb.length; i += 3) if ((i / 3 + 1) % width) sum += Math.abs(rgb[i + 4] - rgb[i + 1]);
    return sum / rgb.length;
  };
  expect(Math.abs(mean(fine.rgb) - mean(coarse.rgb))).toBeLessThan(0.6);
  console.log(
    `magnified: mean step from pixel to pixel ${edges(coarse.rgb).toFixed(3)}, with detail ${edges(fine.rgb).toFixed(3)}`,
  );
  expect(edges(fine.rgb)).toBeGreaterThan(1.15 * edges(coarse.rgb));
  await own.getByRole('button', { name: 'show the whole picture' }).click();
  await showing('rest');
});

/** The size of a clip's picture on a phone. */
async function shown(own: Page, { id }: Clip) {
  await own.goto(`${app.running.address}/clip/${id}`);
  await settled(own);
  return screenPicture(own);
}
const backend = (own: Page) => own.getByTestId('picture').getAttribute('data-drawn-by');

test('where a browser draws on the page, and when the GPU is taken away for a while, the picture is the same', async () => {
  const { boat_shed_01: clip } = await app.clips('boat_shed_01');
  const own = await app.page({ width: 390, height: 844 });
  await drawnBy(own, 'gpu');
  const byWorker = await shown(own, clip);
  expect(await backend(own)).toBe('gpu');
  await own.addInitScript(() => Reflect.deleteProperty(window, 'OffscreenCanvas'));
  const byPage = await shown(own, clip);
  expect(Buffer.compare(byPage.rgb, byWorker.rgb)).toBe(0);
  await own.evaluate(async () => {
    const gl = document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.getContext('webgl2')!;
    const unit = gl.getExtension('WEBGL_lose_context')!;
    unit.loseContext();
    await new Promise((resolve) => setTimeout(resolve, 300));
    unit.restoreContext();
  });
  await until(
    async () => Buffer.compare((await screenPicture(own)).rgb, byWorker.rgb),
    (difference) => difference === 0,
  );
});

test('without a GPU, and without any of its graphics, the CPU draws the same picture; who draws can be chosen', async () => {
  const { boat_shed_01: clip } = await app.clips('boat_shed_01');
  const own = await app.page({ width: 390, height: 844 });
  const byCpu = await shown(own, clip);
  // This browser's GPU is emulated in software.
  expect(await backend(own)).toBe('cpu');
  await own.getByRole('button', { name: 'More', exact: true }).click();
  await own.getByRole('radio', { name: 'Picture drawn by the GPU' }).click();
  await own.keyboard.press('Escape');
  await settled(own);
  expect(await backend(own)).toBe('gpu');
  const byGpu = await screenPicture(own);
  const apart = byGpu.rgb.reduce((n, v, i) => n + Number(Math.abs(v - byCpu.rgb[i]) > 1), 0);
  expect(byGpu.width).toBe(byCpu.width);
  expect(apart / byGpu.rgb.length).toBeLessThan(0.001);
  // An old browser: neither WebGL2 nor OffscreenCanvas. A stored choice of the GPU must not leave the picture empty.
  await own.addInitScript(() => {
    Reflect.deleteProperty(window, 'OffscreenCanvas');
    const own = HTMLCanvasElement.prototype.getContext;
    HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, ...args: [string]) {
      return args[0] === 'webgl2' ? null : own.apply(this, args);
    } as typeof own;
  });
  const byPage = await shown(own, clip);
  expect(await backend(own)).toBe('cpu');
  expect(Buffer.compare(byPage.rgb, byCpu.rgb)).toBe(0);
  // There is nothing to choose there.
  await own.getByRole('button', { name: 'More', exact: true }).click();
  await own.getByRole('radiogroup', { name: 'Working hand' }).waitFor();
  expect(await own.getByRole('radiogroup', { name: 'What draws the picture' }).count()).toBe(0);
});
