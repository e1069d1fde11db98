import type { Page } from 'playwright-core';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { bt709 } from '@inkavo/core/colour/transfer';
import type { Clip } from '@inkavo/core/model/outing';
import { SIZES } from './browser';
import { patchesOf } from './truth';
import {
  dragBy,
  keptSteps,
  openTestApp,
  screenPicture,
  settled,
  splitInHalf,
  tapPicture,
  textOf,
  type TestApp,
} from './testApp';

let app: TestApp;
let page: Page;
let clip: Clip;
beforeAll(async () => {
  app = await openTestApp();
  clip = (await app.clips('boat_shed_01')).boat_shed_01;
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

async function open(steps: Step[]): Promise<void> {
  await app.client.setSteps(clip.id, { clip: steps });
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
}
const button = (name: string | RegExp) => page.getByRole('button', { name, exact: typeof name === 'string' });
const compare = async (name: string): Promise<void> => {
  await button('Compare and check').tap();
  await button(name).tap();
};
/** Mean of a picture's samples between two shares of its width. */
async function meanOf(from: number, to: number): Promise<number> {
  const { width, height, rgb } = await screenPicture(page);
  const [a, b] = [Math.round(from * width), Math.round(to * width)];
  let sum = 0;
  for (let y = 0; y < height; y += 1)
    for (let x = a; x < b; x += 1) sum += rgb[3 * (y * width + x)] + rgb[3 * (y * width + x) + 1];
  return sum / (2 * height * (b - a));
}
/** Takes a step in hand; once in hand, another tap would open its sheet. */
async function take(id: string): Promise<void> {
  const chip = page.getByTestId(`step-${id}`);
  if ((await chip.getAttribute('aria-pressed')) === 'false') await chip.tap();
}
const DARK = newStep('range', 'dark', { white: -0.4 });
const steps = async () => keptSteps(app.client, clip.id);

describe('comparing', () => {
  beforeAll(() => open([newStep('saturation', 'colour', { amount: 1.3 }), DARK]));

  test('a drag from the edge brings the split: left as recorded, right graded, the line is moved and goes at an edge', async () => {
    const graded = await meanOf(0, 0.45);
    const box = (await page.getByTestId('picture').boundingBox())!;
    await splitInHalf(page);
    const [left, right] = [await meanOf(0, 0.45), await meanOf(0.55, 1)];
    expect(left).toBeGreaterThan(graded * 1.3);
    await dragBy(page, page.getByTestId('split'), box.width * 0.3, 0);
    expect(await meanOf(0.55, 0.75)).toBeGreaterThan(right * 1.3);
    await dragBy(page, page.getByTestId('split'), box.width * 0.4, 0);
    await page.getByTestId('split').waitFor({ state: 'detached' });
    expect(await meanOf(0, 0.45)).toBeCloseTo(graded, 6);
  });

  test('one step off and on: held, the picture is without the step in hand only', async () => {
    await take('dark');
    await button('Compare and check').tap();
    await page.getByRole('radio', { name: 'Without this step' }).tap();
    await button('Close').tap();
    await page.waitForTimeout(700);
    const graded = await meanOf(0, 1);
    const box = (await page.getByTestId('picture').boundingBox())!;
    await page.mouse.move(box.x + 100, box.y + 100);
    await page.mouse.down();
    await page.getByText('Without the step in hand').waitFor();
    const without = await screenPicture(page);
    await page.mouse.up();
    expect(await meanOf(0, 1)).toBeCloseTo(graded, 6);
    // Equal to the grade with that step switched off.
    await open([newStep('saturation', 'colour', { amount: 1.3 }), { ...DARK, on: false }]);
    const off = await screenPicture(page);
    let apart = 0;
    off.rgb.forEach((v, i) => (apart += Math.abs(v - without.rgb[i]) > 1 ? 1 : 0));
    expect(apart / off.rgb.length).toBeLessThan(0.001);
  });

  test('a kept frame is held against a later grade, side by side too, and is there after a reload', async () => {
    await open([DARK]);
    await compare('Keep this frame');
    await page.getByAltText('Kept frame').waitFor();
    await take('dark');
    await button('White point: more').tap();
    await page.reload();
    await settled(page);
    await button('Compare and check').tap();
    await page.getByRole('radio', { name: 'Kept frame' }).tap();
    await button('Side by side').tap();
    const [kept, now] = [
      (await page.getByAltText('Kept frame').boundingBox())!,
      (await page.getByTestId('picture').boundingBox())!,
    ];
    expect([kept.width, kept.y]).toEqual([now.width, now.y]);
    expect(kept.x + kept.width).toBeCloseTo(now.x, 0);
    await compare('One picture');
  });

  test('a rest for the eye: grey, then as recorded, then graded', async () => {
    const graded = await meanOf(0, 1);
    await compare('Rest the eye');
    await page.getByTestId('eye-rest').waitFor();
    await page.getByTestId('eye-rest').waitFor({ state: 'detached' });
    expect(await meanOf(0, 1)).toBeGreaterThan(graded * 1.3);
    await page.waitForTimeout(2900);
    expect(await meanOf(0, 1)).toBeCloseTo(graded, 6);
  });
});

test('what a cut to a wide shape takes away is covered, as much as it takes, and moves with the picture', async () => {
  await button('Compare and check').tap();
  await page.getByRole('radio', { name: '2.39:1' }).tap();
  const guide = page.getByRole('img', { name: 'What a cut to 2.39:1 leaves' });
  await guide.waitFor();
  const heights = async (): Promise<number[]> =>
    await guide.evaluate((e) => Array.from(e.children).map((c) => c.getBoundingClientRect().height));
  const { width, height } = (await page.getByTestId('picture').boundingBox())!;
  const [above, below] = await heights();
  expect(Math.abs(above + width / 2.39 + below - height)).toBeLessThan(1);
  expect(Math.abs(above - below)).toBeLessThan(1);
  await compare('100 %');
  // Magnified about its centre, the picture extends beyond its box, and so do the bands.
  expect((await heights()).slice(0, 2).every((h) => h < above)).toBe(true);
  await compare('Whole picture');
  await button('Compare and check').tap();
  await page.getByRole('radio', { name: 'None', exact: true }).tap();
  await guide.waitFor({ state: 'detached' });
});

describe('overlays', () => {
  test('zones: eleven greys and nothing else, with their shares', async () => {
    await open([]);
    await compare('Zones 0–10');
    await page.getByRole('list', { name: 'Zones' }).waitFor();
    const { rgb } = await screenPicture(page);
    const greys = new Set<number>();
    let coloured = 0;
    for (let o = 0; o < rgb.length; o += 3) {
      if (rgb[o] !== rgb[o + 1]) coloured += 1;
      greys.add(rgb[o]);
    }
    expect(coloured).toBe(0);
    expect(greys.size).toBeLessThanOrEqual(11);
    const shares = await page
      .getByRole('listitem', { name: /^Zone \d+:/ })
      .evaluateAll((all) => all.map((e) => Number(/: (\d+)\s%/.exec(e.getAttribute('aria-label')!)![1])));
    expect(shares).toHaveLength(11);
    expect(Math.abs(shares.reduce((a, b) => a + b, 0) - 100)).toBeLessThanOrEqual(5);
    await compare('Hide zones');
  });

  test('clipping by the grade is drawn in checks where the grade loses it, and as much as is said', async () => {
    await open([newStep('range', 'hot', { white: 0.4 })]);
    const plain = await screenPicture(page);
    await compare('Show clipping');
    const words = await page
      .getByText(/% lost by the grade/)
      .first()
      .innerText();
    const said = Number(/([\d.]+)\s%/.exec(words)![1]);
    const { rgb } = await screenPicture(page);
    let changed = 0;
    for (let o = 0; o < rgb.length; o += 3)
      if (rgb[o] !== plain.rgb[o] || rgb[o + 1] !== plain.rgb[o + 1] || rgb[o + 2] !== plain.rgb[o + 2]) changed += 1;
    const share = (changed / (rgb.length / 3)) * 100;
    expect(said).toBeGreaterThan(1);
    // Half of a check is white, like the lost highlights before: only the black half is sure to differ.
    expect(share).toBeGreaterThan(said * 0.4);
    expect(share).toBeLessThan(said * 1.1 + 0.5);
    await compare('Hide clipping');
  });
});

test('a pin goes on reading, before and after, and is there after a reload', async () => {
  await open([newStep('balance', 'balance')]);
  await tapPicture(page, 0.3, 0.6);
  await button('Pin').tap();
  const line = page.getByTestId('reading');
  const next = page.getByRole('button', { name: 'Next reading' });
  const toPin = async (): Promise<string> => {
    for (let i = 0; i < 12 && !(await line.innerText()).startsWith('Pin 1'); i += 1) await next.tap();
    return line.innerText();
  };
  const before = await toPin();
  expect(before).toMatch(/Pin 1: \d+ \d+ \d+, .*; recorded \d+ \d+ \d+/);
  await take('balance');
  await button('White of the light: less').tap();
  await button('White of the light: less').tap();
  await settled(page);
  await page.waitForFunction((text) => document.querySelector('[data-testid=reading]')!.textContent !== text, before);
  await page.reload();
  await settled(page);
  await page.getByTestId('pin-1').waitFor();
  expect(await toPin()).toContain('Pin 1');
  await button('Take this pin away').tap();
  await page.getByTestId('pin-1').waitFor({ state: 'detached' });
});

test('exposure from a grey card: the touched spot lands on the luma of 18 %', async () => {
  await open([newStep('range', 'range', { exposure: -0.8 })]);
  await tapPicture(page, 0.53, 0.43);
  await button('Grey card').tap();
  await page.getByText('Exposed for a grey card of 18 %.').waitFor();
  await settled(page);
  const bold = page.getByText(/^\d+ \d+ \d+$/).first();
  const [r, g, b] = (await bold.innerText()).split(' ').map(Number);
  // BT.709 of 0.18 is 40.9 %.
  expect(Math.abs((0.2126 * r + 0.7152 * g + 0.0722 * b) / 255 - 0.409)).toBeLessThan(0.012);
});

describe('two fingers', () => {
  test('they magnify the picture, and a card too small for a finger is read alone', async () => {
    await open([]);
    const box = (await page.getByTestId('picture').boundingBox())!;
    const card = patchesOf('BANK_CAMERA', 15).find((p) => p.name === 'grey card')!;
    const [x, y] = [card.x + card.width / 2, card.y + card.height / 2];
    // A touch covers ten pixels of the screen.
    expect(card.width * box.width).toBeLessThan(10);
    const before = await screenPicture(page);
    const at = (dx: number) => ({ x: box.x + x * box.width + dx, y: box.y + y * box.height });
    const session = await page.context().newCDPSession(page);
    const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', apart: number) =>
      session.send('Input.dispatchTouchEvent', {
        type,
        touchPoints: type === 'touchEnd' ? [] : [at(-apart / 2), at(apart / 2)],
      });
    await touch('touchStart', 40);
    for (let apart = 50; apart <= 160; apart += 10) await touch('touchMove', apart);
    await touch('touchEnd', 0);
    await page.getByRole('button', { name: /^4.0 times: show the whole picture/ }).waitFor();
    expect(Buffer.compare((await screenPicture(page)).rgb, before.rgb)).not.toBe(0);
    await tapPicture(page, x, y);
    const text = page.getByText(/^recorded \d+ \d+ \d+/);
    await text.waitFor();
    const read = (await text.innerText()).match(/\d+/g)!.slice(0, 3).map(Number);
    // The clip is correct: its code values are BT.709 of the card's reflectance.
    read.forEach((v, i) => expect(Math.abs(v - 255 * bt709.encode(card.reflectance[i]))).toBeLessThanOrEqual(4));
    await button('Close the reading').tap();
    await page.getByRole('button', { name: /show the whole picture/ }).tap();
    expect(Buffer.compare((await screenPicture(page)).rgb, before.rgb)).toBe(0);
  });
});

describe('every value', () => {
  test('undo and redo go on over a reload', async () => {
    await open([newStep('range', 'range')]);
    await take('range');
    for (let i = 0; i < 3; i += 1) await button('White point: more').tap();
    await settled(page);
    await page.waitForTimeout(600);
    await page.reload();
    await settled(page);
    await take('range');
    await page.waitForFunction(() => !document.querySelector('[aria-label=Undo]')!.hasAttribute('disabled'));
    for (const text of ['+1.0 %', '+0.5 %', '0.0 %']) {
      await button('Undo').tap();
      expect(await textOf(page.getByTestId('value-white'))).toBe(text);
    }
    await button('Redo').tap();
    expect(await textOf(page.getByTestId('value-white'))).toBe('+0.5 %');
    await settled(page);
  });

  test('a step is named, copied, pasted, and dragged to another place', async () => {
    await page.getByTestId('step-range').tap();
    await page.getByRole('textbox', { name: 'Name of this step' }).fill('Late light');
    await button('Copy').tap();
    await page.getByTestId('step-range').getByText('Late light').waitFor();
    await button('Copy and paste steps').tap();
    await button('Paste: Late light').tap();
    await button('Add a step').tap();
    await button(/^Saturation/).tap();
    await settled(page);
    expect((await steps()).map((s) => [s.kind, s.params.white ?? null])).toEqual([
      ['range', 0.005],
      ['range', 0.005],
      ['saturation', null],
    ]);
    const chips = page.getByRole('group', { name: 'Steps' }).locator('[data-testid^=step-]');
    const [first, last] = [(await chips.nth(0).boundingBox())!, (await chips.nth(2).boundingBox())!];
    await page.mouse.move(last.x + 30, last.y + 20);
    await page.mouse.down();
    await page.mouse.move(first.x + 20, first.y + 20, { steps: 12 });
    await page.waitForTimeout(200);
    await page.mouse.up();
    await settled(page);
    expect((await steps()).map((s) => s.kind)).toEqual(['saturation', 'range', 'range']);
  });

  test('an inherited step is left out in this clip alone', async () => {
    await open([newStep('range', 'range', { white: -0.3 })]);
    await take('range');
    await page.getByTestId('step-range').tap();
    await page.getByRole('radio', { name: 'The outing' }).tap();
    await page.getByRole('radio', { name: 'Left out' }).tap();
    await button('Close').tap();
    await settled(page);
    const { clip: kept, outing } = await app.client.get<{ clip: Clip; outing: { steps: Step[] } }>(`/clips/${clip.id}`);
    expect(outing.steps).toHaveLength(1);
    expect(Object.values(kept.overrides)).toEqual([{ on: false }]);
    await page.getByText('off here').waitFor();
  });

  test('the left hand has its handles on the left', async () => {
    const side = async () => (await page.getByRole('slider', { name: 'Shadows on the waveform' }).boundingBox())!.x;
    expect(await side()).toBeGreaterThan(300);
    await button('More').tap();
    await page.getByRole('radio', { name: 'Left hand' }).tap();
    await button('Close').tap();
    expect(await side()).toBe(0);
    await button('More').tap();
    await page.getByRole('radio', { name: 'Right hand' }).tap();
    await button('Close').tap();
  });
});
