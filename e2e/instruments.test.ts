import type { Page } from 'playwright-core';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import type { Clip } from '@inkavo/core/model/outing';
import { SIZES } from './browser';
import { dragBy, keptSteps, openTestApp, settled, textOf, type TestApp } from './testApp';

let app: TestApp;
let clip: Clip;
beforeAll(async () => {
  app = await openTestApp();
  clip = (await app.clips('paddle_out_07')).paddle_out_07;
});
afterAll(() => app.close());

const flat = PROFILES.find((p) => p.name === 'Action camera flat');
const BEFORE = [newStep('convert', 'convert', { profile: flat })];
const LATER = [
  newStep('saturation', 'later-s', { amount: 1.25 }),
  newStep('range', 'later-r', { contrast: 1.15, mid: 0.03 }),
  newStep('balance', 'later-b', { kelvin: 6100 }),
];
/** What was grabbed is the first of the clip's own steps, with and without three steps behind it. */
const GRADES: [string, (kind: string) => Step[]][] = [
  ['alone', (kind) => [...BEFORE, newStep(kind, 'moved')]],
  ['with three later steps', (kind) => [...BEFORE, newStep(kind, 'moved'), ...LATER]],
];

async function open(size: keyof typeof SIZES, steps: Step[]): Promise<Page> {
  await app.client.setSteps(clip.id, { clip: steps });
  const page = await app.page(SIZES[size]);
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  await page.getByTestId('step-moved').click();
  await settled(page);
  return page;
}
async function close(page: Page): Promise<void> {
  await page.context().close();
}
const valueOf = async (page: Page, name: string): Promise<number> =>
  Number(await page.getByRole('slider', { name }).getAttribute('aria-valuenow'));

/** Drags a handle of the waveform from its position to a percentage. The trace spans −10 % to 112 %. */
async function pull(page: Page, name: string, to: number): Promise<void> {
  const box = (await page.getByTestId('waveform').boundingBox())!;
  const from = await valueOf(page, name);
  await dragBy(page, page.getByRole('slider', { name }), 0, ((from - to) / 122) * box.height);
  await settled(page);
}

describe.each(Object.keys(SIZES) as (keyof typeof SIZES)[])('at the size of a %s', (size) => {
  describe.each(GRADES)('%s', (_name, grade) => {
    test('the bottom of the trace, dragged to 0 %, stands there', async () => {
      const page = await open(size, grade('range'));
      await pull(page, 'Shadows on the waveform', 0);
      expect(Math.abs(await valueOf(page, 'Shadows on the waveform'))).toBeLessThanOrEqual(0.5);
      await close(page);
    });

    test('a mark on the pad stands where it was dropped, within 1 % of the radius', async () => {
      const page = await open(size, grade('bands'));
      if (size !== 'wide') {
        for (let i = 0; i < 2; i += 1) await page.getByRole('button', { name: /show the next view/ }).click();
        await settled(page);
      }
      const pad = (await page.getByTestId('pad').boundingBox())!;
      const mark = page.getByTestId('mark-midtones');
      const words = async () => [
        Number(await mark.getAttribute('data-cb')),
        Number(await mark.getAttribute('data-cr')),
      ];
      const before = await words();
      // 100 % of the radius is 0.5 in Cb and Cr; half of the pad is 0.62 of them at a zoom of 1, and it opens at 1.5.
      const perPixel = (100 * 2 * 0.62) / 1.5 / pad.width / 0.5;
      const move = [18, -14];
      await dragBy(page, mark, move[0], move[1]);
      await settled(page);
      await page.waitForTimeout(400);
      const after = await words();
      const off = Math.hypot(after[0] - (before[0] + move[0] * perPixel), after[1] - (before[1] - move[1] * perPixel));
      expect(off).toBeLessThan(1);
      expect((await keptSteps(app.client, clip.id)).find((s) => s.id === 'moved')!.params.midtonesCb).not.toBe(0);
      await close(page);
    });
  });
});

