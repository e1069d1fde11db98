import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import type { Clip } from '@inkavo/core/model/outing';
import { make, workFolder } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import { SIZES } from './browser';
import { openHouse, settled, type House } from './house';

let house: House;
let page: Page;
let drone: Clip;

beforeAll(async () => {
  house = await openHouse();
  ({ channel_east_03: drone } = await house.clips('channel_east_03'));
  page = await house.page(SIZES.phone);
}, 180_000);
afterAll(() => house.close());

/** Drops files onto the page, as a file manager does. */
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

test('clips that are dropped onto the page are asked for their camera and come in; what is no clip is left alone', async () => {
  const path = join(workFolder(), 'short.mp4');
  make(path, 'testsrc2=size=320x180:rate=25:duration=0.4', ['-c:v', 'libx264', '-pix_fmt', 'yuv420p']);
  await page.goto(`${house.running.address}/outing/${drone.outingId}`);
  await page.getByText('channel_east_03.mp4').waitFor();
  await drop([{ name: 'notes.txt', bytes: Buffer.from('x') }]);
  await page.getByText('None of what was dropped is a clip. Nothing was brought in.').waitFor();
  await drop([
    { name: 'kite 1 ½.mp4', bytes: readFileSync(path) },
    { name: 'kite.thm', bytes: Buffer.from('x') },
  ]);
  await page.getByText('1 other file is left alone.').waitFor();
  await page.getByRole('radio', { name: 'A new camera' }).tap();
  await page.getByLabel('Name of the new camera').fill('Kite camera');
  await page.getByRole('button', { name: 'Bring in', exact: true }).last().tap();
  const clip = await until(
    async () => (await house.client.clips(drone.outingId)).find((c) => c.name === 'kite 1 ½.mp4'),
    (c) => c !== undefined,
    30_000,
  );
  expect(clip!.facts).toMatchObject({ width: 320, height: 180, frames: 10 });
  await page.getByRole('heading', { name: 'Kite camera' }).waitFor();
});

test('what the file is: its facts, and what its pictures say of it', async () => {
  await page.goto(`${house.running.address}/clip/${drone.id}`);
  await settled(page);
  await page.getByRole('button', { name: 'More', exact: true }).tap();
  await page.getByRole('button', { name: 'What this file is' }).tap();
  await page.getByText('The pictures look like Drone log, 10 bit: convert them first.').waitFor();
  await page.getByText(`${drone.facts.width}×${drone.facts.height}`).last().waitFor();
  await page.getByText('10 bit', { exact: true }).last().waitFor();
});

test('another frame stands for the clip; the outing’s undo brings the old one back', async () => {
  await page.goto(`${house.running.address}/clip/${drone.id}`);
  await settled(page);
  await page.keyboard.press('ArrowRight');
  await settled(page);
  await page.getByRole('button', { name: 'More', exact: true }).tap();
  await page.getByRole('button', { name: 'This frame stands for the clip' }).tap();
  const frame = async (): Promise<number> =>
    (await house.client.get<{ clip: Clip }>(`/clips/${drone.id}`)).clip.referenceFrame;
  await until(frame, (f) => f === drone.referenceFrame + 1);
  await page.getByRole('button', { name: 'Undo' }).last().tap();
  await until(frame, (f) => f === drone.referenceFrame);
});
