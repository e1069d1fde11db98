import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { connect } from 'node:tls';
import type { Outing } from '@inkavo/core/model/outing';
import type { Problem } from '@inkavo/core/model/problem';
import type { Device, JoinCode, SharingState } from '@inkavo/core/model/sharing';
import { startServer, type Running } from './app';
import { networkAddresses } from './sharing/addresses';
import { Codes } from './sharing/codes';
import { Client, tempFolder, until } from './testServer';

const [data, card] = [tempFolder(), tempFolder()];
const config = { host: '127.0.0.1', port: 0, sharePort: 0, data, card, app: undefined, strict: true };
let running: Running;
let own: Client;
beforeEach(async () => {
  running = await startServer(config);
  own = new Client(running.address);
});
afterEach(async () => {
  await own.ask('PATCH', '/sharing', { on: false, encrypted: false });
  await running.close();
});

const share = async (settings: object): Promise<SharingState> =>
  (await own.ask<SharingState>('PATCH', '/sharing', settings)).body;
const codeOf = (): Promise<JoinCode> => own.post<JoinCode>('/sharing/code');

const sharePort = (): number => running.parts.sharing.port!;

/** A device on the network. It connects over loopback, which must not make it the server's own machine. */
class Tablet {
  cookie = '';
  constructor(readonly port: number) {}

