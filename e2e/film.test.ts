import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import type { Job } from '@inkavo/core/model/job';
import type { Clip } from '@inkavo/core/model/outing';
import { probe } from '@inkavo/media/codec';
import { workFolder } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let clips: Record<string, Clip>;
const folder = workFolder();

beforeAll(async () => {
  app = await openTestApp();
  clips = await app.clips('boat_shed_01', 'channel_east_03');
  // Two seconds of one, one and a half of the other.
  for (const [clip, outFrame] of [
    [clips.boat_shed_01, 59],
    [clips.channel_east_03, 44],
  ] as const)
    await app.client.ask('PATCH', `/clips/${clip.id}`, { inFrame: 0, outFrame });
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

const jobs = () => app.client.get<Job[]>('/jobs');
const tap = (name: string | RegExp) =>
  page
    .getByRole('button', { name, exact: typeof name === 'string' })
    .last()
    .tap();

/** Taps a control that saves a file, and waits for the file. */
async function saved(link: () => Promise<void>): Promise<string> {
  const coming = page.waitForEvent('download');
  await link();
  const download = await coming;
  const path = join(folder, download.suggestedFilename());
  await download.saveAs(path);
  return path;
}

test('from the outing: a film, the same upright, and a report; each saved and measured', async () => {
  await page.goto(`${app.running.address}/outing/${clips.boat_shed_01.outingId}`);
  await page.getByText('channel_east_03.mp4').waitFor();
  await tap('This outing: name, day, remove');
  await tap('Film, report, timeline …');
  await tap('A film …');
  await page.getByText('0:03.5 · 1920×1080 · 30 fps').waitFor();
  await page.getByRole('radio', { name: 'Dissolves' }).tap();
  await page.getByText('0:03.0 · 1920×1080 · 30 fps').waitFor();
  await page.getByRole('checkbox', { name: 'Also upright, for a phone' }).tap();
  await page.getByRole('radio', { name: '720 lines' }).tap();
  await page.getByText('0:03.0 · 1280×720 · 30 fps').waitFor();
  // A choice can be taken back.
  await page.getByRole('radio', { name: 'As filmed' }).tap();
  await page.getByText('0:03.0 · 1920×1080 · 30 fps').waitFor();
  await page.getByRole('radio', { name: '720 lines' }).tap();
  await page.getByText('0:03.0 · 1280×720 · 30 fps').waitFor();
  await tap('Make both');
  await page.getByRole('heading', { name: '2 to be made' }).waitFor();
  await page.goBack();
  await tap('This outing: name, day, remove');
  await tap('Film, report, timeline …');
  await tap('Report, as a page');
  await until(jobs, (list) => list.length === 3 && list.every((j) => j.state === 'done'));
  // Rows move until the list shows it as well.
  await page.getByRole('heading', { name: '3 finished' }).waitFor();
  for (const [name, width, height] of [
    ['Saltmark survey.mp4', 1280, 720],
    // The shorter side of the crop is below 720 lines, and nothing is enlarged by default.
    ['Saltmark survey upright.mp4', 608, 1080],
  ] as const) {
    const path = await saved(() => page.getByRole('link', { name: `Save ${name}` }).tap());
    const { facts } = await probe(path);
    expect(facts).toMatchObject({ width, height, frames: 90, codec: 'h264' });
    expect(facts.durationSeconds).toBeCloseTo(3, 3);
  }
  const report = readFileSync(await saved(() => page.getByRole('link', { name: /report\.html$/ }).tap()), 'utf8');
  expect(report).toContain('channel_east_03.mp4');
  expect(report.match(/<article>/g)).toHaveLength(2);
});

test('what a finished file is: its frames and its check sum', async () => {
  await page.getByRole('button', { name: 'What Saltmark survey.mp4 is' }).tap();
  await page.getByText(/1280×720 · 90 frames/).waitFor();
  await page.getByText(/^SHA-256 [0-9a-f]{64}$/).waitFor();
});

test('all finished files as one archive', async () => {
  const path = await saved(() => page.getByRole('link', { name: 'Save all as one archive' }).tap());
  // The signature of a local file header (APPNOTE 4.3.7).
  expect(readFileSync(path).subarray(0, 4)).toEqual(Buffer.from('PK\x03\x04'));
});

test('paused by a tap, put into another order with the keyboard, and on again', async () => {
  await app.client.ask('PUT', '/queue', { paused: true });
  const deliver = (name: string) =>
    app.client.post('/deliveries', {
      clipIds: [clips.boat_shed_01.id],
      delivery: { codec: 'h264', lines: 360, name },
    });
  await deliver('first');
  await deliver('second');
  await page.reload();
  await page.getByRole('heading', { name: 'Paused · 2 waiting' }).waitFor();
  await page.getByRole('button', { name: 'Move second.mp4' }).focus();
  await page.keyboard.press('Space');
  await page.waitForTimeout(200);
  await page.keyboard.press('ArrowUp');
  await page.waitForTimeout(300);
  await page.keyboard.press('Space');
  const waiting = async (): Promise<string[]> =>
    (await jobs())
      .filter((j) => j.state === 'waiting')
      .sort((a, b) => a.rank - b.rank)
      .map((j) => j.file!.name);
  await until(waiting, (names) => names.join() === 'second.mp4,first.mp4');
  await page.getByRole('button', { name: 'Go on' }).tap();
  await until(jobs, (list) => list.every((j) => j.state === 'done'));
});

test('settings of one’s own, the size that is expected, and a name by a pattern', async () => {
  await page.goto(`${app.running.address}/clip/${clips.boat_shed_01.id}`);
  await settled(page);
  await tap('More');
  await tap('Export this clip');
  const sheet = page.getByRole('dialog', { name: 'Export this clip' });
  await sheet.getByRole('button', { name: /^Shape, frame rate/ }).tap();
  await sheet.getByRole('radio', { name: '1:1' }).tap();
  await sheet.getByLabel('Name of the file').fill('{outing} {clip} {what}');
  await sheet.getByText(/\{what\} stands for nothing/).waitFor();
  await sheet.getByLabel('Name of the file').fill('{outing} {clip} {lines}');
  await sheet.getByText('Saltmark survey boat_shed_01 720.mp4').waitFor();
  await sheet.getByText(/^720×720 · 0:02 · about [\d.]+\s[kM]B$/).waitFor();
  await sheet.getByRole('button', { name: 'Keep these settings' }).tap();
  await sheet.getByLabel('Name of these settings').fill('Square');
  await sheet.getByRole('button', { name: 'Keep', exact: true }).tap();
  await sheet.getByRole('button', { name: 'Forget the settings Square' }).waitFor();
  await sheet.getByRole('radio', { name: '16:9' }).tap();
  await sheet.getByRole('button', { name: 'Square', exact: true }).tap();
  expect(await sheet.getByRole('radio', { name: '1:1' }).getAttribute('aria-checked')).toBe('true');
});

test('in two forms at once: as the settings say, and as some that were kept', async () => {
  const sheet = page.getByRole('dialog', { name: 'Export this clip' });
  const before = (await jobs()).length;
  await sheet.getByRole('radio', { name: '16:9' }).tap();
  await sheet.getByLabel('Name of the file').fill('{clip} wide');
  await sheet.getByRole('checkbox', { name: 'Also as Square' }).tap();
  await sheet.getByText(/, and 1 more$/).waitFor();
  await sheet.getByRole('button', { name: 'Export 2 files' }).tap();
  await page.getByRole('heading', { name: '2 to be made' }).waitFor();
  const list = await until(jobs, (all) => all.length === before + 2 && all.every((j) => j.state === 'done'));
  const names = list.map((j) => j.file!.name);
  expect(names).toEqual(expect.arrayContaining(['boat_shed_01 wide.mp4', 'Saltmark survey boat_shed_01 720.mp4']));
  await page.goBack();
  await settled(page);
});

test('the frame on the screen as a picture of the file’s size', async () => {
  await tap('More');
  await tap('Save this frame as a picture');
  const path = await saved(() => tap('Save'));
  const png = readFileSync(path);
  expect(path).toMatch(/boat_shed_01, frame \d+\.png$/);
  expect([png.readUInt32BE(16), png.readUInt32BE(20), png[24]]).toEqual([1920, 1080, 16]);
});
