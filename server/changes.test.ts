import { joinSteps, newStep, type Step } from '@inkavo/core/model/grade';
import { changeOf, type StepsState } from '@inkavo/core/model/change';
import type { StepLists } from '@inkavo/core/model/lists';
import type { Clash } from '@inkavo/core/model/merge';
import type { Camera, Clip, Outing } from '@inkavo/core/model/outing';
import { startServer, type Running } from './app';
import { Client, makeCard, tempFolder, until } from './testServer';

const card = makeCard();
const data = tempFolder();
let running: Running;
let client: Client;
let clip: Clip;

const begin = async (): Promise<void> => {
  running = await startServer({ host: '127.0.0.1', port: 0, data, card, app: undefined, strict: true });
  client = new Client(running.address);
};

beforeAll(async () => {
  await begin();
  const outing = await client.post<Outing>('/outings', { name: 'Day', date: '2031-06-14' });
  await client.post(`/outings/${outing.id}/import`, {
    clips: ['short', 'long'].map((name) => ({ paths: [`DCIM/TEST_CAMERA/${name}.mp4`] })),
  });
  const look = async () => await client.clips(outing.id);
  [clip] = await until(look, (c) => c.length === 2);
});
afterAll(() => running.close());

const now = async (): Promise<StepLists> => {
  const {
    clip: c,
    camera,
    outing,
  } = await client.get<{ clip: Clip; camera: Camera; outing: Outing }>(`/clips/${clip.id}`);
  return { clip: c.steps, camera: camera.steps, outing: outing.steps, overrides: c.overrides };
};
const send = (id: string, base: StepLists, next: StepLists, to = clip.id) =>
  client.ask<StepsState & { code?: string; clashes?: Clash[] }>(
    'POST',
    `/clips/${to}/changes`,
    changeOf(id, base, next),
  );
const withStep = (lists: StepLists, step: Step): StepLists => ({
  ...lists,
  clip: lists.clip.some((s) => s.id === step.id)
    ? lists.clip.map((s) => (s.id === step.id ? step : s))
    : [...lists.clip, step],
});
const range = (id: string, black: number): Step => newStep('range', id, { black });

test('a change is stored once, however often it is sent', async () => {
  const base = await now();
  const next = withStep(base, range('once', -0.05));
  const first = await send('change-0001', base, next);
  expect(first).toMatchObject({ status: 200, body: { revisions: { clip: 1, camera: 0, outing: 0 } } });
  await send('change-0002', next, withStep(next, range('once', -0.08)));
  // The response was lost: the device repeats the request, and receives the current state.
  const again = await send('change-0001', base, next);
  expect(again.body.revisions).toEqual({ clip: 2, camera: 0, outing: 0 });
  expect(again.body.lists.clip.find((s) => s.id === 'once')!.params.black).toBe(-0.08);
  expect(await now()).toEqual(again.body.lists);
});

test('changes that do not touch the same step are joined, also across restarts', async () => {
  const base = await now();
  await send('change-0010', base, withStep(base, range('theirs', -0.01)));
  await running.close();
  await begin();
  const { status, body } = await send('change-0011', base, withStep(base, range('mine', -0.02)));
  expect(status).toBe(200);
  expect(body.lists.clip.map((s) => s.id)).toEqual(expect.arrayContaining(['theirs', 'mine']));
});

test('the same step changed on both sides is asked, nothing is stored, and the other parts are named too', async () => {
  const base = await now();
  await send('change-0020', base, withStep(base, range('mine', -0.1)));
  const before = await now();
  const mine = withStep(withStep(base, range('mine', -0.2)), range('another', 0.1));
  const { status, body } = await send('change-0021', base, mine);
  expect(status).toBe(409);
  expect(body.code).toBe('steps-conflict');
  expect(body.clashes).toMatchObject([{ of: 'step', owner: 'clip', id: 'mine', mine: { params: { black: -0.2 } } }]);
  expect(await now()).toEqual(before);
});

test('a change of a clip leaves a camera’s new step alone, which another clip of it has made', async () => {
  const base = await now();
  const clips = await client.clips(clip.outingId);
  const other = clips.find((c) => c.id !== clip.id)!;
  await client.setSteps(other.id, { camera: [newStep('convert', 'camera-step')] });
  const { body } = await send('change-0030', base, withStep(base, range('mine', -0.3)));
  expect(body.lists.camera.map((s) => s.id)).toEqual(['camera-step']);
  expect((await now()).camera.map((s) => s.id)).toEqual(['camera-step']);
});

test('an id is one change’s; a clip that is not here takes none', async () => {
  const base = await now();
  const next = withStep(base, range('x', 0.1));
  const clips = await client.clips(clip.outingId);
  const other = clips.find((c) => c.id !== clip.id)!;
  expect((await send('change-0001', base, next, other.id)).status).toBe(400);
  expect((await send('change-0040', base, next, 'none')).status).toBe(404);
});