describe('on a phone', () => {
  let page: Page;
  beforeAll(async () => {
    page = await open('phone', [...BEFORE, newStep('range', 'moved'), newStep('hues', 'hues')]);
  });

  test('a channel’s top, grabbed in its own trace, makes a channels step and stands where it was let go', async () => {
    await page.getByRole('button', { name: /show the next view/ }).tap();
    const top = await valueOf(page, 'Blue top on the waveform');
    await pull(page, 'Blue top on the waveform', top - 8);
    expect(Math.abs((await valueOf(page, 'Blue top on the waveform')) - (top - 8))).toBeLessThanOrEqual(0.6);
    const step = (await keptSteps(app.client, clip.id)).find((s) => s.kind === 'channels')!;
    expect(step.params.blueTop).toBeLessThan(0);
    await page.getByRole('button', { name: 'Undo' }).tap();
    await page.getByRole('button', { name: 'Undo' }).tap();
    await settled(page);
    expect((await keptSteps(app.client, clip.id)).some((s) => s.kind === 'channels')).toBe(false);
  });

  test('the middle of the histogram is dragged sideways', async () => {
    await page.getByTestId('step-moved').tap();
    for (let i = 0; i < 2; i += 1) await page.getByRole('button', { name: /show the next view/ }).tap();
    await settled(page);
    const box = (await page.getByTestId('histogram').boundingBox())!;
    const label = page.getByLabel(/^Midtones at/);
    const at = async () => Number((await label.getAttribute('aria-label'))!.match(/[\d.]+/)![0]);
    const before = await at();
    const from = (await label.boundingBox())!;
    await page.mouse.move(from.x + 12, from.y - 40);
    await page.mouse.down();
    for (let i = 1; i <= 6; i += 1) await page.mouse.move(from.x + 12 + i * 5, from.y - 40);
    await page.mouse.up();
    await settled(page);
    expect(Math.abs((await at()) - (before + (30 / box.width) * 122))).toBeLessThan(0.6);
    await page.getByRole('button', { name: 'Undo' }).tap();
    await page.getByRole('button', { name: /show the next view/ }).tap();
    await settled(page);
  });

  test('five levels: one is dragged, the others stay', async () => {
    await page.getByRole('radio', { name: 'Levels' }).tap();
    await settled(page);
    // More than the maximum movement of a tap on a phone's trace.
    const at75 = await valueOf(page, 'Level at 75 % on the waveform');
    await pull(page, 'Level at 75 % on the waveform', at75 - 8);
    expect(Math.abs((await valueOf(page, 'Level at 75 % on the waveform')) - (at75 - 8))).toBeLessThanOrEqual(0.2);
    expect(await textOf(page.getByTestId('value-level1'))).toBe('0.0 %');
    expect(await textOf(page.getByTestId('value-level3'))).not.toBe('0.0 %');
  });

  test('a stem: dropped by a tap on the band, its head pulled up, held, removed', async () => {
    await page.getByTestId('step-hues').tap();
    const band = (await page.getByRole('application', { name: /^Hue band/ }).boundingBox())!;
    await page.touchscreen.tap(band.x + band.width * 0.6, band.y + 50);
    await page.getByText('Stem 1 of 1').waitFor();
    const head = { x: band.x + band.width * 0.6, y: band.y + 84 * 0.24 };
    await page.mouse.move(head.x, head.y);
    await page.mouse.down();
    await page.mouse.move(head.x, head.y - 10, { steps: 4 });
    await page.mouse.up();
    const saturation = async () =>
      ((await keptSteps(app.client, clip.id)).find((s) => s.id === 'hues')!.params.stems as { saturation: number }[])[0]
        ?.saturation;
    await settled(page);
    expect(await saturation()).toBeGreaterThan(1.3);
    await page.getByRole('button', { name: 'Hold this hue against the other stems' }).tap();
    await page.getByRole('button', { name: 'Let this hue go' }).waitFor();
    await page.getByRole('button', { name: 'Remove this stem' }).tap();
    await settled(page);
    expect(await saturation()).toBeUndefined();
  });

  test('a curve over lightness: one of its places pulled, typed, and back to neutral', async () => {
    await page.getByRole('button', { name: /Shown: Stems/ }).tap();
    await page.getByRole('radio', { name: /Saturation over lightness/ }).tap();
    const curve = (await page.getByTestId('five-curve').boundingBox())!;
    await page.mouse.move(curve.x + curve.width / 2, curve.y + curve.height / 2);
    await page.mouse.down();
    await page.mouse.move(curve.x + curve.width / 2, curve.y + curve.height / 2 - 35, { steps: 4 });
    await page.mouse.up();
    await settled(page);
    const values = async () =>
      (await keptSteps(app.client, clip.id)).find((s) => s.id === 'hues')!.params.saturationOverLightness as number[];
    expect((await values())[2]).toBeCloseTo(1 + 35 / 71, 1);
    await page.touchscreen.tap(curve.x + curve.width / 2, curve.y + curve.height / 2);
    for (const key of ['1', '.', '2']) await page.getByRole('button', { name: key, exact: true }).tap();
    await page.getByRole('button', { name: 'Set', exact: true }).tap();
    await settled(page);
    expect(await values()).toEqual([1, 1, 1.2, 1, 1]);
  });
});

