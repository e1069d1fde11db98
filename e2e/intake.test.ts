import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import type { Page } from 'playwright-core';
import type { Job } from '@inkavo/core/model/job';
import type { Clip } from '@inkavo/core/model/outing';
import { probe } from '@inkavo/media/codec';
import { decodeFrame } from '@inkavo/media/frames/rest';
import { frameSums, make, makeChapter, QUICK_H264, sourceOf, TAGS_HLG, workFolder } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let page: Page;
let drone: Clip;

beforeAll(async () => {
  app = await openTestApp();
  ({ channel_east_03: drone } = await app.clips('channel_east_03'));
  page = await app.page(SIZES.phone);
});
afterAll(() => app.close());

/** Drops files onto the page, as from a file manager. */
async function drop(files: { name: string; bytes: Buffer }[]): Promise<void> {
  const data = await page.evaluateHandle(
    (list) => {
      const transfer = new DataTransfer();
      for (const { name, base64 } of list)
        transfer.items.add(new File([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))], name));
      return transfer;
    },
    files.map(({ name, bytes }) => ({ name, base64: bytes.toString('base64') })),
  );
  await page.dispatchEvent('body', 'dragenter', { dataTransfer: data });
  await page.getByText('Let go to bring these clips in').waitFor();
  await page.dispatchEvent('body', 'drop', { dataTransfer: data });
}

test('clips that are dropped onto the page are told apart, named and come in; what is no clip is left alone', async () => {
  const path = join(workFolder(), 'short.mp4');
  make(path, 'testsrc2=size=320x180:rate=25:duration=0.4', ['-c:v', 'libx264', '-pix_fmt', 'yuv420p']);
  await page.goto(`${app.running.address}/outing/${drone.outingId}`);
  await page.getByText('channel_east_03.mp4').waitFor();
  await drop([{ name: 'notes.txt', bytes: Buffer.from('x') }]);
  await page.getByText('None of what was dropped is a clip. Nothing was brought in.').waitFor();
  await drop([
    { name: 'kite 1 ½.mp4', bytes: readFileSync(path) },
    { name: 'kite.thm', bytes: Buffer.from('x') },
  ]);
  await page.getByText('1 other file is left alone.').waitFor();
  await page.getByLabel('Name of camera 1').fill('Kite camera');
  await page.getByRole('button', { name: /^Bring in 1 ·/ }).tap();
  const clip = await until(
    async () => (await app.client.clips(drone.outingId)).find((c) => c.name === 'kite 1 ½.mp4'),
    (c) => c !== undefined,
  );
  expect(clip!.facts).toMatchObject({ width: 320, height: 180, frames: 10 });
  await page.getByRole('heading', { name: 'Kite camera' }).waitFor();
});

test('a folder of this device: two cameras, one of them with chapters, which come in as one clip', async () => {
  const folder = workFolder();
  mkdirSync(join(folder, 'DCIM/100KAYAK'), { recursive: true });
  mkdirSync(join(folder, 'JETTY_CAMERA'));
  const chapters = [0, 2].map((from) => makeChapter(join(folder, `DCIM/100KAYAK/KY0${1 + from / 2}0003.mp4`), from));
  make(join(folder, 'JETTY_CAMERA/pier.mov'), 'testsrc2=size=320x180:rate=30:duration=0.5', QUICK_H264);
  writeFileSync(join(folder, 'JETTY_CAMERA/pier.thm'), 'x');
  await page.goto(`${app.running.address}/outing/${drone.outingId}`);
  await page.getByRole('button', { name: 'Bring in', exact: true }).tap();
  await page.getByTestId('folder-input').setInputFiles(folder);
  await page.getByText('1 other file is left alone.').waitFor();
  const kayak = page.getByRole('group').filter({ hasText: /25\sfps/ });
  await kayak.getByRole('button', { name: /^Look through/ }).tap();
  await kayak.getByText(/^2 chapters, joined · 320×180/).waitFor();
  await kayak.getByRole('textbox').fill('Kayak');
  await page.getByRole('button', { name: /^Bring in 2 ·/ }).tap();
  const clips = await until(
    () => app.client.clips(drone.outingId),
    (list) => ['KY010003.mp4', 'pier.mov'].every((name) => list.some((c) => c.name === name)),
  );
  const joined = clips.find((c) => c.name === 'KY010003.mp4')!;
  expect(frameSums(join(app.data, 'originals', joined.hash))).toEqual(chapters.flatMap((path) => frameSums(path)));
  await page.getByRole('heading', { name: 'Kayak' }).waitFor();
  await page.getByRole('heading', { name: 'Jetty camera' }).waitFor();
});