test('twenty devices at once: every one’s step is there', async () => {
  const base = await now();
  const answers = await Promise.all(
    Array.from({ length: 20 }, (_, i) => send(`change-many-${i}`, base, withStep(base, range(`many-${i}`, i / 100)))),
  );
  expect(answers.every((a) => a.status === 200)).toBe(true);
  const ids = (await now()).clip.map((s) => s.id);
  expect(ids.filter((id) => id.startsWith('many-'))).toHaveLength(20);
});

test('a shared step is limited to clips, in one go; those that come later do not have it; in all again', async () => {
  const { outing } = await client.get<{ outing: Outing }>(`/clips/${clip.id}`);
  const look = newStep('saturation', 'shared-look', { amount: 1.4 });
  await client.setSteps(clip.id, { outing: [...outing.steps, look] });
  const address = `/shared/outing/${outing.id}/steps/shared-look/clips`;
  const ids = (await client.clips(outing.id)).map((c) => c.id);
  expect(await client.get(address)).toEqual({ limited: false, clipIds: ids });
  const answer = await client.ask('PUT', address, { limited: true, clipIds: [ids[1]] });
  expect(answer).toMatchObject({ status: 200, body: { limited: true, clipIds: [ids[1]] } });
  const acts = async (id: string): Promise<boolean> => {
    const {
      clip: c,
      camera,
      outing: o,
    } = await client.get<{ clip: Clip; camera: Camera; outing: Outing }>(`/clips/${id}`);
    return joinSteps(camera.steps, c.steps, o.steps, c.overrides).find((s) => s.id === 'shared-look')!.on;
  };
  expect([await acts(ids[0]), await acts(ids[1])]).toEqual([false, true]);
  // Removed from one's list, when it is not limited any more.
  await client.ask('PUT', address, { limited: false, clipIds: [ids[0]] });
  expect([await acts(ids[0]), await acts(ids[1])]).toEqual([true, false]);
  await client.ask('PUT', address, { limited: false, clipIds: ids });
  expect((await client.clips(outing.id)).every((c) => !('shared-look' in c.overrides))).toBe(true);
  expect((await client.ask('GET', `/shared/outing/${outing.id}/steps/none/clips`)).status).toBe(404);
});

describe('several clips at once', () => {
  const outingId = () => clip.outingId;
  const both = async (): Promise<Clip[]> => {
    const ids = (await client.clips(outingId())).map((c) => c.id);
    return client.post<Clip[]>('/clips/some', { ids });
  };
  const together = (changes: unknown[]) => client.ask<{ detail: string }>('POST', '/clips/together', { changes });

  test('facts and steps of all are stored, and laid onto what came from elsewhere meanwhile', async () => {
    const [a, b] = await both();
    // Another user changed a step of the second clip after it was read.
    const theirs = range('of-others', -0.02);
    await client.setSteps(b.id, { clip: [...b.steps, theirs] });
    const mine = range('of-mine', 0.03);
    const changes = [a, b].map(({ id, steps }) => ({
      ...{ id, patch: { checked: true } },
      steps: { base: steps, next: [...steps, mine] },
    }));
    const stored = await together(changes);
    expect(stored.status).toBe(204);
    const [a1, b1] = await both();
    expect([a1.checked, b1.checked]).toEqual([true, true]);
    expect(a1.steps).toEqual([...a.steps, mine]);
    expect(b1.steps.map((s) => s.id).sort()).toEqual([...b.steps, theirs, mine].map((s) => s.id).sort());
    expect(a1.revision).toBe(a.revision + 1);
    // A repeat changes nothing.
    await together(changes);
    expect(await both()).toEqual([a1, b1]);
  });

  test('where one cannot be changed, none is', async () => {
    await until(both, (list) => list.every((c) => c.proxy === 'ready'));
    const before = await both();
    const [a, b] = before;
    const steps = { base: a.steps, next: [] };
    for (const bad of [
      { id: b.id, patch: { cameraId: 'f'.repeat(8) + '-0000-4000-8000-000000000000' } },
      { id: b.id, patch: { inFrame: 9_999_999 } },
      { id: '00000000-0000-4000-8000-000000000000', patch: { checked: false } },
      { id: b.id, steps: { base: b.steps, next: [newStep('lut', 'none', { lut: 'e'.repeat(64) })] } },
    ]) {
      const { status } = await together([{ id: a.id, patch: { checked: false, name: 'Other' }, steps }, bad]);
      expect([400, 404]).toContain(status);
      expect(await both()).toEqual(before);
    }
    expect((await together([])).status).toBe(400);
    expect((await client.ask('POST', '/clips/some', { ids: ['00000000-0000-4000-8000-000000000000'] })).status).toBe(
      404,
    );
  });
});
