import { KEY_HEADER } from '@inkavo/core/model/idempotency';
import type { Outing } from '@inkavo/core/model/outing';
import type { Problem } from '@inkavo/core/model/problem';
import { startServer, type Running } from './app';
import { configFromEnv } from './config';
import { tempFolder } from './testServer';

const data = tempFolder();
const start = (): Promise<Running> => startServer({ ...configFromEnv({}), port: 0, data, strict: true });
let running: Running;
beforeAll(async () => (running = await start()));
afterAll(() => running.close());

async function ask<T>(method: string, path: string, key: string, body?: object): Promise<{ status: number; body: T }> {
  const res = await fetch(`${running.address}/api${path}`, {
    method,
    headers: { 'Content-Type': 'application/json', [KEY_HEADER]: key },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
  const text = await res.text();
  return { status: res.status, body: (text ? JSON.parse(text) : undefined) as T };
}
const make = (key: string, name: string) => ask<Outing>('POST', '/outings', key, { name, date: '2026-05-02' });
const names = async () =>
  ((await (await fetch(`${running.address}/api/outings`)).json()) as Outing[]).map(({ name }) => name);

test('a request that is repeated with its key is carried out once, and answered the same', async () => {
  const first = await make('key-of-the-first', 'Morning');
  expect(first.status).toBe(201);
  expect(await make('key-of-the-first', 'Morning')).toEqual(first);
  expect((await make('key-of-another', 'Morning')).body.id).not.toBe(first.body.id);
  expect(await names()).toEqual(['Morning', 'Morning']);
});

test('also while the first one is under way', async () => {
  const answers = await Promise.all(Array.from({ length: 8 }, () => make('key-at-once', 'Noon')));
  expect(new Set(answers.map((a) => a.body.id)).size).toBe(1);
  expect((await names()).filter((n) => n === 'Noon')).toHaveLength(1);
});

test('and after the server was restarted', async () => {
  const first = await make('key-before-restart', 'Evening');
  await running.close();
  running = await start();
  expect(await make('key-before-restart', 'Evening')).toEqual(first);
});

test('an answer without a body is repeated without one', async () => {
  const [id] = ((await (await fetch(`${running.address}/api/outings`)).json()) as Outing[]).map((o) => o.id);
  const remove = () => ask('POST', '/removed', 'key-of-a-removal', { kind: 'outing', ids: [id] });
  expect(await remove()).toEqual({ status: 204, body: undefined });
  expect(await remove()).toEqual({ status: 204, body: undefined });
});

test('a key of another request is refused, and nothing is done', async () => {
  await make('key-used-before', 'Kept');
  const { status, body } = await ask<Problem>('POST', '/outings', 'key-used-before', {
    name: 'Other',
    date: '2026-05-02',
  });
  expect(status).toBe(422);
  expect(body.detail).toMatch(/belongs to another request/);
  expect(await names()).not.toContain('Other');
  expect((await make('short', 'Other')).status).toBe(400);
});

test('a request that failed is carried out when it is repeated', async () => {
  const path = '/removed';
  const gone = { kind: 'outing', ids: ['not-there'] };
  const first = await ask<Problem>('POST', path, 'key-of-a-failure', gone);
  const again = await ask<Problem>('POST', path, 'key-of-a-failure', gone);
  expect(again).toEqual(first);
  // The name is missing: refused before anything is done; the key is still free.
  expect((await ask('POST', '/outings', 'key-not-used', {})).status).toBe(400);
  expect((await make('key-not-used', 'Late')).status).toBe(201);
});
