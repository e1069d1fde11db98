import { execFileSync } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { newStep } from '@inkavo/core/model/grade';
import type { Job } from '@inkavo/core/model/job';
import { make, TAGS_709 } from '@inkavo/media/testClips';
import { bring, clipsOf, ended, exportOf, partsIn, Places } from './testPlace';
import { fillDisk, tempFolder, until } from './testServer';

const places = new Places();
const { place, folder } = places;
afterAll(() => places.close());

beforeAll(() => {
  make(join(folder, 'noise.mp4'), 'testsrc2=size=640x360:rate=30:duration=12', [
    '-vf',
    'format=yuv420p,noise=alls=40:allf=t',
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-qp',
    '42',
    ...TAGS_709,
  ]);
});

describe('a disk that is full', () => {
  const disk = tempFolder();
  let mounted = false;
  beforeAll(() => {
    try {
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=240m', 'tmpfs', disk], { stdio: 'ignore' });
      mounted = true;
    } catch {
      // Not root, or a machine without mounts: the reserve is tested on the existing disk.
    }
  });
  afterAll(() => {
    if (mounted) execFileSync('umount', ['-l', disk]);
  });

  test.each([
    ['the reserve is touched', '40000000'],
    ['there is no reserve', '0'],
  ])('ends an export with a reason, not the server: %s', async (_what, reserve) => {
    if (!mounted) return;
    const data = join(disk, `data-${reserve}`);
    mkdirSync(data);
    const at = await place(data, { INKAVO_RESERVE: reserve });
    await bring(at, 'long.mp4');
    const [clip] = await clipsOf(at);
    // The rest is filled up to little more than the export's estimated need.
    const filler = join(disk, 'filler');
    const share = clip.bytes * 12;
    const free = Number(execFileSync('df', ['--output=avail', '-B1', disk]).toString().split('\n')[1]);
    const leave = reserve === '0' ? 2e6 : Number(reserve) + 2e6;
    expect(share).toBeGreaterThan(leave - Number(reserve));
    writeFileSync(filler, Buffer.alloc(Math.max(0, free - leave)));
    const refused = await exportOf(at, clip);
    const first = await ended(at, refused.id);
    expect(first).toMatchObject({ state: 'failed', message: expect.stringMatching(/no room|disk is full/) });
    // The server responds, edits are kept or refused with the right reason, and it stops when told to.
    const { status } = await at.server.client.setSteps(clip.id, { clip: [newStep('range', 'r')] });
    expect([200, 507]).toContain(status);
    rmSync(filler);
    expect((await at.server.client.setSteps(clip.id, { clip: [newStep('range', 's')] })).status).toBe(200);
    await at.server.client.post(`/jobs/${refused.id}/again`);
    expect((await ended(at, refused.id)).state).toBe('done');
    expect(await at.server.stop()).toBe(0);
    rmSync(data, { recursive: true });
  });

  test.each([
    ['an export', false],
    ['a film', true],
  ])('that fills while %s runs: the half file goes, the server stays, and it can be done again', async (_w, film) => {
    if (!mounted) return;
    const data = join(disk, film ? 'data-film' : 'data-filling');
    mkdirSync(data);
    const at = await place(data, { INKAVO_RESERVE: '20000000' });
    await bring(at, 'short.mp4', 'noise.mp4');
    const noise = (await clipsOf(at, 2)).find((c) => c.name === 'noise.mp4')!;
    const request = { outingId: at.outing.id, clipIds: [noise.id], delivery: { codec: 'ffv1' } };
    const job = film ? (await at.server.client.post<Job[]>('/films', request))[0] : await exportOf(at, noise);
    await until(
      async () => partsIn(data),
      (names) => names.some((n) => n.startsWith('exports')),
    );
    fillDisk(disk, join(disk, 'filler'), 19e6);
    expect(await ended(at, job.id)).toMatchObject({
      state: 'failed',
      message: expect.stringMatching(/disk is full/),
    });
    expect(partsIn(data)).toEqual([]);
    rmSync(join(disk, 'filler'));
    await at.server.client.post(`/jobs/${job.id}/again`);
    expect((await ended(at, job.id)).state).toBe('done');
    expect(await at.server.stop()).toBe(0);
    rmSync(data, { recursive: true });
  });
});
