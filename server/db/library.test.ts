import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { stepSchema } from '@inkavo/core/model/grade';
import { STEP_KINDS } from '@inkavo/core/steps';
import type { Camera, Outing } from '@inkavo/core/model/outing';
import { startServer } from '../app';
import { Client, tempFolder } from '../testServer';

/** A library written by an earlier version (tables up to 005): every step kind, overrides, a dive log, jobs. */
const FIXTURE = join(__dirname, 'fixtures', 'library-005.sql');
/** The step kinds of that version. */
const KINDS = [
  ...['convert', 'water', 'haze', 'balance', 'range', 'channels'],
  ...['bands', 'curves', 'saturation', 'hues', 'lut'],
];

test('a library of an earlier version opens, with every step it had', async () => {
  const data = tempFolder();
  const db = new Database(join(data, 'inkavo.db'));
  db.exec(readFileSync(FIXTURE, 'utf8'));
  db.close();
  const running = await startServer({ host: '127.0.0.1', port: 0, data, card: data, app: undefined, strict: true });
  try {
    const client = new Client(running.address);
    const [outing] = await client.get<Outing[]>('/outings');
    const { cameras } = await client.get<{ cameras: Camera[] }>(`/outings/${outing.id}`);
    const clips = await client.clips(outing.id);
    const clip = clips.find((c) => c.name === 'short.mp4')!;
    expect(clip.steps.map((s) => s.kind)).toEqual(KINDS);
    expect(STEP_KINDS.map((k) => k.kind)).toEqual(expect.arrayContaining(KINDS));
    for (const step of [...clip.steps, ...cameras[0].steps, ...outing.steps])
      expect(() => stepSchema.parse(step)).not.toThrow();
    expect(clip.steps.find((s) => s.kind === 'range')!.params).toMatchObject({
      black: -0.04,
      exposure: { keys: [{}, {}] },
    });
    expect(clip).toMatchObject({ overrides: { look: { strength: 0.5 } }, dive: { offset: 12 }, proxy: 'ready' });
    expect(cameras[0].setting).toBe('water');
    // It can be edited.
    const { status, body } = await client.setSteps(clip.id, { clip: clip.steps.slice(1) });
    expect([status, body.revisions.clip]).toEqual([200, 2]);
    expect((await client.get<unknown[]>('/jobs')).length).toBe(1);
  } finally {
    await running.close();
  }
});
