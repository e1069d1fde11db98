import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { newStep } from '@inkavo/core/model/grade';
import type { Job } from '@inkavo/core/model/job';
import type { Outing } from '@inkavo/core/model/outing';
import { make, QUICK_H264, workFolder } from '@inkavo/media/testClips';
// A running server, queried as over a network.
import { networkAddresses } from '@inkavo/server/sharing/addresses';
import { spawnServer, until, type ServerProcess } from '@inkavo/server/testServer';

const [card, data, out] = [workFolder(), workFolder(), workFolder()];
let server: ServerProcess;
let outing: Outing;

beforeAll(async () => {
  mkdirSync(join(card, 'BOW'));
  for (const [name, size] of [
    ['one', '320x180'],
    ['two', '352x180'],
  ])
    make(join(card, 'BOW', `${name}.mp4`), `testsrc2=size=${size}:rate=25:duration=0.6`, QUICK_H264);
  server = await spawnServer(data, card);
  outing = await server.client.post<Outing>('/outings', { name: 'Reed bay', date: '2031-06-14' });
  await server.client.post(`/outings/${outing.id}/import`, {
    clips: ['one', 'two'].map((name) => ({ paths: [`BOW/${name}.mp4`] })),
  });
  const clips = await until(
    () => server.client.clips(outing.id),
    (list) => list.length === 2 && list.every((c) => c.proxy === 'ready'),
  );
  await server.client.setSteps(clips[0].id, { clip: [newStep('saturation', 's', { amount: 0 })] });
});
afterAll(() => server.kill());

const inkavo = (...args: string[]): Promise<{ status: number | null; stdout: string; stderr: string }> =>
  new Promise((done) => {
    const child = spawn(process.execPath, [resolve(__dirname, 'bin/inkavo.cjs'), ...args]);
    let [stdout, stderr] = ['', ''];
    child.stdout.on('data', (chunk: Buffer) => (stdout += chunk.toString()));
    child.stderr.on('data', (chunk: Buffer) => (stderr += chunk.toString()));
    child.on('close', (status) => done({ status, stdout, stderr }));
  });
const at = (): string[] => ['--server', server.client.address];

test('export --outing: each clip as it was graded, as the server made it', async () => {
  const { status, stdout } = await inkavo('export', '--outing', 'Reed bay', ...at(), '--into', out, '--json');
  expect(status).toBe(0);
  expect(JSON.parse(stdout)).toMatchObject([{ frames: 15 }, { frames: 15 }]);
  const jobs = await server.client.get<Job[]>('/jobs');
  for (const { file } of jobs.filter((j) => j.file))
    expect(
      createHash('sha256')
        .update(readFileSync(join(out, file!.name)))
        .digest('hex'),
    ).toBe(file!.result!.sha256);
  expect(readdirSync(out).filter((n) => n.endsWith('.part'))).toEqual([]);
  expect(readdirSync(out)).toHaveLength(2);
  // A name that is taken is reported before anything is created.
  const busy = workFolder();
  // The server already has "one.mp4".
  writeFileSync(join(busy, 'one (2).mp4'), '');
  const taken = await inkavo('export', '--outing', 'Reed bay', ...at(), '--into', busy);
  expect([taken.status, taken.stderr]).toEqual([2, expect.stringContaining('is there already')]);
  const left = (await server.client.get<Job[]>('/jobs')).filter((j) => j.state !== 'done');
  expect(left.map((j) => j.state)).toEqual(['stopped', 'stopped']);
});

test('report and timeline --outing: the same documents as from the screen', async () => {
  for (const name of ['report.json', 'cut.otio']) {
    const command = name.startsWith('cut') ? 'timeline' : 'report';
    const { status, stdout } = await inkavo(command, '--outing', outing.id, ...at(), '-o', join(out, name));
    expect([status, stdout]).toEqual([0, expect.stringContaining('Reed bay')]);
    expect(readFileSync(join(out, name), 'utf8')).toContain('one.mp4');
  }
});

test('an outing that is not there, two of a name, no server, files besides: each is said', async () => {
  const missing = await inkavo('export', '--outing', 'Nowhere', ...at(), '--into', out);
  expect([missing.status, missing.stderr]).toEqual([2, expect.stringContaining('There is no outing "Nowhere"')]);
  await server.client.post<Outing>('/outings', { name: 'Reed bay', date: '2031-07-01' });
  const two = await inkavo('export', '--outing', 'Reed bay', ...at(), '--into', out);
  expect([two.status, two.stderr]).toEqual([2, expect.stringContaining(outing.id)]);
  const dead = await inkavo('export', '--outing', 'x', '--server', 'http://127.0.0.1:9', '--into', out);
  expect([dead.status, dead.stderr]).toEqual([1, expect.stringContaining('No server answers')]);
  const both = await inkavo('export', 'a.mp4', '--outing', 'x', '--into', out);
  expect([both.status, both.stderr]).toEqual([2, expect.stringContaining('not both')]);
});

test('share: other devices are let in with the code that it shows, and none any more after --stop', async () => {
  const { status, stdout, stderr } = await inkavo('share', ...at(), '--json');
  if (networkAddresses().length === 0) {
    expect([status, stderr]).toEqual([1, expect.stringContaining('on no network')]);
    return;
  }
  const shared = JSON.parse(stdout) as { addresses: { url: string }[]; code: string; links: string[] };
  const join = (code: string): Promise<Response> =>
    fetch(`${shared.addresses[0].url}/api/join`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ code, name: 'Tablet' }),
    });
  // For a person: the same code again, since nobody has used it, and the link as a QR code.
  const { stdout: text } = await inkavo('share', ...at());
  expect(text).toContain(`Code ${shared.code.slice(0, 3)} ${shared.code.slice(3)}`);
  expect(text).toMatch(/[▀▄█]{10}/);
  expect((await join(new URL(shared.links[0]).hash.slice(1))).status).toBe(201);
  expect((await inkavo('share', '--stop', 'perhaps', ...at())).status).toBe(2);
  expect((await inkavo('share', '--stop', 'yes', ...at())).status).toBe(0);
  await expect(join(shared.code)).rejects.toThrow();
});
