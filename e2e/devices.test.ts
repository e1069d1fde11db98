import { execFileSync } from 'node:child_process';
import readQr from 'jsqr';
import type { Page } from 'playwright-core';
import { networkAddresses } from '@inkavo/server/sharing/addresses';
import { SIZES } from './browser';
import { keptSteps, openTestApp, screenPicture, settled, type TestApp } from './testApp';

// A machine without a network has no address at which another device could connect.
const onNetwork = networkAddresses().length > 0 ? test : test.skip;

let app: TestApp;
beforeAll(async () => {
  app = await openTestApp({ sharePort: 0 });
});
afterAll(() => app.close());

/** Content of a code as a camera pointed at the screen reads it (jsQR, an independent reader of ISO/IEC 18004). */
async function scan(page: Page): Promise<string> {
  const shot = await page.getByRole('img', { name: 'QR code of the link that lets a device in' }).screenshot();
  // The header of a PNG holds its size (ISO/IEC 15948, 11.2.2).
  const [width, height] = [shot.readUInt32BE(16), shot.readUInt32BE(20)];
  const as = ['-f', 'rawvideo', '-pix_fmt', 'rgba', 'pipe:1'];
  const rgba = new Uint8ClampedArray(execFileSync('ffmpeg', ['-v', 'error', '-i', 'pipe:0', ...as], { input: shot }));
  return readQr(rgba, width, height)!.data;
}

const openSheet = (page: Page): Promise<void> => page.getByRole('button', { name: 'Work from another device' }).click();

onNetwork(
  'a tablet comes in by the code that is scanned, works, is let out, and comes back with what it had not sent',
  async () => {
    const { boat_shed_01: clip } = await app.clips('boat_shed_01');
    const own = await app.page(SIZES.phone);
    await own.goto(app.running.address);
    await openSheet(own);
    await own.getByRole('button', { name: 'Let other devices in' }).click();
    const link = await scan(own);
    expect(link.startsWith(`${await own.getByTestId('join-address').innerText()}/join#`)).toBe(true);

    const tablet = await app.page(SIZES.tablet, 1, false);
    await tablet.goto(link);
    await tablet.getByLabel('What this device is called there').fill('Boat tablet');
    await tablet.getByRole('button', { name: 'Come in' }).click();
    await tablet.getByText('Saltmark survey').waitFor();
    await own.getByText('Boat tablet').waitFor();
    await own.getByText('Here now').waitFor();

    const address = new URL(link).origin;
    const sent: { bytes: number; pixels: number }[] = [];
    tablet.on('requestfinished', (request) => {
      if (!request.url().includes('/frame?')) return;
      void Promise.all([request.sizes(), request.response()]).then(([{ responseBodySize: bytes }, response]) => {
        const { 'x-frame-width': width, 'x-frame-height': height } = response!.headers();
        sent.push({ bytes, pixels: Number(width) * Number(height) });
      });
    });
    await tablet.goto(`${address}/clip/${clip.id}`);
    await tablet.getByTestId('step-range').click();
    await tablet.getByRole('button', { name: 'Black point: more' }).click();
    await settled(tablet);
    const black = async (): Promise<unknown> =>
      (await keptSteps(app.client, clip.id)).find((s) => s.kind === 'range')?.params.black;
    const first = await black();
    expect(first).not.toBe(0);
    // Over the network a frame is sent compressed, not as six bytes a pixel, and is the same picture.
    expect(sent.length).toBeGreaterThan(0);
    for (const { bytes, pixels } of sent) expect(bytes / pixels).toBeLessThan(2);
    await own.goto(`${app.running.address}/clip/${clip.id}`);
    await own.setViewportSize(SIZES.tablet);
    await settled(own);
    const [there, here] = [await screenPicture(tablet), await screenPicture(own)];
    const apart = there.rgb.filter((v, i) => Math.abs(v - here.rgb[i]) > 1).length;
    expect([there.width, apart / there.rgb.length < 0.001]).toEqual([here.width, true]);
    await own.setViewportSize(SIZES.phone);
    await own.goBack();
    await openSheet(own);

    // An edit that cannot be sent, after which the tablet is removed.
    await tablet.route('**/changes', (route) => route.abort());
    await tablet.getByRole('button', { name: 'Black point: more' }).click();
    await tablet.getByTestId('keep-state').getByText('on this device').waitFor();
    await own.getByRole('button', { name: 'Let Boat tablet out' }).click();
    await tablet.getByLabel('Code of 6 digits').waitFor();
    expect(await black()).toBe(first);
    await tablet.unroute('**/changes');

    await tablet.getByLabel('Code of 6 digits').fill('12 34');
    expect(await tablet.getByRole('button', { name: 'Come in' }).isDisabled()).toBe(true);
    // The displayed code is a new one: each is for one device.
    await own.getByText('Boat tablet').waitFor({ state: 'detached' });
    await tablet.getByLabel('Code of 6 digits').fill(await own.getByTestId('join-code').innerText());
    await tablet.getByRole('button', { name: 'Come in' }).click();
    // It is back in the same place, and pending changes are sent automatically.
    await settled(tablet);
    expect(tablet.url()).toBe(`${address}/clip/${clip.id}`);
    expect(await black()).not.toBe(first);

    await tablet.goto(address);
    await openSheet(tablet);
    await tablet.getByRole('button', { name: 'Leave' }).click();
    await tablet.getByLabel('Code of 6 digits').waitFor();

    await own.getByRole('checkbox', { name: 'Encrypted' }).click();
    await own.getByTestId('join-address').getByText('https://').waitFor();
    expect(new URL(await scan(own)).protocol).toBe('https:');
    await own.getByRole('button', { name: 'Stop letting devices in' }).click();
    await own.getByRole('button', { name: 'Let other devices in' }).waitFor();
    await expect(fetch(address)).rejects.toThrow();
  },
);