test('finished files are also put into a folder of the server’s machine, all of them or one by hand', async () => {
  const target = workFolder();
  const kite = (await app.client.clips(drone.outingId)).find((c) => c.name === 'pier.mov')!;
  const deliver = () => app.client.post('/deliveries', { clipIds: [kite.id], delivery: { codec: 'ffv1' } });
  await deliver();
  await page.goto(`${app.running.address}/exports`);
  await page.getByText(/finished, /).waitFor();
  await page.getByRole('button', { name: 'Also put finished files into a folder …' }).tap();
  await page.getByRole('button', { name: 'A folder of the server’s machine …' }).tap();
  await page.getByLabel('Whole path of a folder').fill(target);
  await page.getByRole('button', { name: 'Allow this folder' }).tap();
  await page.getByRole('checkbox', { name: `Finished files may be put into ${target}` }).tap();
  await page.getByRole('dialog').last().getByRole('button', { name: 'Close' }).tap();
  await page.getByRole('radio', { name: new RegExp(basename(target)) }).tap();
  await page.getByRole('dialog').last().getByRole('button', { name: 'Close' }).tap();
  await page.getByRole('button', { name: `Finished files are also put into ${basename(target)}` }).waitFor();
  await deliver();
  await page.getByText(`It lies in ${join(target, 'pier (2).mkv')}.`).waitFor();
  await page.getByRole('button', { name: 'What pier.mkv is' }).tap();
  await page.getByRole('button', { name: `Put pier.mkv into ${basename(target)}` }).tap();
  await page.getByText(`It lies in ${join(target, 'pier.mkv')}.`).waitFor();
  expect(readdirSync(target).sort()).toEqual(['pier (2).mkv', 'pier.mkv']);
  await page.getByText(/to be made/).waitFor({ state: 'detached' });
});

test('a recording in HLG leaves as standard video, or as it came', async () => {
  const path = make(join(workFolder(), 'dusk.mkv'), 'testsrc2=size=320x180:rate=25:duration=0.4', [
    ...['-c:v', 'ffv1', '-pix_fmt', 'yuv420p10le', ...TAGS_HLG],
  ]);
  await page.goto(`${app.running.address}/outing/${drone.outingId}`);
  await page.getByRole('button', { name: 'Bring in', exact: true }).tap();
  await page.getByTestId('file-input').setInputFiles(path);
  await page.getByRole('button', { name: /^Bring in 1 ·/ }).tap();
  await page.getByRole('link', { name: /^dusk/ }).tap();
  await settled(page);
  await page.getByRole('button', { name: 'More', exact: true }).tap();
  await page.getByRole('button', { name: 'Export this clip' }).tap();
  await page.getByText(/HLG needs a format with 10\sbits/).waitFor();
  await page.getByRole('radio', { name: /H.265, 10\sbit/ }).tap();
  await page.getByRole('radio', { name: 'HLG, as filmed' }).tap();
  await page.getByRole('button', { name: 'Export', exact: true }).tap();
  await page.getByText('dusk.mp4', { exact: true }).waitFor();
  const job = await until(
    async () => (await app.client.get<Job[]>('/jobs')).find((j) => j.file?.name === 'dusk.mp4'),
    (j) => j?.state === 'done',
  );
  const made = join(app.data, 'exports', job!.file!.name);
  expect((await probe(made)).facts).toMatchObject({
    depth: 10,
    tags: { matrix: 'bt2020nc', transfer: 'arib-std-b67' },
  });
  // Nothing was changed, so the signal is as recorded.
  const [from, to] = [await decodeFrame(await sourceOf(path), 5), await decodeFrame(await sourceOf(made), 5)];
  const off = Array.from(from.y).reduce((sum, v, i) => sum + Math.abs(v - to.y[i]), 0) / from.y.length;
  expect(off).toBeLessThan(6);
});

