import type { Page } from 'playwright-core';
import { AS_LABELLED } from '@inkavo/core/colour/proxyCodes';
import { secondsOf } from '@inkavo/core/model/facts';
import { newStep, type Step } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import type { Baked } from '@inkavo/core/program/baked';
import { compile } from '@inkavo/core/program/compile';
import { bakeFor } from '@inkavo/core/program/cpu/gradePicture';
import { restFrame } from '@inkavo/media/frames/rest';
import type { Look, View } from '../app/src/engine/picture/look';
import { SIZES } from './browser';
import { openTestApp, settled, type TestApp } from './testApp';
import { THREE_MOVING } from './regionGrade';
import { bringRenderers, listed, samplesOf, type Renderers } from './renderers';

let app: TestApp;
let page: Page;
let clip: Clip;

beforeAll(async () => {
  app = await openTestApp();
  ({ mooring_block_02: clip } = await app.clips('mooring_block_02'));
  page = await app.page(SIZES.phone);
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  await bringRenderers(page);
});
afterAll(() => app.close());

const SHARP: Step[] = [
  newStep('range', 'r', { contrast: 1.2, exposure: 0.6 }),
  newStep('sharpen', 's', { amount: 1.6, radius: 0.0014 }),
  newStep('saturation', 't', { amount: 1.4 }),
];
const GRADES: Record<string, Step[]> = { 'three regions and water': THREE_MOVING, sharpened: SHARP };
const WIDTH = 480;

const PLAIN: Look = { slot: 'graded', split: null, beside: false, overlay: 'none', region: null, quick: false };
const WHOLE: View = { x: 0, y: 0, width: 1, height: 1 };
const NEAR: View = { x: 0.31, y: 0.22, width: 0.4, height: 0.4 };
const EDGE: View = { x: 0.5, y: 0.5, width: 0.5, height: 0.5 };
const LOOKS: Record<string, { look: Partial<Look>; view?: View; finer?: true; moving?: true }> = {
  whole: { look: {} },
  magnified: { look: {}, view: NEAR },
  'magnified, in the finer picture of a part': { look: {}, view: NEAR, finer: true },
  'magnified, at the edge': { look: {}, view: EDGE },
  split: { look: { split: 0.37 }, view: NEAR },
  'side by side': { look: { beside: true } },
  zones: { look: { overlay: 'zones' } },
  'what is lost': { look: { overlay: 'clipping', split: 0.4 } },
  'what a region leaves out': { look: { overlay: 'region', region: 'two', split: 0.3 }, view: NEAR },
  'a frame that moves': { look: { split: 0.5 }, moving: true },
};

/**
 * How much GPU and CPU may differ for each way of viewing a grade: the maximum share of bytes that differ by more than
 * `by`, and how many levels there are.
 */
async function apart(steps: readonly Step[], by: number) {
  const { parts } = app.running;
  const source = await parts.clips.source(clip, parts.library.original(clip.hash));
  const rest = await restFrame(source, clip.referenceFrame, WIDTH);
  const baked = bakeFor(compile(steps, secondsOf(clip.facts, clip.referenceFrame)), rest, 33);
  const { range, matrix, width, height } = clip.facts;
  // From even numbers to even numbers, as the application requests parts.
  const part = { x: 480, y: 180, width: 960, height: 600 };
  const detail = await restFrame(source, clip.referenceFrame, 480, undefined, part);
  return page.evaluate(
    async ({ given, rest: from, detail: fine, part: of, looks, plain, whole, size, facts, most }) => {
      const { typed, bytesOf, GpuPicture, CpuPicture } = (window as unknown as { renderers: Renderers }).renderers;
      const ready = typed(given) as Baked;
      // Any picture with many different colours will do.
      const drawn = new OffscreenCanvas(640, 360);
      const context = drawn.getContext('2d')!;
      for (let i = 0; i < 360; i += 1) {
        context.fillStyle = `hsl(${i * 3} ${i % 100}% ${20 + (i % 60)}%)`;
        context.fillRect(0, i, 640, 1);
        context.fillRect((i * 37) % 640, (i * 53) % 360, 40, 40);
      }
      const pictures: Uint8ClampedArray[][] = [];
      for (const gpu of [true, false]) {
        const canvas = new OffscreenCanvas(1, 1);
        const picture = gpu ? new GpuPicture(canvas, () => undefined) : new CpuPicture(canvas);
        picture.setOps(ready.ops);
        picture.setPlanes(ready.planes);
        picture.setEnds({ low: 0.02, high: 0.9 });
        picture.setMoving(
          await createImageBitmap(drawn, { colorSpaceConversion: 'none', premultiplyAlpha: 'none' }),
          facts,
        );
        const seen: Uint8ClampedArray[] = [];
        for (const { look, view, finer, moving } of looks) {
          picture.setRest(bytesOf(from.samples), from.format);
          if (finer) picture.setDetail(bytesOf(fine.samples), fine.format, of);
          const at = await picture.draw(moving ? 'moving' : 'rest', view ?? whole, { ...plain, ...look }, size);
          if (at !== (finer ? 'detail' : 'whole')) throw new Error(`It drew ${at}.`);
          const copy = new OffscreenCanvas(canvas.width, canvas.height).getContext('2d')!;
          copy.drawImage(canvas, 0, 0);
          seen.push(copy.getImageData(0, 0, canvas.width, canvas.height).data);
        }
        pictures.push(seen);
        picture.dispose();
      }
      return looks.map((_, k) => {
        const [a, b] = [pictures[0][k], pictures[1][k]];
        let [off, furthest] = [0, 0];
        a.forEach((v, i) => {
          const d = Math.abs(v - b[i]);
          furthest = Math.max(furthest, d);
          off += Number(d > most);
        });
        return { share: off / a.length, furthest, same: a.length === b.length, levels: new Set(a).size };
      });
    },
    {
      given: listed(baked),
      rest: { samples: samplesOf(rest), format: rest.format },
      detail: { samples: samplesOf(detail), format: detail.format },
      part: { x: part.x / width, y: part.y / height, width: part.width / width, height: part.height / height },
      ...{ looks: Object.values(LOOKS), plain: PLAIN, whole: WHOLE, size: { width: WIDTH, height: 270 } },
      ...{ facts: { range, matrix, codes: AS_LABELLED }, most: by },
    },
  );
}

