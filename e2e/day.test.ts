import { copyFileSync, mkdirSync, mkdtempSync, readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import type { Job } from '@inkavo/core/model/job';
import { joinSteps } from '@inkavo/core/model/grade';
import type { Camera, Clip, Outing } from '@inkavo/core/model/outing';
import { configFromEnv } from '@inkavo/server/config';
import { make, QUICK_H264 } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { openTestApp, openStep, settled, takeFromShelf, takeStep, textOf, type TestApp } from './testApp';

/** A card with three cameras in one generic folder and two of their own, as after a day outdoors. */
function dayCard(): string {
  const card = mkdtempSync(join(tmpdir(), 'inkavo-day-'));
  const demo = join(configFromEnv({}).card, 'DCIM');
  const put = (from: string, folder: string, names: string[]): void => {
    mkdirSync(join(card, folder), { recursive: true });
    const [file] = readdirSync(join(demo, from)).filter((n) => n.endsWith('.mp4'));
    for (const name of names) copyFileSync(join(demo, from, file), join(card, folder, name));
  };
  put('QUADCOPTER', 'DCIM/QUADCOPTER', ['flight_01.mp4']);
  mkdirSync(join(card, 'DCIM/BANK_CAMERA'), { recursive: true });
  // Six short ones of the bank, each with different content.
  for (let i = 1; i <= 6; i += 1)
    make(
      join(card, `DCIM/BANK_CAMERA/bank_0${i}.mp4`),
      `testsrc2=size=640x360:rate=30:duration=1,hue=h=${i * 40}`,
      QUICK_H264,
    );
  put('HELMET_CAMERA', 'DCIM/HELMET_CAMERA', ['ride_01.mp4']);
  return card;
}

let app: TestApp;
let page: Page;
let first: Outing;

beforeAll(async () => {
  app = await openTestApp({ card: dayCard() });
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

const button = (name: string | RegExp) => page.getByRole('button', { name, exact: typeof name === 'string' }).last();
const clipNamed = async (name: string, outing = first): Promise<Clip> =>
  (await app.client.clips(outing.id)).find((c) => c.name === name)!;
/** The steps that act on a clip, according to the server. */
async function stepsOf(name: string, outing = first) {
  const { id } = await clipNamed(name, outing);
  const {
    clip,
    camera,
    outing: o,
  } = await app.client.get<{ clip: Clip; camera: Camera; outing: Outing }>(`/clips/${id}`);
  return joinSteps(camera.steps, clip.steps, o.steps, clip.overrides);
}
const openClip = async (name: string): Promise<void> => {
  await page.goto(`${app.running.address}/clip/${(await clipNamed(name)).id}`);
  await settled(page);
};

test('the card: three cameras told apart, one named otherwise, all confirmed at once', async () => {
  await page.goto(app.running.address);
  await button('New outing').tap();
  await page.getByLabel('Name', { exact: true }).fill('Long day');
  await button('Make it').tap();
  await button('Bring in clips').tap();
  const sheet = page.getByRole('dialog', { name: 'Bring in clips' });
  await sheet
    .getByRole('group', { name: /^Camera/ })
    .nth(2)
    .waitFor();
  expect(await sheet.getByRole('group', { name: /^Camera/ }).count()).toBe(3);
  await sheet.getByLabel('Name of camera 1').fill('Tripod on the bank');
  await sheet.getByText('6 of 6 clips').waitFor();
  await sheet.getByRole('button', { name: /^Bring in 8 · / }).tap();
  first = (await app.client.get<Outing[]>('/outings')).find((o) => o.name === 'Long day')!;
  await until(
    () => app.client.clips(first.id),
    (clips) => clips.length === 8 && clips.every((c) => c.proxy === 'ready'),
  );
  const { cameras } = await app.client.get<{ cameras: Camera[] }>(`/outings/${first.id}`);
  expect(cameras.map((c) => c.name)).toEqual(['Helmet camera', 'Quadcopter', 'Tripod on the bank']);
  await page.getByRole('heading', { name: 'Tripod on the bank' }).waitFor();
});

test.each([
  ['flight_01.mp4', 'Drone log, 10 bit'],
  ['ride_01.mp4', 'Action camera flat'],
])('a profile for each camera: %s is %s', async (name, profile) => {
  await openClip(name);
  await takeStep(page, 'convert');
  await button(/Change it|Choose/).tap();
  await takeFromShelf(page, profile);
  await openStep(page, 'convert');
  await page.getByRole('radio', { name: 'Its camera' }).tap();
  await page.keyboard.press('Escape');
  await settled(page);
  const { cameraId } = await clipNamed(name);
  const { camera } = await app.client.get<{ camera: Camera }>(`/clips/${(await clipNamed(name)).id}`);
  expect(camera.id).toBe(cameraId);
  expect((camera.steps[0].params.profile as { name: string }).name).toBe(profile);
});

test('one clip is corrected, and its work carried to five others', async () => {
  await openClip('bank_01.mp4');
  await takeStep(page, 'saturation');
  for (let i = 0; i < 3; i += 1) await button(/^Saturation: more/).tap();
  await takeStep(page, 'range');
  await page.getByRole('radio', { name: 'Light' }).tap();
  for (let i = 0; i < 4; i += 1) await button('Exposure: more').tap();
  await settled(page);
  await button('Copy and paste steps').tap();
  await button(/^Copy/).tap();
  await page.goto(`${app.running.address}/outing/${first.id}`);
  await button('Choose several clips').tap();
  for (let i = 2; i <= 6; i += 1) await page.getByRole('checkbox', { name: `bank_0${i}` }).tap();
  await button('With them …').tap();
  await button(/^Paste/).tap();
  await page.getByText(/^Pasted \d steps into 5 clips\.$/).waitFor();
  const exposure = async (name: string) => (await stepsOf(name)).find((s) => s.kind === 'range')!.params.exposure;
  for (let i = 2; i <= 6; i += 1) expect(await exposure(`bank_0${i}.mp4`)).toBe(await exposure('bank_01.mp4'));
});

test('a look for the outing, limited to two clips: the others, and what comes later, do without', async () => {
  await openClip('bank_01.mp4');
  await openStep(page, 'saturation');
  await page.getByRole('radio', { name: 'The outing' }).tap();
  await button('Only in chosen clips …').tap();
  const sheet = page.getByRole('dialog', { name: /in which clips/ });
  await sheet.getByRole('checkbox', { name: 'bank_01.mp4' }).waitFor();
  for (const box of await sheet.getByRole('checkbox').all()) {
    const name = await box.getAttribute('aria-label');
    if (name !== 'bank_01.mp4' && name !== 'ride_01.mp4') await box.tap();
  }
  await sheet.getByRole('button', { name: 'Only in these 2' }).tap();
  await sheet.waitFor({ state: 'detached' });
  const acts = async (name: string) => (await stepsOf(name)).findLast((s) => s.kind === 'saturation')!.on;
  expect([
    await acts('bank_01.mp4'),
    await acts('ride_01.mp4'),
    await acts('bank_02.mp4'),
    await acts('flight_01.mp4'),
  ]).toEqual([...[true, true, false, false]]);
  await page.keyboard.press('Escape');
});

test('a recipe of it, put into clips of a second outing; all of them exported', async () => {
  await openClip('bank_02.mp4');
  await button('Copy and paste steps').tap();
  await button('Keep as a recipe …').tap();
  await page.getByLabel('Name', { exact: true }).fill('Bank, warm');
  await button('Keep').tap();
  await page.getByText('"Bank, warm" is on the shelf.').waitFor();

  const second = await app.client.post<Outing>('/outings', { name: 'Second day', date: '2031-06-15' });
  await page.goto(`${app.running.address}/outing/${second.id}`);
  await button('Bring in clips').tap();
  await button(/^Bring in 8/).waitFor();
  // Only the bank.
  for (const name of ['Helmet camera', 'Quadcopter']) {
    await page.getByRole('button', { name: `Look through the clips of ${name}` }).tap();
    const group = page.getByRole('group', { name: `Camera ${name}` });
    await group.getByRole('checkbox', { checked: true }).tap();
  }
  await button(/^Bring in 6/).tap();
  await until(
    () => app.client.clips(second.id),
    (clips) => clips.length === 6,
  );
  await button('Choose several clips').tap();
  // While clips are imported, the page is notified with a short delay.
  await until(
    async () => {
      await button('Choose all that are shown').tap();
      return textOf(page.getByRole('heading', { level: 1 }));
    },
    (title) => title === '6 chosen',
  );
  await button('With them …').tap();
  await button('Put a recipe into them …').tap();
  await button('Bank, warm').tap();
  await button('Put into all 6').tap();
  await page.getByText(/^Pasted .* into 6 clips\.$/).waitFor();
  await button('Choose several clips').tap();
  await button('Choose all that are shown').tap();
  await button('With them …').tap();
  await button('Export').tap();
  await page.getByRole('dialog', { name: 'Export 6 clips' }).getByRole('button', { name: 'Export', exact: true }).tap();
  const done = await until(
    () => app.client.get<Job[]>('/jobs'),
    (jobs) => jobs.filter((j) => j.kind === 'export' && j.state === 'done').length === 6,
  );
  expect(
    done
      .filter((j) => j.kind === 'export')
      .map((j) => j.file!.name)
      .sort(),
  ).toEqual([1, 2, 3, 4, 5, 6].map((i) => `bank_0${i}.mp4`));
  expect((await stepsOf('bank_03.mp4', second)).find((s) => s.kind === 'range')!.params.exposure).toBeGreaterThan(0);
});
