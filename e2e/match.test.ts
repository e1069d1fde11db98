import type { Page } from 'playwright-core';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { keptSteps, openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let clips: Record<string, Clip>;
beforeAll(async () => {
  app = await openTestApp();
  clips = await app.clips('boat_shed_01', 'paddle_out_07', 'mooring_block_02');
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

const sheet = () => page.getByRole('dialog', { name: 'Match to another clip' });
async function matchTo({ name }: Clip): Promise<void> {
  await page.getByRole('button', { name: 'Add a step' }).click();
  await page.getByRole('button', { name: 'Match to another clip …' }).tap();
  await sheet()
    .getByRole('button', { name: `Match to ${name}` })
    .tap();
}
/** The opacity of a trace's pixels, by half. */
const halves = (): Promise<[number, number]> =>
  page.getByTestId('trace').evaluate((canvas: HTMLCanvasElement) => {
    const { width, height } = canvas;
    const { data } = canvas.getContext('2d')!.getImageData(0, 0, width, height);
    const sums: [number, number] = [0, 0];
    for (let i = 3; i < data.length; i += 4) if (data[i]) sums[((i - 3) / 4) % width < width / 2 ? 0 : 1] += 1;
    return sums;
  });
const matched = async (clip: Clip) => (await keptSteps(app.client, clip.id)).filter((s) => s.id.startsWith('match-'));

test('a clip is matched to another one by ordinary steps; both stand side by side with their traces; undo takes it back', async () => {
  const { boat_shed_01: clip, paddle_out_07: other } = clips;
  // The same look for both, except for a cast and some light.
  await app.client.setSteps(clip.id, {
    clip: [newStep('channels', 'c', { redTop: -0.12, blueTop: 0.1 }), newStep('range', 'r', { exposure: -0.6 })],
  });
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  const before = await halves();
  await matchTo(other);
  await sheet().waitFor({ state: 'detached' });
  await settled(page);
  const first = await until(
    () => matched(clip),
    (steps) => steps.length > 0,
  );
  expect(first.every((s) => s.label!.includes(' like '))).toBe(true);
  await page.getByText(other.name, { exact: true }).waitFor();
  const picture = page.getByAltText('Kept frame');
  await picture.waitFor();
  const [left, right] = await Promise.all([picture.boundingBox(), page.getByTestId('picture').boundingBox()]);
  expect(left!.x + left!.width).toBeLessThanOrEqual(right!.x + 1);
  // Below the left half the other clip's trace is drawn, which differs from this clip's own.
  await until(halves, ([a, b]) => a > 0 && b > 0 && a !== before[0]);
  // Matched to the same clip again: the new steps replace the first ones.
  await matchTo(other);
  await sheet().waitFor({ state: 'detached' });
  await settled(page);
  const second = await until(
    () => matched(clip),
    (steps) => steps.length > 0 && steps[0].id !== first[0].id,
  );
  expect(second.map((s) => [s.kind, s.params])).toEqual(first.map((s) => [s.kind, s.params]));
  const [under, own] = await halves();
  for (let i = 0; i < 2; i += 1) await page.getByRole('button', { name: 'Undo', exact: true }).first().tap();
  await until(
    () => matched(clip),
    (steps) => steps.length === 0,
  );
  // This clip's half has changed with its steps, the other clip's has not.
  await until(halves, ([a, b]) => a === under && b !== own);
});

test('clips that show different things are left alone, and why is said', async () => {
  const { paddle_out_07: clip, mooring_block_02: dive } = clips;
  await app.client.setSteps(clip.id, { clip: [] });
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
  await matchTo(dive);
  await sheet().getByText('No step was added').waitFor();
  expect(await keptSteps(app.client, clip.id)).toEqual([]);
});
