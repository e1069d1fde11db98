import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import type { Page } from 'playwright-core';
import type { Clip } from '@inkavo/core/model/outing';
import { depthAt } from '@inkavo/core/model/diveLog';
import type { Job } from '@inkavo/core/model/job';
import { isKeyframed, resolveParams, type Keyframed } from '@inkavo/core/regions/keyframes';
import { compile } from '@inkavo/core/program/compile';
import { workFolder } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { keptSteps, openTestApp, screenPicture, settled, tapPicture, type TestApp } from './testApp';
import { shareOffCpu } from './offCpu';

let app: TestApp;
let page: Page;
let clips: Record<string, Clip>;
beforeAll(async () => {
  app = await openTestApp();
  clips = await app.clips('mooring_block_02', 'boat_shed_01', 'channel_east_03');
  page = await app.page(SIZES.phone);
  await page.goto(`${app.running.address}/clip/${clips.mooring_block_02.id}`);
  await settled(page);
});
afterAll(() => app.close());

const dive = () => clips.mooring_block_02.id;
const stepOf = async (id: string, kind: string) => (await keptSteps(app.client, id)).find((s) => s.kind === kind)!;
/** Takes a step in hand without opening its sheet. */
async function take(name: RegExp, on: Page = page): Promise<void> {
  const chip = on.getByRole('group', { name: 'Steps' }).getByRole('button', { name }).first();
  await chip.scrollIntoViewIfNeeded();
  if ((await chip.getAttribute('aria-pressed')) !== 'true') await chip.tap();
}
const close = (on: Page = page) => on.getByRole('button', { name: 'Close', exact: true }).tap();

/** Mean of a part of the screen's picture, 0–255. */
async function meanAt(x0: number, y0: number, x1: number, y1: number): Promise<number[]> {
  const { width, height, rgb } = await screenPicture(page);
  const sum = [0, 0, 0];
  let n = 0;
  for (let y = Math.floor(y0 * height); y < y1 * height; y += 1)
    for (let x = Math.floor(x0 * width); x < x1 * width; x += 1, n += 1)
      for (let c = 0; c < 3; c += 1) sum[c] += rgb[3 * (y * width + x) + c];
  return sum.map((s) => s / n);
}
const SLATE = [0.32, 0.43, 0.5, 0.5] as const;
const OPEN_WATER = [0.1, 0.03, 0.9, 0.25] as const;
const isGrey = ([r, g, b]: readonly number[]): boolean => Math.max(r, g, b) - Math.min(r, g, b) < 22;

test('a first pass reads the clip and gives reasons; what is taken are ordinary steps, and undo brings all back', async () => {
  const before = await keptSteps(app.client, dive());
  const green = await meanAt(...SLATE);
  expect(green[1] - green[0]).toBeGreaterThan(25);
  await page.getByRole('button', { name: /First pass/ }).tap();
  const started = Date.now();
  await page
    .getByRole('checkbox', {
      name: /^Water: Compared with typical scenes, red is \d\.\d (and blue \d\.\d )?stops below green.* \d\.\d\sm from the subject\. Open water, \d+\s% of the picture, keeps its colour\.$/,
    })
    .waitFor();
  console.log(`first pass of a clip with a proxy: ${Date.now() - started} ms`);
  await page.getByText(/^It looks like water, \d+\s% sure\.$/).waitFor();
  // The question is answered in advance by what the clip looks like.
  expect(await page.getByRole('radio', { name: 'Under water' }).getAttribute('aria-checked')).toBe('true');
  await page.getByText('Its noise is hardly seen.').waitFor();
  // The picture previews them before they are taken, and shows itself without them while it is held.
  await settled(page);
  await page.getByText('As offered', { exact: true }).waitFor();
  expect(isGrey(await meanAt(...SLATE))).toBe(true);
  expect(await keptSteps(app.client, dive())).toEqual(before);
  await page.getByRole('button', { name: 'Before', exact: true }).tap();
  await page.getByText('As it is', { exact: true }).waitFor();
  await settled(page);
  (await meanAt(...SLATE)).forEach((v, c) => expect(Math.abs(v - green[c])).toBeLessThan(1.5));
  await page.getByRole('button', { name: 'Before', exact: true }).tap();
  await settled(page);
  await page.mouse.move(200, 120);
  await page.mouse.down();
  await page.getByText('As it is', { exact: true }).waitFor();
  await page.mouse.up();
  await page.getByText('As offered', { exact: true }).waitFor();
  // Closed without taking them: nothing has changed.
  await page.getByRole('button', { name: 'Close', exact: true }).tap();
  await settled(page);
  (await meanAt(...SLATE)).forEach((v, c) => expect(Math.abs(v - green[c])).toBeLessThan(1.5));
  await page.getByRole('button', { name: /First pass/ }).tap();
  await page.getByText('Its noise is hardly seen.').waitFor();
  // One is deselected.
  const range = page.getByRole('checkbox', { name: /^Range/ });
  const offered = await range.count();
  if (offered) await range.tap();
  await page.getByRole('button', { name: /Take (this step|these \d steps)/ }).tap();
  await settled(page);
  expect(isGrey(await meanAt(...SLATE))).toBe(true);
  const { depth } = resolveParams((await stepOf(dive(), 'water')).params, 0);
  expect(depth).toBeGreaterThan(0.5);
  const [r, g] = await meanAt(...OPEN_WATER);
  expect(g - r).toBeGreaterThan(15);
  await page.getByRole('button', { name: 'Undo' }).tap();
  await settled(page);
  (await meanAt(...SLATE)).forEach((v, c) => expect(Math.abs(v - green[c])).toBeLessThan(1.5));
  await page.getByRole('button', { name: 'Redo' }).tap();
  await settled(page);
});

