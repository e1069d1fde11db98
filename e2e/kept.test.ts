import type { Page } from 'playwright-core';
import { newStep } from '@inkavo/core/model/grade';
import type { Kept } from '@inkavo/core/model/kept';
import type { Clip } from '@inkavo/core/model/outing';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { keptSteps, openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let clips: Record<string, Clip>;
beforeAll(async () => {
  app = await openTestApp();
  clips = await app.clips('boat_shed_01', 'paddle_out_07');
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

const exposed = (exposure: number) => [newStep('range', 'range', { exposure })];
async function openKept(on: Page, clip: Clip): Promise<void> {
  await on.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(on);
  await on.getByRole('button', { name: 'Compare and check' }).click();
  await on.getByRole('button', { name: 'Kept frames and variants …' }).click();
}
async function keepAs(name: string): Promise<void> {
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByRole('button', { name: 'Keep this frame with its steps' }).tap();
  await page.getByRole('group', { name, exact: true }).waitFor();
}
const kept = () => app.client.get<Kept[]>(`/outings/${clips.boat_shed_01.outingId}/kept`);

test('two variants of a clip by name: their pictures differ, one is taken up again, and undo brings back the other', async () => {
  const { boat_shed_01: clip } = clips;
  await app.client.setSteps(clip.id, { clip: exposed(-1.5) });
  await openKept(page, clip);
  await keepAs('Dark');
  await app.client.setSteps(clip.id, { clip: exposed(0.5) });
  await openKept(page, clip);
  await keepAs('Bright');
  const [bright, dark] = await kept();
  expect([bright.name, dark.name]).toEqual(['Bright', 'Dark']);
  const size = async (k: Kept): Promise<string> => {
    const res = await fetch(`${app.running.address}/api/kept/${k.id}/picture.jpg?width=320`);
    expect(res.headers.get('cache-control')).toContain('immutable');
    return Buffer.from(await res.arrayBuffer()).toString('base64');
  };
  expect(await size(bright)).not.toBe(await size(dark));
  await page.getByRole('group', { name: 'Dark' }).getByRole('button', { name: 'Take its steps' }).tap();
  const exposure = async () => (await keptSteps(app.client, clip.id)).find((s) => s.kind === 'range')!.params.exposure;
  await until(exposure, (v) => v === -1.5);
  await page.getByRole('button', { name: 'Undo', exact: true }).first().tap();
  await until(exposure, (v) => v === 0.5);
});

test('on another device a kept frame of another clip is held against this one; removed, it is put back by undo', async () => {
  const other = await app.page(SIZES.wide);
  await openKept(other, clips.paddle_out_07);
  const row = other.getByRole('group', { name: 'Dark' });
  await row.getByText('boat_shed_01.mp4').waitFor();
  await row.getByRole('button', { name: 'Hold against' }).click();
  await other.getByAltText('Kept frame').waitFor();
  await openKept(other, clips.paddle_out_07);
  await other.getByRole('button', { name: 'Remove Dark' }).click();
  await until(kept, (list) => list.length === 1);
  await other.getByRole('button', { name: 'Undo' }).last().click();
  await until(kept, (list) => list.length === 2);
  await other.context().close();
});
