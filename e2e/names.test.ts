import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import type { Camera, Clip, Outing } from '@inkavo/core/model/outing';
import { QUICK_H264, make } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { openTestApp, type TestApp } from './testApp';

let app: TestApp;
let clip: Clip;
beforeAll(async () => {
  app = await openTestApp();
  clip = (await app.clips('boat_shed_01', 'mooring_block_02')).boat_shed_01;
});
afterAll(() => app.close());

interface Opened {
  outing: Outing;
  cameras: Camera[];
  clips: Clip[];
}
const opened = () => app.client.get<Opened>(`/outings/${clip.outingId}`);
const button = (page: Page, name: string | RegExp) =>
  page.getByRole('button', { name, exact: typeof name === 'string' });

describe.each(Object.entries(SIZES))('on a %s', (_name, size) => {
  let page: Page;
  beforeAll(async () => {
    page = await app.page(size);
    await page.goto(`${app.running.address}/outing/${clip.outingId}`);
    await page.getByRole('link', { name: /boat_shed_01/ }).waitFor();
  });
  afterAll(async () => {
    await page.context().close();
  });

  test('an outing, a camera and a clip get other names, and each can be undone and redone', async () => {
    await button(page, 'This outing: name, day, remove').click();
    await page.getByRole('textbox', { name: 'Name' }).fill('Second survey');
    await page.getByLabel('Day', { exact: true }).fill('');
    await button(page, 'Save').click();
    await page.getByText('A day is written as YYYY-MM-DD.').waitFor();
    await page.getByLabel('Day', { exact: true }).fill('2031-06-15');
    await button(page, 'Save').click();
    await page.getByRole('heading', { name: 'Second survey' }).waitFor();

    await button(page, /^Camera Bank camera/).click();
    await page.getByRole('textbox', { name: 'Name' }).fill('Dive housing');
    await button(page, 'Save').click();
    // Duplicate names are rejected, and the sheet keeps what was typed.
    await page.getByText('This outing has a camera of that name already.').waitFor();
    await page.getByRole('textbox', { name: 'Name' }).fill('Tripod');
    await button(page, 'Save').click();
    await page.getByRole('heading', { name: 'Tripod' }).waitFor();

    await button(page, /^Clip boat_shed_01/).click();
    await page.getByRole('textbox', { name: 'Name' }).fill('The shed');
    await page.keyboard.press('Enter');
    await page.getByRole('link', { name: /The shed/ }).waitFor();
    expect((await opened()).clips.map((c) => c.name)).toContain('The shed');

    await button(page, 'Undo: name of boat_shed_01.mp4').click();
    await page.getByRole('link', { name: /boat_shed_01/ }).waitFor();
    await page.keyboard.press('Control+z');
    await page.getByRole('heading', { name: 'Bank camera' }).waitFor();
    await button(page, /^Redo/).click();
    await page.getByRole('heading', { name: 'Tripod' }).waitFor();
    // Undo survives a reload.
    await page.reload();
    await button(page, /^Undo: name of Tripod/).click();
    await page.getByRole('heading', { name: 'Bank camera' }).waitFor();
    await button(page, /^Undo: name and day/).click();
    await page.getByRole('heading', { name: 'Saltmark survey' }).waitFor();
  });

  test('a clip goes to another camera, to a new one, out of the outing and back', async () => {
    await button(page, /^Clip boat_shed_01/).click();
    await page.getByRole('radio', { name: 'A new camera' }).click();
    await page.getByRole('textbox', { name: 'Name of the new camera' }).fill('Pole camera');
    await button(page, 'Save').click();
    await page.getByRole('heading', { name: 'Pole camera' }).waitFor();
    await button(page, /^Undo: boat_shed_01.mp4 to Pole camera/).click();
    await page.getByRole('heading', { name: 'Bank camera' }).waitFor();

    // Several at once: removed, and restored by the message's button.
    await button(page, 'Choose several clips').click();
    for (const name of [/boat_shed_01/, /mooring_block_02/]) await page.getByRole('checkbox', { name }).click();
    await button(page, 'With them …').click();
    await button(page, 'Remove').click();
    await page.getByText('2 clips were removed.').waitFor();
    await page.getByText('No clips yet').waitFor();
    await button(page, 'Undo').click();
    await page.getByRole('link', { name: /boat_shed_01/ }).waitFor();
    await page.getByRole('link', { name: /mooring_block_02/ }).waitFor();
    // Back ends the selection before it leaves the screen.
    await button(page, 'Choose several clips').click();
    await page.goBack();
    await button(page, 'Choose several clips').waitFor();
    const pole = (await opened()).cameras.filter((c) => c.name === 'Pole camera');
    await app.client.post('/removed', { kind: 'camera', ids: pole.map((c) => c.id) });
    await app.client.ask('DELETE', '/removed');
  });

  test('an outing is removed with all in it, found among what was removed, and put back', async () => {
    await button(page, 'This outing: name, day, remove').click();
    await button(page, 'Remove this outing').click();
    await page.getByText(/Saltmark survey was removed/).waitFor();
    await page.getByText('No outing yet').waitFor();
    await button(page, 'Removed: put back or delete').click();
    const sheet = page.getByRole('dialog', { name: 'Removed' });
    await sheet.getByText(/Outing · .*\sMB · goes in 7 days/).waitFor();
    await button(page, 'Put back Saltmark survey').click();
    await sheet.getByText('Nothing was removed').waitFor();
    await button(page, 'Close').click();
    await page.getByRole('link', { name: /Saltmark survey/ }).click();
    await page.getByRole('link', { name: /boat_shed_01/ }).waitFor();
  });
});

