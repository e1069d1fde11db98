import { execFileSync } from 'node:child_process';
import { copyFileSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { newStep } from '@inkavo/core/model/grade';
import type { Job } from '@inkavo/core/model/job';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import { probe } from '@inkavo/media/codec';
import { make, QUICK_H264 } from '@inkavo/media/testClips';
import { makeCard, spawnServer, tempFolder, until, type ServerProcess } from '@inkavo/server/testServer';

/** Codec processes of a data folder, and partial files. */
function left(data: string): { processes: number; halves: string[] } {
  let processes = 0;
  try {
    const list = execFileSync('ps', ['-o', 'stat=,args=', '-C', 'ffmpeg,ffprobe']).toString().split('\n');
    processes = list.filter((l) => l.includes(data) && !l.trim().startsWith('Z')).length;
  } catch {
    // Expect neither.
  }
  const halves = readdirSync(data, { recursive: true, encoding: 'utf8' }).filter(
    (n) => n.endsWith('.part') || /temporary\/./.test(n),
  );
  return { processes, halves };
}

/**
 * Kills the server alone at random moments during imports, proxies, edits and exports, and counts confirmed edits that
 * are lost, partial files, and processes that keep running. `kills`: how often.
 */
export async function soak(kills = Number(process.env.KILLS ?? 100)): Promise<void> {
  const [data, card] = [tempFolder(), makeCard()];
  const folder = join(card, 'DCIM', 'TEST_CAMERA');
  // Files with different content, so that each import is distinct.
  for (let i = 0; i < 12; i += 1)
    make(join(folder, `c${i}.mp4`), `testsrc2=size=640x360:rate=30:duration=${2 + i / 10}`, QUICK_H264);
  copyFileSync(join(folder, 'c0.mp4'), join(folder, 'again.mp4'));
  let server: ServerProcess = await spawnServer(data, card);
  const outing = await server.client.post<Outing>('/outings', { name: 'Soak', date: '2031-06-14' });
  const clips = async (): Promise<Clip[]> => await server.client.clips(outing.id);
  const seed = Number(process.env.SEED ?? 1);
  let state = seed;
  const random = (): number => (state = (state * 48271) % 2147483647) / 2147483647;
  let [kept, lost, orphans, halves, lateStarts] = [0, 0, 0, 0, 0];
  const expected = new Map<string, string>();
  let imported = 0;
  for (let kill = 0; kill < kills; kill += 1) {
    let over = false;
    const work = (async () => {
      while (!over) {
        const list = await clips();
        if (imported < 12 && random() < 0.3) {
          await server.client.post(`/outings/${outing.id}/import`, {
            clips: [{ paths: [`DCIM/TEST_CAMERA/c${imported}.mp4`] }],
          });
          imported += 1;
        }
        const clip = list[Math.floor(random() * list.length)];
        if (!clip) continue;
        const id = `s${kill}-${kept}`;
        const { status } = await server.client.setSteps(clip.id, { clip: [newStep('range', id)] });
        if (status === 200) {
          expected.set(clip.id, id);
          kept += 1;
        }
        if (random() < 0.05)
          await server.client.post('/deliveries', {
            clipIds: [clip.id],
            delivery: { codec: random() < 0.5 ? 'h264' : 'ffv1' },
          });
      }
    })().catch(() => undefined);
    await new Promise((r) => setTimeout(r, 100 + 3400 * random()));
    process.kill(server.child.pid!, 'SIGKILL');
    over = true;
    await work;
    await new Promise((r) => setTimeout(r, 300));
    orphans += left(data).processes;
    const started = performance.now();
    server = await spawnServer(data, card);
    if (performance.now() - started > 3000) lateStarts += 1;
    for (const clip of await clips()) {
      const id = expected.get(clip.id);
      // The change in progress at the kill may be stored too; a confirmed one must be.
      if (id && clip.steps[0]?.id !== id && Number(clip.steps[0]?.id.split('-')[1] ?? -1) < Number(id.split('-')[1]))
        lost += 1;
    }
    if (kill % 10 === 9) console.log(`${kill + 1} kills: ${kept} edits kept, ${lost} lost, ${orphans} processes left`);
  }
  const jobs = await until(
    () => server.client.get<Job[]>('/jobs'),
    (list) => list.every((j) => j.state !== 'waiting' && j.state !== 'running'),
    600_000,
  );
  for (const job of jobs.filter((j) => j.kind === 'export' && j.state === 'done')) {
    const { frames } = (await probe(join(data, 'exports', job.file!.name))).facts;
    if (frames < 50) halves += 1;
  }
  const end = left(data);
  const count = (state2: Job['state']): number => jobs.filter((j) => j.state === state2).length;
  console.log(
    `soak, seed ${seed}: ${kills} kills; ${kept} edits kept, ${lost} of them lost; ${imported} imports, ${(await clips()).length} clips; ` +
      `exports done ${count('done')}, failed ${count('failed')}, of them given up after three crashes ${jobs.filter((j) => j.message?.includes('3 times')).length}; ` +
      `half files ${halves + end.halves.length}, processes left ${orphans + end.processes}, starts over 3 s: ${lateStarts}; ` +
      `temporary files ${end.halves.length}, database ${(statSync(join(data, 'inkavo.db')).size / 1e6).toFixed(1)} MB`,
  );
  await server.kill();
}
