import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { newStep } from '@inkavo/core/model/grade';
import type { ListedClip, Outing } from '@inkavo/core/model/outing';
import { make, QUICK_H264 } from '@inkavo/media/testClips';
import { manyClips } from '@inkavo/server/manyClips';
import { makeCard, spawnServer, tempFolder, until } from '@inkavo/server/testServer';
import { TILE_WIDTH } from '@inkavo/server/thumbs';

const CLIPS = Number(process.env.CLIPS ?? 300);
/** Number of tiles that a page shows at once, and of concurrent requests of a browser. */
const SHOWN = 12;
const AT_ONCE = 6;

/** Peak memory of a process in MB. */
const peakMegabytes = (pid: number): number =>
  Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024;

/**
 * An outing of hundreds of clips: size of its list, time until its tiles are ready the first time and after a change of
 * a shared step (visible ones and all), and the server's memory.
 */
export async function benchOuting(): Promise<void> {
  const [data, card] = [tempFolder(), makeCard()];
  const path = 'DCIM/TEST_CAMERA/day.mp4';
  make(join(card, path), 'testsrc2=size=1920x1080:rate=60:duration=3', QUICK_H264);
  const server = await spawnServer(data, card, { INKAVO_STRICT: '0' });
  const { client, child } = server;
  try {
    const first = await client.post<Outing>('/outings', { name: 'Day', date: '2031-06-14' });
    await client.post(`/outings/${first.id}/import`, { clips: [{ paths: [path] }] });
    const [model] = await until(
      () => client.clips(first.id),
      (list) => list.length === 1 && list[0].proxy === 'ready',
      120_000,
    );
    const outing = await manyClips({ client, data }, model, CLIPS);
    const list = await (await fetch(`${client.address}/api/outings/${outing.id}`)).text();
    const { clips } = JSON.parse(list) as { clips: ListedClip[] };
    const tile = async (id: string): Promise<void> => {
      const res = await fetch(`${client.address}/api/clips/${id}/thumb.jpg?graded=1&width=${TILE_WIDTH}`);
      if (!res.ok) throw new Error(`A tile answered ${res.status}.`);
      await res.arrayBuffer();
    };
    /** Seconds until the visible tiles are ready, and until all are. */
    const tiles = async (): Promise<[shown: number, all: number]> => {
      const started = performance.now();
      const left = clips.map((c) => c.id);
      let [there, shown] = [0, 0];
      const ask = async (): Promise<void> => {
        for (let id = left.shift(); id !== undefined; id = left.shift()) {
          await tile(id);
          there += 1;
          if (there === SHOWN) shown = performance.now() - started;
        }
      };
      await Promise.all(Array.from({ length: AT_ONCE }, ask));
      return [shown / 1000, (performance.now() - started) / 1000];
    };
    const cold = await tiles();
    await client.setSteps(clips[0].id, { outing: [newStep('saturation', 'all', { amount: 1.3 })] });
    const changed = await tiles();
    const say = ([shown, all]: [number, number]): string =>
      `${SHOWN} tiles after ${shown.toFixed(1)} s, all after ${all.toFixed(1)} s`;
    console.log(`an outing of ${CLIPS} clips (1080p, 60 a second): its list is ${(list.length / 1024).toFixed(0)} KB`);
    console.log(`  the first time ${say(cold)}; after a shared step changed ${say(changed)}`);
    console.log(`  the server held ${peakMegabytes(child.pid!).toFixed(0)} MB at most`);
  } finally {
    await server.kill();
  }
}