describe('on a phone', () => {
  let page: Page;
  beforeAll(async () => {
    page = await app.page(SIZES.phone);
  });

  test('files from this device: their camera is told by their tags, or is the same as one that is there', async () => {
    const tags = ['-movflags', 'use_metadata_tags', '-metadata', 'model=Pocket 3'];
    const tagged = make(join(app.data, 'tagged.mp4'), 'testsrc2=size=320x180:rate=25:duration=1', [
      ...QUICK_H264,
      ...tags,
    ]);
    const plain = make(join(app.data, 'plain.mp4'), 'testsrc2=size=320x180:rate=25:duration=1,hue=h=60', QUICK_H264);
    await page.goto(`${app.running.address}/outing/${clip.outingId}`);
    await button(page, 'Bring in').click();
    await page.getByTestId('file-input').setInputFiles(tagged);
    const sheet = page.getByRole('dialog', { name: 'Bring in clips' });
    await sheet.getByText(/^by its tags ·/).waitFor();
    await sheet.getByRole('button', { name: /^Bring in 1 ·/ }).click();
    await page.getByRole('heading', { name: 'Pocket 3' }).waitFor();

    await button(page, 'Bring in').click();
    await page.getByTestId('file-input').setInputFiles(plain);
    await sheet.getByRole('button', { name: 'Look through the clips of Camera' }).click();
    await sheet.getByRole('button', { name: 'Dive housing' }).click();
    await sheet.getByRole('button', { name: /^Bring in 1 ·/ }).click();
    const { clips, cameras } = await until(opened, ({ clips: all }) => all.some((c) => c.name === 'plain.mp4'));
    const { cameraId } = clips.find((c) => c.name === 'plain.mp4')!;
    expect(cameras.find((c) => c.id === cameraId)!.name).toBe('Dive housing');
  });

  test('nothing chosen on the card is said in words, not as no megabytes', async () => {
    await button(page, 'Bring in').click();
    const sheet = page.getByRole('dialog', { name: 'Bring in clips' });
    await sheet.getByRole('button', { name: /^Bring in \d+ · [\d.]+\sMB/ }).waitFor();
    // Each opened screen has a different title.
    const closed = sheet.getByRole('button', { name: /^Look through the clips of/ });
    for (let left = await closed.count(); left > 0; left = await closed.count()) {
      await closed.first().focus();
      await page.keyboard.press('Enter');
    }
    const taken = sheet.getByRole('checkbox', { checked: true });
    for (let left = await taken.count(); left > 0; left = await taken.count()) {
      // Space releases what it picked up.
      await taken.first().focus();
      await page.keyboard.press('Space');
    }
    expect(await sheet.getByRole('button', { name: 'None is chosen' }).isDisabled()).toBe(true);
    await page.keyboard.press('Escape');
  });

  test('a finished file that was removed comes back whole; deleted for good, it is gone from the disk', async () => {
    await app.client.ask('PATCH', `/clips/${clip.id}`, { inFrame: 0, outFrame: 10 });
    const [job] = await app.client.post<{ id: string; file: { name: string } }[]>('/deliveries', {
      clipIds: [clip.id],
      delivery: { codec: 'h264' },
    });
    await page.goto(`${app.running.address}/exports`);
    await page.getByRole('link', { name: `Save ${job.file.name}` }).waitFor();
    await button(page, `Remove ${job.file.name}`).click();
    await page.getByText('Nothing is being exported').waitFor();
    await button(page, 'Undo').click();
    await page.getByRole('link', { name: `Save ${job.file.name}` }).waitFor();
    expect((await fetch(`${app.running.address}/api/jobs/${job.id}/file`)).status).toBe(200);
    await button(page, `Remove ${job.file.name}`).click();
    await page.goto(app.running.address);
    await button(page, 'Removed: put back or delete').click();
    await button(page, 'Delete all of it now …').click();
    await button(page, /^Delete for good/).click();
    await page.getByText('Nothing was removed').waitFor();
    expect(existsSync(join(app.data, 'exports', job.file.name))).toBe(false);
  });
});