describe('on a wide screen', () => {
  let page: Page;
  beforeAll(async () => {
    page = await open('wide', [...BEFORE, newStep('bands', 'moved'), newStep('saturation', 'saturation')]);
  });
  const params = async (id: string) => {
    await settled(page);
    return (await keptSteps(app.client, clip.id)).find((s) => s.id === id)!.params as Record<string, number>;
  };

  test('the ring of the pad: pulled outwards, saturation of the mark in hand goes up by as much', async () => {
    const pad = (await page.getByTestId('pad').boundingBox())!;
    await page.getByRole('radio', { name: 'Highlights', exact: true }).first().click();
    // There is no mark below the centre: the ring is free there.
    const middle = { x: pad.x + pad.width / 2, y: pad.y + pad.height / 2 };
    const radius = Number(
      await page.getByTestId('pad').locator('svg').first().locator('circle').nth(1).getAttribute('r'),
    );
    await page.mouse.move(middle.x, middle.y + radius);
    await page.mouse.down();
    await page.mouse.move(middle.x, middle.y + radius * 1.25, { steps: 6 });
    await page.mouse.up();
    expect((await params('moved')).highlightsSaturation).toBeCloseTo(1.25, 1);
    await page.getByRole('radio', { name: 'Overall', exact: true }).first().click();
    const now = Number(await page.getByTestId('pad').locator('svg').first().locator('circle').nth(1).getAttribute('r'));
    await page.mouse.move(middle.x, middle.y + now);
    await page.mouse.down();
    await page.mouse.move(middle.x, middle.y + now * 0.8, { steps: 6 });
    await page.mouse.up();
    expect((await params('saturation')).amount).toBeCloseTo(0.8, 1);
  });

  test('red, green and blue of a mark are typed', async () => {
    await page.getByRole('radio', { name: 'Shadows', exact: true }).first().click();
    await page.getByRole('button', { name: /^red [+−]?0.0\s%. Type it/ }).click();
    await page.keyboard.press('Control+A');
    await page.keyboard.type('3');
    await page.keyboard.press('Enter');
    await page.getByTestId('mark-red').getByText('+3.0 %').waitFor();
    expect((await params('moved')).shadowsCr).toBeCloseTo(0.03 / 1.5748, 6);
  });

  test('a band edge is dragged on the waveform, and by keys', async () => {
    const chip = page.getByTestId('step-moved');
    if ((await chip.getAttribute('aria-pressed')) === 'false') await chip.click();
    await settled(page);
    const edge = page.getByRole('slider', { name: 'Highlights begin on the waveform' });
    const box = (await page.getByTestId('waveform').boundingBox())!;
    await dragBy(page, edge, 0, (10 / 122) * box.height);
    expect((await params('moved')).highEdge).toBeCloseTo(0.6, 1);
    const before = (await params('moved')).highEdge;
    await edge.focus();
    await page.keyboard.press('ArrowUp');
    expect((await params('moved')).highEdge).toBeCloseTo(before + 0.005, 6);
  });

  test('the overall mark moves exposure', async () => {
    const at = await valueOf(page, 'Overall on the waveform');
    await pull(page, 'Overall on the waveform', at + 6);
    expect(Math.abs((await valueOf(page, 'Overall on the waveform')) - (at + 6))).toBeLessThanOrEqual(0.5);
    const range = (await keptSteps(app.client, clip.id)).find((s) => s.kind === 'range')!;
    expect(range.params.exposure).toBeGreaterThan(0.1);
  });

  test('a point of a curve is typed and taken away', async () => {
    await page.getByRole('button', { name: 'Add a step' }).click();
    await page.getByRole('button', { name: /^Curves/ }).click();
    const curve = (await page.getByRole('application', { name: /^Curve,/ }).boundingBox())!;
    const place = [curve.x + curve.width * 0.5, curve.y + curve.height * 0.5] as const;
    await page.mouse.click(...place);
    const points = async () =>
      (await keptSteps(app.client, clip.id)).find((s) => s.kind === 'curves')!.params.all as {
        x: number;
        y: number;
      }[];
    await settled(page);
    expect(await points()).toHaveLength(3);
    await page.mouse.click(...place);
    await page.getByRole('slider', { name: 'Out', exact: true }).click();
    await page.waitForFunction(() => document.activeElement instanceof HTMLInputElement);
    await page.keyboard.press('Control+A');
    await page.keyboard.type('62');
    await page.keyboard.press('Enter');
    await settled(page);
    expect((await points())[1].y).toBeCloseTo(0.62, 6);
    await page.getByRole('button', { name: 'Take this point away' }).click();
    await settled(page);
    expect(await points()).toHaveLength(2);
  });
});
