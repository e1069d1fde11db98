import { networkInterfaces } from 'node:os';
import { startServer, type Running } from '@inkavo/server/app';
import { configFromEnv } from '@inkavo/server/config';
import { SIZES } from './browser';
import { openTestApp, settled, type TestApp } from './testApp';

let app: TestApp;
let running: Running | undefined;
beforeAll(async () => {
  app = await openTestApp();
});
afterAll(async () => {
  await running?.close();
  await app.close();
});

test('from a tablet on the local network, where pages are not secure, the kernel measures all the same', async () => {
  const address = Object.values(networkInterfaces())
    .flat()
    .find((i) => i && i.family === 'IPv4' && !i.internal)?.address;
  // A machine without a network has no insecure address.
  if (!address) return;
  const { boat_shed: clip } = await app.clips('boat_shed');
  const { data } = app;
  await app.running.close();
  running = await startServer({ ...configFromEnv({}), host: '0.0.0.0', port: 0, data });
  const page = await app.page(SIZES.tablet);
  await page.goto(`http://${address}:${new URL(running.address).port}/clip/${clip.id}`);
  await page.getByTestId('step-range').click();
  await settled(page);
  const seen = await page.evaluate(() => ({
    secure: isSecureContext,
    shared: typeof SharedArrayBuffer !== 'undefined',
    backend: document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!.dataset.backend,
  }));
  expect(seen).toEqual({ secure: false, shared: false, backend: 'kernel' });
  // An edit is saved from there as well.
  await page.getByRole('button', { name: 'Black point: more' }).click();
  await settled(page);
});

test('the kernel’s file is named by its content and kept for ever; what names it is asked for each time', async () => {
  const base = (running ?? app.running).address;
  const named = await fetch(`${base}/kernel.json`);
  expect(named.headers.get('cache-control')).toBe('no-cache');
  const { file } = (await named.json()) as { file: string };
  expect(file).toMatch(/^kernel-[0-9a-f]{16}\.wasm$/);
  const kernel = await fetch(`${base}/${file}`);
  expect(kernel.headers.get('cache-control')).toContain('immutable');
  expect(WebAssembly.validate(new Uint8Array(await kernel.arrayBuffer()))).toBe(true);
  expect((await fetch(`${base}/kernel-0000000000000000.wasm`)).status).toBe(404);
});