test('a tap on the slate fits the water, and it is neutral then', async () => {
  await take(/^Water/);
  await page.getByRole('button', { name: 'Pick neutral' }).tap();
  await tapPicture(page, 0.4, 0.48);
  await page.getByText(/Fitted to this neutral: red ×/).waitFor();
  await page.getByRole('button', { name: 'Close the reading' }).tap();
  await settled(page);
  const slate = await meanAt(...SLATE);
  expect(Math.max(...slate) - Math.min(...slate)).toBeLessThan(9);
});

test('open water keeps as much of its colour as a person wants, and turns bluer', async () => {
  await take(/^Water/);
  await page.getByRole('radio', { name: 'Open water' }).tap();
  const colourAt = async (name: string, percent: string): Promise<number[]> => {
    await page.getByRole('slider', { name }).focus();
    await page.keyboard.press('Enter');
    await page.waitForFunction(() => document.activeElement instanceof HTMLInputElement);
    for (const key of ['Control+A', ...percent, 'Enter']) await page.keyboard.press(key);
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await settled(page);
    return meanAt(...OPEN_WATER);
  };
  const [kept, slate] = [await meanAt(...OPEN_WATER), await meanAt(...SLATE)];
  const none = await colourAt('Keep open water', '0');
  expect(kept[1] - kept[0]).toBeGreaterThan(none[1] - none[0] + 12);
  (await meanAt(...SLATE)).forEach((v, c) => expect(Math.abs(v - slate[c])).toBeLessThan(2));
  (await colourAt('Keep open water', '100')).forEach((v, c) => expect(Math.abs(v - kept[c])).toBeLessThan(1.5));
  const bluer = await colourAt('Greener or bluer', '100');
  expect(bluer[2] / bluer[1]).toBeGreaterThan(1.2 * (kept[2] / kept[1]));
  for (let k = 0; k < 3; k += 1) await page.getByRole('button', { name: 'Undo', exact: true }).first().tap();
  await settled(page);
  (await meanAt(...OPEN_WATER)).forEach((v, c) => expect(Math.abs(v - kept[c])).toBeLessThan(1.5));
});

test('types of water are chosen beside the picture; losses that were measured are seen there, and can be let go', async () => {
  await page.getByRole('button', { name: 'Type of water and distance' }).tap();
  const said = page.getByText(/^As measured in this clip: red ×\d\.\d\d and blue ×\d\.\d\d of this type’s loss\.$/);
  await said.waitFor();
  // Nothing dims the picture, and holding it shows the file.
  const over = await page.evaluate(() => getComputedStyle(document.elementFromPoint(200, 120)!).backgroundColor);
  expect(over).toBe('rgba(0, 0, 0, 0)');
  await page.mouse.move(200, 120);
  await page.mouse.down();
  await page.getByText('As recorded', { exact: true }).waitFor();
  await page.mouse.up();
  await page.getByText('As recorded', { exact: true }).waitFor({ state: 'detached' });
  await page.getByRole('radio', { name: 'Ocean I, clearest' }).tap();
  await settled(page);
  const other = await meanAt(...SLATE);
  expect(Math.max(...other) - Math.min(...other)).toBeGreaterThan(9);
  await page.getByRole('button', { name: 'The type’s own' }).tap();
  await said.waitFor({ state: 'detached' });
  await close();
  await settled(page);
  expect((await stepOf(dive(), 'water')).params).toMatchObject({ type: 'I', fitRed: 1, fitBlue: 1 });
  for (let i = 0; i < 2; i += 1) await page.getByRole('button', { name: 'Undo' }).tap();
  await settled(page);
  const again = await meanAt(...SLATE);
  expect(Math.max(...again) - Math.min(...again)).toBeLessThan(9);
});