test('what the file is: its facts, and what its pictures say of it', async () => {
  await page.goto(`${app.running.address}/clip/${drone.id}`);
  await settled(page);
  await page.getByRole('button', { name: 'More', exact: true }).tap();
  await page.getByRole('button', { name: 'What this file is' }).tap();
  await page.getByText('The pictures look like Drone log, 10 bit: convert them first.').waitFor();
  await page.getByText(`${drone.facts.width}×${drone.facts.height}`).last().waitFor();
  await page.getByText('10 bit', { exact: true }).last().waitFor();
});

test('another frame stands for the clip; the outing’s undo brings the old one back', async () => {
  await page.goto(`${app.running.address}/clip/${drone.id}`);
  await settled(page);
  await page.keyboard.press('ArrowRight');
  await settled(page);
  await page.getByRole('button', { name: 'More', exact: true }).tap();
  await page.getByRole('button', { name: 'This frame stands for the clip' }).tap();
  const frame = async (): Promise<number> =>
    (await app.client.get<{ clip: Clip }>(`/clips/${drone.id}`)).clip.referenceFrame;
  await until(frame, (f) => f === drone.referenceFrame + 1);
  await page.getByRole('button', { name: 'Undo' }).last().tap();
  await until(frame, (f) => f === drone.referenceFrame);
});

test('many that wait take one row, and are stopped, tried again and forgotten at once', async () => {
  const folder = workFolder();
  for (let k = 0; k < 16; k += 1)
    make(join(folder, `take_${10 + k}.mp4`), `testsrc2=size=320x180:rate=25:duration=${(5 + k) / 25}`, QUICK_H264);
  const { id } = await app.client.post<{ id: string }>('/outings', { name: 'Many', date: '2031-06-14' });
  const { id: source } = await app.client.post<{ id: string }>('/sources', { path: folder });
  const bring = readdirSync(folder).map((name) => ({ paths: [name] }));
  await page.goto(`${app.running.address}/outing/${id}`);
  await page.getByText('No clips yet').waitFor();
  await app.client.post(`/outings/${id}/import`, { source, clips: bring });
  const coming = page.getByRole('region', { name: 'Coming in' });
  await coming.getByRole('button', { name: /^\d+\sfiles wait$/ }).waitFor();
  await coming
    .getByRole('button', { name: /^Stop all \d+ that wait$/ })
    .first()
    .tap();
  const ended = coming.getByRole('button', { name: /files were not brought in/ });
  await ended.tap();
  // The one in progress may have been imported; each of the others can be retried.
  await coming.getByText('take_25.mp4 was not brought in').waitFor();
  const stopped = await coming.getByText(/was not brought in$/).count();
  await coming.getByRole('button', { name: 'Try take_25.mp4 again' }).tap();
  await page.getByRole('link', { name: /take_25\.mp4/ }).waitFor();
  await coming.getByRole('button', { name: `Try all ${stopped - 1} again` }).tap();
  await until(
    () => app.client.clips(id),
    (clips) => clips.length === 16,
  );

  await app.client.ask('PUT', '/queue', { paused: true });
  const clipIds = (await app.client.clips(id)).map((clip) => clip.id);
  await app.client.post('/deliveries', { clipIds, delivery: { codec: 'h264' } });
  await page.goto(`${app.running.address}/exports`);
  await page.getByRole('heading', { name: /^Paused · 16\swaiting$/ }).waitFor();
  await page.getByRole('button', { name: 'Stop all 16 that wait' }).tap();
  await page.getByRole('button', { name: 'Try all 16 again' }).tap();
  await page.getByRole('button', { name: 'Stop all 16 that wait' }).tap();
  await page.getByRole('button', { name: 'Forget all 16' }).tap();
  await page.getByRole('heading', { name: /not made$/ }).waitFor({ state: 'detached' });
  await app.client.ask('PUT', '/queue', { paused: false });
  const left = await app.client.get<Job[]>('/jobs');
  expect(left.filter((job) => job.kind === 'export' && clipIds.includes(job.clipId ?? ''))).toEqual([]);
});