test.each(Object.entries(GRADES))(
  '%s: what the GPU draws the CPU draws too, however it is looked at',
  async (grade, steps) => {
    const names = Object.keys(LOOKS);
    (await apart(steps, 1)).forEach(({ share, furthest, same, levels }, i) => {
      const name = names[i];
      console.log(`${grade}, ${name}: ${(100 * share).toFixed(3)} % more than 1 apart, ${furthest} at most`);
      expect([name, same, levels > 8]).toEqual([name, true, true]);
      // Between pixels of a video the GPU interpolates with 8 bits.
      expect([name, share < (LOOKS[name].moving ? 0.01 : 0.002)]).toEqual([name, true]);
    });
  },
);

test('what the CPU keeps of steps that stay never shows: change after change it draws what it draws afresh', async () => {
  const { parts } = app.running;
  const source = await parts.clips.source(clip, parts.library.original(clip.hash));
  const rest = await restFrame(source, clip.referenceFrame, WIDTH);
  const seconds = secondsOf(clip.facts, clip.referenceFrame);
  const changed = (steps: readonly Step[], id: string, params: object): Step[] =>
    steps.map((s) => (s.id === id ? { ...s, params: { ...s.params, ...params } } : s));
  // Without the corners step, whose map is large.
  const first = THREE_MOVING.filter((s) => s.kind !== 'corners');
  const last = changed(first, 'balance', { kelvin: 4400 });
  const region = changed(last, 'range', { exposure: 0.1 });
  const grades = [
    ...[first, last, changed(last, 'balance', { kelvin: 4000 }), region, changed(region, 'range', { exposure: -0.2 })],
    ...[changed(region, 'water', { depth: 9 }), SHARP, changed(SHARP, 't', { amount: 0.4 })],
    ...[changed(SHARP, 't', { amount: 0.6 }), changed(SHARP, 's', { amount: 0.3 })],
  ].map((steps) => bakeFor(compile(steps, seconds), rest, 17));
  const off = await page.evaluate(
    async ({ given, samples, format, plain, whole, size }) => {
      const { typed, bytesOf, CpuPicture } = (window as unknown as { renderers: Renderers }).renderers;
      const make = () => {
        const canvas = new OffscreenCanvas(1, 1);
        const picture = new CpuPicture(canvas);
        picture.setRest(bytesOf(samples), format);
        return { canvas, picture };
      };
      const draw = async ({ canvas, picture }: ReturnType<typeof make>, { ops, planes }: Baked) => {
        picture.setOps(ops);
        picture.setPlanes(planes);
        await picture.draw('rest', whole, plain, size);
        return canvas.getContext('2d')!.getImageData(0, 0, size.width, size.height).data;
      };
      const kept = make();
      const counts: number[] = [];
      let before: Uint8ClampedArray | undefined;
      for (const grade of given) {
        const [a, b] = [await draw(kept, typed(grade) as Baked), await draw(make(), typed(grade) as Baked)];
        counts.push(a.reduce((n, v, i) => n + Number(v !== b[i]), 0));
        // Each picture differs from the one before.
        if (before && before.every((v, i) => v === a[i])) counts.push(-1);
        before = a;
      }
      return counts;
    },
    {
      given: grades.map(listed),
      ...{ samples: samplesOf(rest), format: rest.format, plain: PLAIN, whole: WHOLE },
      size: { width: rest.format.width, height: rest.format.height },
    },
  );
  expect(off).toEqual(grades.map(() => 0));
});