onNetwork('encrypted, a page is secure and the bench draws there too', async () => {
  const { boat_shed_01: clip } = await app.clips('boat_shed_01');
  const { addresses } = (
    await app.client.ask<{ addresses: { url: string }[] }>('PATCH', '/sharing', { on: true, encrypted: true })
  ).body;
  const { code } = await app.client.post<{ code: string }>('/sharing/code');
  const tablet = await app.page(SIZES.tablet, 1, false);
  await tablet.goto(`${addresses[0].url}/clip/${clip.id}`);
  await tablet.getByLabel('Code of 6 digits').fill(code);
  await tablet.getByRole('button', { name: 'Come in' }).click();
  await settled(tablet);
  expect(await tablet.evaluate(() => isSecureContext)).toBe(true);

  // While a frame is being loaded, a small version of it is shown and measured.
  let arrive = (): void => undefined;
  const late = new Promise<void>((done) => (arrive = done));
  const large = /\/frame\?.*width=820/;
  await tablet.route(large, (route) => late.then(() => route.continue()));
  await tablet.reload();
  await tablet.getByRole('button', { name: /Next reading/ }).waitFor();
  await tablet.getByText('Measuring the frame …').waitFor({ state: 'detached' });
  const small = await screenPicture(tablet);
  expect(await tablet.getByRole('status', { name: 'Fetching the frame' }).isVisible()).toBe(true);
  arrive();
  await settled(tablet);
  const whole = await screenPicture(tablet);
  const apart = small.rgb.reduce((sum, v, i) => sum + Math.abs(v - whole.rgb[i]), 0) / whole.rgb.length;
  console.log(`a small picture of the frame against the frame, of 255: ${apart.toFixed(2)} apart on average`);
  expect(apart).toBeGreaterThan(0);
  expect(apart).toBeLessThan(8);
  await tablet.unroute(large);
});
