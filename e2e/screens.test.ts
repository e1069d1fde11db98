import type { Page } from 'playwright-core';
import type { Job } from '@inkavo/core/model/job';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { openTestApp, screenPicture, settled, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
beforeAll(async () => {
  app = await openTestApp();
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

const go = (path: string) => page.goto(app.running.address + path);
const jobs = () => app.client.get<Job[]>('/jobs');

test('the first start says what to do; an outing is made, and one without a day is refused with a sentence', async () => {
  await go('/');
  await page.getByText('No outing yet').waitFor();
  await page.getByRole('button', { name: 'New outing' }).tap();
  await page.getByRole('textbox', { name: 'Name' }).fill('Weir day');
  await page.getByLabel('Day', { exact: true }).fill('');
  await page.getByRole('button', { name: 'Make it' }).tap();
  await page.getByText('A day is written as YYYY-MM-DD.').waitFor();
  await page.getByLabel('Day', { exact: true }).fill('2031-07-02');
  await page.getByRole('button', { name: 'Make it' }).tap();
  await page.getByText('No clips yet').waitFor();
  const [outing] = await app.client.get<Outing[]>('/outings');
  expect(outing).toMatchObject({ name: 'Weir day', date: '2031-07-02' });
});

test('an empty queue says what to do; an address that is not there leads back', async () => {
  await go('/exports');
  await page.getByText('Nothing is being exported').waitFor();
  await go('/clip/none');
  await page.getByText('This clip cannot be opened').waitFor();
  await page.getByText('This clip is not here any more.').waitFor();
});

test('Noon and Dusk: chosen once, kept on this device; text stands out in both', async () => {
  await go('/');
  await page.getByRole('radio', { name: 'Noon: in the sun' }).tap();
  await page.reload();
  expect(await page.evaluate(() => document.documentElement.dataset.mode)).toBe('noon');
  const contrast = () =>
    page.evaluate(() => {
      const style = getComputedStyle(document.documentElement);
      const luminance = (name: string): number => {
        const pen = document.createElement('canvas').getContext('2d')!;
        pen.fillStyle = style.getPropertyValue(name).trim();
        const hex = String(pen.fillStyle).slice(1);
        const [r, g, b] = [0, 2, 4].map((i) => {
          const v = parseInt(hex.slice(i, i + 2), 16) / 255;
          return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
        });
        return 0.2126 * r + 0.7152 * g + 0.0722 * b;
      };
      const ratio = (a: string, b: string): number => {
        const [x, y] = [luminance(a), luminance(b)].sort((p, q) => q - p);
        return (x + 0.05) / (y + 0.05);
      };
      const pairs = ['--ground', '--surface', '--raised'].flatMap((s) => [ratio('--ink', s), ratio('--quiet', s)]);
      return Math.min(...pairs, ratio('--on-accent', '--accent'));
    });
  // WCAG 2.2: AAA for text in the sun, AA indoors.
  expect(await contrast()).toBeGreaterThan(7);
  await page.getByRole('radio', { name: 'Dusk: indoors' }).tap();
  expect(await contrast()).toBeGreaterThan(4.5);
});

test('several clips are chosen and exported together; one is stopped, exported again and removed', async () => {
  const clips = await app.clips('boat_shed_01', 'mooring_block_02');
  for (const clip of Object.values(clips))
    await app.client.ask('PATCH', `/clips/${clip.id}`, { inFrame: 0, outFrame: 30 });
  await go(`/outing/${clips.boat_shed_01.outingId}`);
  await page.getByRole('button', { name: 'Choose several clips' }).tap();
  for (const name of [/boat_shed_01/, /mooring_block_02/]) await page.getByRole('checkbox', { name }).tap();
  await page.getByRole('button', { name: 'With them …' }).tap();
  await page.getByRole('button', { name: 'Export', exact: true }).tap();
  await page.getByRole('radio', { name: /FFV1/ }).tap();
  await page.getByRole('button', { name: 'Export', exact: true }).tap();
  // The second waits for the first; it is stopped while waiting, or while running.
  await page.getByRole('button', { name: 'Stop mooring_block_02.mp4' }).tap();
  await page.getByTestId('export-stopped').waitFor();
  await page.getByRole('button', { name: 'Export mooring_block_02.mp4 again' }).tap();
  await until(jobs, (list) => list.filter((j) => j.kind === 'export').every((j) => j.state === 'done'));
  await page.getByRole('link', { name: 'Save mooring_block_02.mkv' }).waitFor();
  await page.getByRole('button', { name: 'Remove mooring_block_02.mkv' }).tap();
  await page.getByText('mooring_block_02.mkv', { exact: true }).waitFor({ state: 'detached' });
  expect((await jobs()).filter((j) => j.kind === 'export')).toHaveLength(1);
});

test('a clip is opened before its proxy is made, and plays once it is', async () => {
  const { outing } = await app.client.post<{ outing: Outing }>('/demo', { load: false });
  await app.client.post(`/outings/${outing.id}/import`, {
    clips: [{ paths: ['DCIM/QUADCOPTER/channel_east_03.mp4'] }],
  });
  const find = async () => (await app.client.clips(outing.id)).find((c) => c.name.startsWith('channel'));
  const clip = (await until(find, (c) => c !== undefined))!;
  expect(clip.proxy).toBe('waiting');
  await go(`/clip/${clip.id}`);
  await settled(page);
  const play = page.getByRole('button', { name: 'Play' });
  await until(
    () => play.isEnabled(),
    (enabled) => enabled,
  );
  await play.tap();
  await page.waitForFunction(
    () => document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset.showing === 'moving',
  );
  await page.getByRole('button', { name: 'Pause' }).tap();
  await settled(page);
  const { rgb } = await screenPicture(page);
  expect(rgb.reduce((sum, v) => sum + v, 0) / rgb.length).toBeGreaterThan(40);
});

test('what the file is, and what matters of it, is told on the bench', async () => {
  const { boat_shed_01: clip } = await app.clips('boat_shed_01');
  await go(`/clip/${clip.id}`);
  await settled(page);
  await page.getByRole('button', { name: 'More', exact: true }).tap();
  await page.getByRole('button', { name: 'What this file is' }).tap();
  const sheet = page.getByRole('dialog').last();
  for (const text of ['1920×1080', '8 bit', 'limited', 'bt709'])
    await sheet.getByText(text, { exact: true }).first().waitFor();
  await sheet.getByText(/^\d+ at 30 a second, /).waitFor();
  await sheet.getByText(/^H264, [\d.]+\sMbit\/s, [\d.]+\sMB$/).waitFor();
});

test('resetting all steps of a clip is one thing to undo', async () => {
  const { boat_shed_01: clip } = await app.clips('boat_shed_01');
  const { clip: now } = await app.client.get<{ clip: Clip }>(`/clips/${clip.id}`);
  const steps = now.steps.map((s) => (s.kind === 'saturation' ? { ...s, params: { ...s.params, amount: 1.5 } } : s));
  await app.client.setSteps(clip.id, { clip: steps });
  await go(`/clip/${clip.id}`);
  await settled(page);
  await page.getByRole('button', { name: 'More', exact: true }).tap();
  await page.getByRole('button', { name: 'Reset all steps of this clip' }).tap();
  const summary = page.getByTestId('step-saturation');
  await summary.getByText('neutral').waitFor();
  await page.getByRole('button', { name: 'Undo' }).tap();
  await summary.getByText('×1.50').waitFor();
});

test('among many outings one is found by words of its name, place or day', async () => {
  for (let k = 1; k <= 9; k += 1)
    await app.client.post('/outings', { name: `Tide ${k}`, place: k % 2 ? 'Weir' : 'Ferry', date: `2032-04-0${k}` });
  await go('/');
  await page.getByLabel('Search outings').fill('FERRY april 2032-04-04');
  await page.getByRole('link', { name: /Tide \d/ }).waitFor();
  expect(await page.getByRole('link').allInnerTexts()).toEqual([
    expect.stringMatching(/^(No clips yet\s+)?Tide 4\s+4 April 2032/),
  ]);
  await page.getByLabel('Search outings').fill('nowhere');
  await page.getByText('No outing fits.').waitFor();
  await page.getByRole('button', { name: 'Search for nothing' }).tap();
  await page.getByRole('link', { name: /Tide 9/ }).waitFor();
});
