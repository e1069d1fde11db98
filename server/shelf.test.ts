import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { readClf } from '@inkavo/core/formats/clf/read';
import type { GradeFile } from '@inkavo/core/formats/gradeFile';
import { readProfile, readRecipe, writeGrade, writeProfile } from '@inkavo/core/formats/json';
import { gradeOf, newStep } from '@inkavo/core/model/grade';
import type { Problem } from '@inkavo/core/model/problem';
import { PROFILES } from '@inkavo/core/model/profile';
import type { ShelfItem, ShelfRecipe } from '@inkavo/core/model/shelf';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { startServer, type Running } from './app';
import { Client, tempFolder } from './testServer';

const CUBE = 'TITLE "Bent"\nLUT_3D_SIZE 2\n0 0 0\n1 0 0\n0 1 0\n1 1 0\n0 0 1\n1 0 1\n0 1 1\n.9 .9 .9\n';
let data: string;
let running: Running;
let client: Client;
const start = async (): Promise<void> => {
  running = await startServer({ host: '127.0.0.1', port: 0, data, card: data, app: undefined, strict: true });
  client = new Client(running.address);
};
beforeAll(async () => {
  data = tempFolder();
  await start();
});
afterAll(() => running.close());

const add = async (text: string, name: string, where = ''): Promise<{ status: number; body: ShelfItem }> => {
  const res = await fetch(`${running.address}/api/shelf/files?name=${name}${where}`, { method: 'POST', body: text });
  return { status: res.status, body: (await res.json()) as ShelfItem };
};
const file = async ({ id }: ShelfItem): Promise<string> =>
  (await fetch(`${running.address}/api/shelf/${id}/file`)).text();
const remove = (ids: string[]) => client.ask('POST', '/removed', { kind: 'shelf', ids });

test('a table has its group and its role, which can be changed; it comes back as it was', async () => {
  const { status, body: lut } = await add(CUBE, 'a.cube', '&group=Sea&role=technical');
  expect([status, lut]).toEqual([201, expect.objectContaining({ title: 'Bent', group: 'Sea', role: 'technical' })]);
  await client.ask('PATCH', `/shelf/${lut.id}`, { title: 'Bent white', group: '' });
  expect(await client.get('/shelf')).toContainEqual({ ...lut, title: 'Bent white', group: '' });
  expect(await file(lut)).toBe(CUBE);
});

test('a saved grade becomes a recipe, its tables come along, and its file is whole elsewhere', async () => {
  provideLut('mine', CUBE.replace('Bent', 'Other'));
  const steps = [newStep('range', 'r', { contrast: 1.2 }), newStep('lut', 'l', { lut: 'mine', title: 'Other' })];
  const { body } = await add(writeGrade(gradeOf(steps, 'Evening')), 'evening.json', '&group=Sea');
  const recipe = body as ShelfRecipe;
  expect(recipe).toMatchObject({
    kind: 'recipe',
    title: 'Evening',
    group: 'Sea',
    steps: [{ kind: 'range' }, { kind: 'lut' }],
  });
  const lutId = recipe.steps[1].params.lut as string;
  expect(lutId).toMatch(/^[0-9a-f]{64}$/);
  const read = readRecipe(await file(recipe));
  expect(read.steps).toEqual(recipe.steps);
  expect(read.luts![lutId]).toContain('Other');

  // Used by a recipe, the table's file stays when the table is deleted for good; then both are deleted.
  await remove([lutId]);
  await client.ask('DELETE', '/removed');
  expect(existsSync(join(data, 'luts', lutId))).toBe(true);
  expect((await fetch(`${running.address}/api/luts/${lutId}`)).status).toBe(200);
  await remove([recipe.id]);
  await client.ask('DELETE', '/removed');
  expect(existsSync(join(data, 'luts', lutId))).toBe(false);
});

test('recipes and profiles are made, outlive a restart, are removed and put back', async () => {
  const steps = [newStep('saturation', 's', { amount: 0 })];
  const { body: recipe } = await client.ask<ShelfItem>('POST', '/shelf', { kind: 'recipe', title: 'Grey', steps });
  const profile = { ...PROFILES[1], name: 'Mine, flat' };
  const { body: own } = await client.ask<ShelfItem>('POST', '/shelf', { kind: 'profile', profile, group: 'Mine' });
  expect(readProfile(await file(own))).toEqual(profile);
  await client.ask('PATCH', `/shelf/${own.id}`, { title: 'Mine, very flat' });
  await running.close();
  await start();
  const kept = await client.get<ShelfItem[]>('/shelf');
  expect(kept).toContainEqual(recipe);
  expect(kept.find((i) => i.id === own.id)).toMatchObject({ profile: { name: 'Mine, very flat' } });
  await remove([recipe.id]);
  expect(await client.get('/shelf')).not.toContainEqual(recipe);
  await client.ask('POST', '/removed/back', { kind: 'shelf', ids: [recipe.id] });
  expect(await client.get('/shelf')).toContainEqual(recipe);
});

test.each([
  ['a table', CUBE.replace('0 1 1', '0 x 1'), 'Line 9: "x" is not a number.'],
  ['a recipe', '{"format":"inkavo-recipe","version":1,"name":"A","steps":[]}', 'A recipe has at least one step.'],
  [
    'a recipe without its table',
    JSON.stringify({ ...gradeOf([], 'a'), steps: [{ ...newStep('lut', 'l'), params: { lut: 'gone', title: '' } }] }),
    'uses the table "gone"',
  ],
  ['a profile', writeProfile({ ...PROFILES[1], primaries: 'none' as never }), 'has a wrong value at primaries'],
  ['something else', '{"a":', 'not valid JSON'],
])('%s that cannot be read is refused with what is wrong, and nothing stays', async (_what, text, reason) => {
  const before = await client.get('/shelf');
  const { status, body } = await add(text, 'a.file');
  expect(status).toBe(422);
  expect((body as unknown as { detail: string }).detail).toContain(reason);
  expect(await client.get('/shelf')).toEqual(before);
});

test('steps leave as a table; what no table can hold is said, or left out and named', async () => {
  const steps = [newStep('saturation', 's', { amount: 0.8 }), newStep('haze', 'h', { amount: 0.5 })];
  const request = { steps, format: 'clf', size: 17, name: 'Cold noon' };
  const refused = await client.ask<Problem>('POST', '/grade-files', request);
  expect([refused.status, refused.body.code]).toEqual([422, 'not-possible']);
  expect(refused.body.detail).toMatch(/^Haze depends on the place/);
  const made = await client.post<GradeFile>('/grade-files', { ...request, partly: true });
  expect([made.fileName, made.lost]).toEqual(['Cold noon.clf', ['Haze']]);
  expect(readClf(made.text).nodes.map((n) => n.kind)).toEqual(['matrix', 'lut3d']);
  const unknown = [newStep('lut', 'l', { lut: 'f'.repeat(64), title: 'Gone' })];
  expect((await client.ask('POST', '/grade-files', { ...request, steps: unknown })).status).toBe(400);
});