  async ask<T>(method: string, path: string, body?: unknown): Promise<{ status: number; body: T }> {
    const res = await this.call(method, path, body);
    const text = await res.text();
    return { status: res.status, body: (text ? JSON.parse(text) : undefined) as T };
  }
  call = (method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<Response> =>
    fetch(`http://127.0.0.1:${this.port}/api${path}`, {
      method,
      headers: { 'Content-Type': 'application/json', Cookie: this.cookie },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      signal,
    });
  async join(code: string, name = 'Tablet'): Promise<Response> {
    const res = await this.call('POST', '/join', { code, name });
    [this.cookie] = (res.headers.get('set-cookie') ?? '').split(';');
    return res;
  }
}

test('nobody listens on the network until a person says so', async () => {
  const state = await own.get<SharingState>('/sharing');
  expect(state).toMatchObject({ on: false, addresses: [], devices: [], trouble: null, unguarded: false });
  const shared = await share({ on: true });
  expect(shared.on).toBe(true);
  expect(shared.addresses.map((a) => new URL(a.url).hostname)).toEqual(networkAddresses().map((a) => a.address));
  const port = sharePort();
  expect((await new Tablet(port).ask('GET', '/outings')).status).toBe(401);
  await share({ on: false });
  await expect(fetch(`http://127.0.0.1:${port}/api/outings`)).rejects.toThrow();
});

test('a device that was not let in reads and changes nothing', async () => {
  const { id } = await own.post<Outing>('/outings', { name: 'Day', date: '2031-06-14' });
  await share({ on: true });
  const stranger = new Tablet(sharePort());
  for (const [method, path, body] of [
    ['GET', '/outings'],
    ['GET', `/outings/${id}`],
    ['PATCH', `/outings/${id}`, { name: 'Theirs' }],
    ['GET', '/events'],
    ['GET', '/openapi.json'],
    ['POST', '/uploads'],
    ['GET', '/device'],
    ['POST', '/sharing/code'],
    ['GET', '/nowhere'],
  ] as const) {
    const { status, body: problem } = await stranger.ask<Problem>(method, path, body);
    expect([path, status, problem.code]).toEqual([path, 401, 'not-let-in']);
  }
  stranger.cookie = 'inkavo-device=guessed';
  expect((await stranger.ask('GET', '/outings')).status).toBe(401);
  expect((await own.get<{ outing: Outing }>(`/outings/${id}`)).outing.name).toBe('Day');
});

test('a code lets one device in, which stays in when the server starts again, until it is let out', async () => {
  await share({ on: true });
  const { code, until: ends, links } = await codeOf();
  expect(code).toMatch(/^\d{6}$/);
  expect(ends - Date.now() / 1000).toBeGreaterThan(590);
  expect(links).toHaveLength(networkAddresses().length);
  let tablet = new Tablet(sharePort());
  const joined = await tablet.join(`${code.slice(0, 3)} ${code.slice(3)}`, 'Boat tablet');
  expect(joined.status).toBe(201);
  expect(joined.headers.get('set-cookie')).toMatch(/; HttpOnly(;|$).*SameSite=Strict/);
  expect((await new Tablet(sharePort()).join(code)).status).toBe(403);

  const { cookie } = tablet;
  await running.close();
  running = await startServer(config);
  own = new Client(running.address);
  tablet = new Tablet(sharePort());
  tablet.cookie = cookie;
  const { device } = (await tablet.ask<{ device: Device }>('GET', '/device')).body;
  expect(device.name).toBe('Boat tablet');
  expect((await own.get<{ device: null }>('/device')).device).toBeNull();

  // Its open event stream ends with it.
  const events = await tablet.call('GET', '/events');
  expect(events.status).toBe(200);
  const ended = events.text().catch((error: Error) => error.name);
  expect((await own.ask('DELETE', `/sharing/devices/${device.id}`)).status).toBe(204);
  expect(await ended).toBe('TypeError');
  expect((await tablet.ask('GET', '/outings')).status).toBe(401);
  expect((await own.get<SharingState>('/sharing')).devices).toEqual([]);
});

test('a link’s key lets in as the digits do; a device can leave by itself', async () => {
  await share({ on: true });
  const [link] = (await codeOf()).links;
  // A machine without a network has no address to link to.
  if (!link) return;
  const { origin, pathname, hash, port } = new URL(link.url);
  expect([origin, pathname]).toEqual([(await own.get<SharingState>('/sharing')).addresses[0].url, '/join']);
  const tablet = new Tablet(Number(port));
  expect((await tablet.join(hash.slice(1))).status).toBe(201);
  expect((await tablet.ask('GET', '/outings')).status).toBe(200);
  // Paired again without changes, its event stream does not end.
  const reader = (await tablet.call('GET', '/events')).body!.getReader();
  await reader.read();
  await share({ on: true });
  expect(sharePort()).toBe(tablet.port);
  expect((await reader.read()).done).toBe(false);
  await reader.cancel();
  expect((await tablet.ask('DELETE', '/device')).status).toBe(204);
  expect((await tablet.ask('GET', '/outings')).status).toBe(401);
});

test('who is let in does not decide who else is, nor which folders are seen', async () => {
  await share({ on: true });
  const tablet = new Tablet(sharePort());
  await tablet.join((await codeOf()).code);
  for (const [method, path, body] of [
    ['GET', '/sharing'],
    ['PATCH', '/sharing', { encrypted: true }],
    ['POST', '/sharing/code'],
    ['DELETE', '/sharing/devices/any'],
    ['POST', '/sources', { path: '/' }],
    ['DELETE', '/sources/any'],
  ] as const)
    expect([path, (await tablet.ask(method, path, body)).status]).toEqual([path, 403]);
  const foreign = await fetch(`http://127.0.0.1:${tablet.port}/api/outings`, {
    method: 'POST',
    headers: { Cookie: tablet.cookie, Origin: 'http://elsewhere.example', 'Content-Type': 'application/json' },
    body: JSON.stringify({ name: 'Theirs', date: '2031-06-14' }),
  });
  expect(foreign.status).toBe(403);
});

test('codes cannot be tried out: five wrong ones end it, ten in a minute are too many', async () => {
  await share({ on: true });
  const { code } = await codeOf();
  const wrong = String((Number(code) + 1) % 1e6).padStart(6, '0');
  const tablet = new Tablet(sharePort());
  const statuses: number[] = [];
  for (let k = 0; k < 5; k += 1) statuses.push((await tablet.join(wrong)).status);
  expect(statuses).toEqual([403, 403, 403, 403, 403]);
  expect((await tablet.join(code)).status).toBe(403);
  const { code: next } = await codeOf();
  for (let k = 0; k < 4; k += 1) expect((await tablet.join(wrong)).status).toBe(403);
  const tooOften = await tablet.join(next);
  expect([tooOften.status, ((await tooOften.json()) as Problem).code]).toEqual([429, 'too-often']);
});

test('a code is good for ten minutes', () => {
  let now = 1000;
  const codes = new Codes(() => now);
  const { key } = codes.current();
  now += 601;
  expect(() => codes.take(key)).toThrow('No code is valid now');
  const later = codes.current();
  // The same for every viewer, until it is about to expire.
  now += 400;
  expect(codes.current()).toBe(later);
  now += 199;
  expect(() => codes.take(later.key)).not.toThrow();
  const last = codes.current();
  now += 500;
  expect(codes.current()).not.toBe(last);
});

test('encrypted, with a certificate that stays the same; its key is nobody else’s to read', async () => {
  const { fingerprint } = await share({ on: true, encrypted: true });
  expect((await own.get<SharingState>('/sharing')).trouble).toBeNull();
  const shown = (): Promise<string> =>
    new Promise((resolve, reject) => {
      const socket = connect({ port: sharePort(), rejectUnauthorized: false }, () => {
        resolve(socket.getPeerCertificate().fingerprint256);
        socket.destroy();
      });
      socket.once('error', reject);
    });
  expect(await shown()).toBe(fingerprint);
  expect(statSync(join(data, 'certificate.pem')).mode & 0o077).toBe(0);
  await share({ on: false });
  expect((await share({ on: true })).fingerprint).toBe(fingerprint);
  rmSync(join(data, 'certificate.pem'));
  await share({ on: false });
  const anew = (await share({ on: true })).fingerprint;
  expect(anew).not.toBe(fingerprint);
  expect(await shown()).toBe(anew);
});

test('a port that another program has is said, and taken once it is free', async () => {
  const other = createServer().listen(0);
  const { port } = other.address() as AddressInfo;
  await running.close();
  running = await startServer({ ...config, sharePort: port });
  own = new Client(running.address);
  const state = await share({ on: true });
  expect([state.on, state.addresses]).toEqual([true, []]);
  expect(state.trouble).toContain(`Another program uses port ${port}.`);
  await new Promise((resolve) => other.close(resolve));
  const again = await until(
    () => share({ on: true }),
    (s) => s.trouble === null,
  );
  expect(sharePort()).toBe(port);
  expect(again.on).toBe(true);
});

test('networks of virtual machines come last', () => {
  const at = (address: string, internal = false) => [
    { address, internal, family: 'IPv4' as const, netmask: '', mac: '', cidr: null },
  ];
  const found = networkAddresses({ lo: at('127.0.0.1', true), docker0: at('172.17.0.1'), wlan0: at('192.168.4.7') });
  expect(found).toEqual([
    { network: 'wlan0', address: '192.168.4.7' },
    { network: 'docker0', address: '172.17.0.1' },
  ]);
});