test('what the screen shows at rest is what the CPU backend makes of the frame, within 2 at 99 %', async () => {
  // With the distance from the picture, the step has a map.
  await page.getByRole('button', { name: 'Type of water and distance' }).tap();
  await page.getByRole('radio', { name: 'the picture' }).tap();
  await close();
  await settled(page);
  const { clip } = await app.client.get<{ clip: Clip }>(`/clips/${dive()}`);
  const { ops } = compile(await keptSteps(app.client, dive()), clip.referenceFrame / 30);
  expect(ops.some((op) => op.kind === 'point')).toBe(true);
  const share = await shareOffCpu(app, page, clip, 2);
  console.log(`water: GPU more than 2 from CPU at ${(100 * share).toFixed(4)} % of values`);
  expect(share).toBeLessThan(0.01);
});

test('a dive log from the card makes the depth follow it; a damaged one is refused with its line', async () => {
  await page.getByRole('button', { name: /^Dive log/ }).tap();
  const folder = workFolder();
  writeFileSync(join(folder, 'damaged.csv'), 'time (s),depth (m)\n0,1.0\n10,deep\n');
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Bring in a UDDF or CSV file' }).tap();
  await (await chooser).setFiles(join(folder, 'damaged.csv'));
  await page.getByText(/damaged.csv: Line 3: "deep" is not a depth. Nothing was taken in/).waitFor();
  await page.getByRole('button', { name: /From the card: mooring_block_02.uddf/ }).tap();
  await page.getByText(/211 samples, 7:00 long/).waitFor();
  await page.getByRole('button', { name: /Find by the clip’s colour|Find by the clip's colour/ }).tap();
  await page.getByText(/Red falls as the log goes deeper: \d+\s% agreement at 1:3\d/).waitFor();
  await close();
  await settled(page);
  const depth = (await stepOf(dive(), 'water')).params.depth as Keyframed;
  expect(isKeyframed(depth)).toBe(true);
  // The fit also holds at the log's depths: the picked slate stays neutral.
  expect(isGrey(await meanAt(...SLATE))).toBe(true);
  // The clip goes from 5 to 10 m.
  expect(Math.abs(depth.keys[0].value - 5)).toBeLessThan(0.6);
  expect(Math.abs(depth.keys.at(-1)!.value - 10)).toBeLessThan(0.6);
  const { clip } = await app.client.get<{ clip: Clip }>(`/clips/${dive()}`);
  expect(Math.abs(clip.dive!.offset - 94)).toBeLessThan(1.5);
  await page.getByText(/^\d+\.\d\sm deep$/).waitFor();
});

test('the water is found at the depths of the log: its type, with the slate neutral all the way down', async () => {
  await page.getByRole('button', { name: /^Dive log/ }).tap();
  await page.getByRole('button', { name: 'Find the water at these depths' }).tap();
  await page.getByText(/as in water of this type, .* according to the dive log/).waitFor();
  await close();
  await settled(page);
  expect(isGrey(await meanAt(...SLATE))).toBe(true);
  const { depth, distanceFrom } = (await stepOf(dive(), 'water')).params;
  expect(isKeyframed(depth)).toBe(true);
  expect(distanceFrom).toBe('value');
  await page.getByRole('button', { name: 'Undo' }).tap();
  await settled(page);
  expect((await stepOf(dive(), 'water')).params.distanceFrom).toBe('picture');
});

test('other clips of the dive are given the log, and the water pasted into them is at their depths', async () => {
  // Another clip of the camera, recorded at the same time by its clock.
  const { cameraId } = clips.boat_shed_01;
  const toCamera = (id: string) => app.client.ask('PATCH', `/clips/${clips.boat_shed_01.id}`, { cameraId: id });
  expect((await toCamera(clips.mooring_block_02.cameraId)).status).toBe(200);
  await page.getByRole('button', { name: /^Dive log/ }).tap();
  await page.getByRole('button', { name: 'Give it to boat_shed_01.mp4' }).tap();
  await page.getByText('The log was given to boat_shed_01.mp4.').waitFor();
  await close();
  const diveOf = async (id: string) => (await app.client.get<{ clip: Clip }>(`/clips/${id}`)).clip.dive;
  const [own, theirs] = [await diveOf(dive()), await diveOf(clips.boat_shed_01.id)];
  expect(theirs!.log).toEqual(own!.log);
  expect(theirs!.offset).toBeCloseTo(own!.offset, 6);
  const moved = { ...theirs!, offset: own!.offset + 60 };
  expect((await app.client.ask('PUT', `/clips/${clips.boat_shed_01.id}/dive`, moved)).status).toBe(200);
  const before = await keptSteps(app.client, clips.boat_shed_01.id);
  await page.getByRole('button', { name: 'Copy and paste steps' }).tap();
  await page.getByRole('button', { name: 'To these clips …' }).tap();
  await page.getByRole('checkbox', { name: 'boat_shed_01.mp4' }).tap();
  await page.getByRole('button', { name: 'Put into 1 clip' }).tap();
  await page.getByText(/^Pasted .* into boat_shed_01\.mp4\.$/).waitFor();
  const depthOf = async (id: string) => (await stepOf(id, 'water')).params.depth as Keyframed;
  const there = await depthOf(clips.boat_shed_01.id);
  expect(there.keys[0].value).toBeCloseTo(depthAt(moved.log, moved.offset), 6);
  expect(there.keys[0].value).not.toBeCloseTo((await depthOf(dive())).keys[0].value, 1);
  // The message's offer to undo covers the bench; the bench's own Undo is about this clip.
  await page.getByRole('button', { name: 'Undo', exact: true }).last().tap();
  await page.getByText(/^Undone: .* pasted into boat_shed_01\.mp4\.$/).waitFor();
  expect(await keptSteps(app.client, clips.boat_shed_01.id)).toEqual(before);
  await app.client.ask('DELETE', `/clips/${clips.boat_shed_01.id}/dive`);
  expect((await toCamera(cameraId)).status).toBe(200);
});

test('the log can be taken away, and brought in again', async () => {
  const opener = page.getByRole('button', { name: /^Dive log/ });
  await opener.tap();
  await page.getByRole('button', { name: 'Take the log away' }).tap();
  await page.getByRole('button', { name: /From the card/ }).waitFor();
  await until(
    async () => (await app.client.get<{ clip: Clip }>(`/clips/${dive()}`)).clip,
    (clip) => clip.dive === null,
  );
  // A logbook of three dives; the clip was recorded in one of them, by both clocks.
  const clipNow = async () => (await app.client.get<{ clip: Clip }>(`/clips/${dive()}`)).clip;
  const before = await clipNow();
  const recorded = Date.parse(before.facts.recordedAt!);
  const rows = [-86_400, -60, 7_200].flatMap((later, i) => {
    const [day, time] = new Date(recorded + 1000 * later).toISOString().split(/[T.]/);
    return [`${i + 1},${day},${time},0:00,1`, `${i + 1},${day},${time},10:00,${10 * (i + 1)}`];
  });
  const logbook = join(workFolder(), 'logbook.csv');
  writeFileSync(logbook, ['dive number,date,time,sample time (min),sample depth (m)', ...rows].join('\n'));
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Bring in a UDDF or CSV file' }).tap();
  await (await chooser).setFiles(logbook);
  await page.getByText(/^There are 3 dives in logbook.csv. One was under way when this clip was recorded/).waitFor();
  await page.getByRole('button', { name: / · 20.0\sm · 10:00$/ }).tap();
  await page.getByText(/^logbook.csv: 2 samples, 10:00 long, down to 20.0\sm/).waitFor();
  const { dive: taken } = await until(clipNow, (clip) => clip.dive !== null);
  expect(taken!.offset).toBeCloseTo(60, 0);
  await close();
  await page.getByRole('button', { name: 'Undo', exact: true }).first().tap();
  // The log and the depths derived from it are saved one after the other.
  await until(clipNow, (clip) => clip.dive === null && isDeepStrictEqual(clip.steps, before.steps));
});

test('keyframes are set at the playhead, moved and taken away on the lane over the scrub strip', async () => {
  await page.getByRole('button', { name: 'Keyframes of the step in hand' }).tap();
  const lane = page.getByTestId('key-lane');
  const keys = async () => ((await stepOf(dive(), 'water')).params.depth as Keyframed).keys;
  const before = (await keys()).length;
  await page.getByRole('button', { name: 'Set a keyframe here' }).tap();
  await settled(page);
  expect(await keys()).toHaveLength(before + 1);
  await page.getByRole('button', { name: 'Depth: more' }).tap();
  await settled(page);
  expect(await keys()).toHaveLength(before + 1);
  // The last key is dragged down the lane.
  const box = (await lane.boundingBox())!;
  const last = (await keys()).at(-1)!;
  await page.getByRole('button', { name: 'Take this keyframe away' }).tap();
  await settled(page);
  expect(await keys()).toHaveLength(before);
  const y = box.y + 12 + (box.height - 24) * 0.17;
  await page.mouse.move(box.x + box.width - 2, y);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width - 40, box.y + box.height - 20, { steps: 6 });
  await page.mouse.up();
  await settled(page);
  const moved = (await keys()).at(-1)!;
  expect(moved.value).toBeLessThan(last.value - 1);
  expect(moved.seconds).toBeLessThan(last.seconds);
  await page.getByRole('button', { name: 'Undo' }).tap();
  await settled(page);
  expect((await keys()).at(-1)!.value).toBeCloseTo(last.value, 6);
  await page.getByRole('button', { name: 'Close the keyframes' }).tap();
});

test('haze is found in the frame, taken off the distance, and the export shows what the screen shows', async () => {
  const id = clips.channel_east_03.id;
  await page.goto(`${app.running.address}/clip/${id}`);
  await settled(page);
  await page.getByRole('button', { name: /First pass/ }).tap();
  await page.getByRole('checkbox', { name: /^Convert: Drone log, 10\sbit, \d+\s% sure\. Dark at/ }).waitFor();
  // Without the answer it may be taken for clear air; the answer "haze" is remembered.
  await page.getByRole('radio', { name: 'Haze', exact: true }).tap();
  await page.getByRole('checkbox', { name: /^Haze: Haze is \d+\s% of the light on average/ }).waitFor();
  await page.getByRole('checkbox', { name: /^Convert: Drone log, 10\sbit, \d+\s% sure\. Dark at/ }).waitFor();
  await page.getByRole('button', { name: /Take these/ }).tap();
  await settled(page);
  await take(/^Haze/);
  await page.getByRole('button', { name: 'Find the haze in this frame' }).tap();
  await page.getByText('Found in this frame.').waitFor();
  await settled(page);
  await page.getByRole('button', { name: 'Undo' }).tap();
  await settled(page);
  // Two frames, delivered losslessly, compared with the CPU backend on the same frames.
  const { referenceFrame: first } = clips.channel_east_03;
  await app.client.ask('PATCH', `/clips/${id}`, { inFrame: first, outFrame: first + 1 });
  const [job] = await app.client.post<Job[]>('/deliveries', { clipIds: [id], delivery: { codec: 'ffv1' } });
  const done = await until(
    async () => (await app.client.get<Job[]>('/jobs')).find((j) => j.id === job.id)!,
    (j) => j.state === 'done' || j.state === 'failed',
  );
  expect(done.state).toBe('done');
  const file = join(workFolder(), 'haze.mkv');
  writeFileSync(file, Buffer.from(await (await fetch(`${app.running.address}/api/jobs/${job.id}/file`)).arrayBuffer()));
  expect(readFileSync(file).length).toBeGreaterThan(10_000);
  const shown = await screenPicture(page);
  const raw = execFileSync(
    'ffmpeg',
    [
      '-loglevel',
      'error',
      '-i',
      file,
      '-frames:v',
      '1',
      '-vf',
      `scale=${shown.width}:${shown.height}:flags=area:out_color_matrix=bt709`,
      '-pix_fmt',
      'rgb24',
      '-f',
      'rawvideo',
      '-',
    ],
    { maxBuffer: 1 << 28 },
  );
  const off = shown.rgb.reduce((s, v, i) => s + Math.abs(v - raw[i]), 0) / raw.length;
  console.log(`hazy 4K export against the screen, scaled by another filter: ${off.toFixed(2)} apart (8 bit)`);
  // Noise that the table amplifies averages differently.
  expect(off).toBeLessThan(4);
});
