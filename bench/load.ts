import { join } from 'node:path';
import { newStep } from '@inkavo/core/model/grade';
import type { Clip, Outing } from '@inkavo/core/model/outing';
import { make, QUICK_H264 } from '@inkavo/media/testClips';
import { makeCard, spawnServer, tempFolder, until } from '@inkavo/server/testServer';

const CLIENTS = 10;
const SECONDS = Number(process.env.SECONDS ?? 20);
const CLIPS = 6;

const percentile = (sorted: number[], share: number): number => sorted[Math.floor(share * (sorted.length - 1))];

/**
 * Response times in milliseconds of ten clients that save and look, alone and beside an export. Still frames are
 * counted separately, since each starts a decoder.
 */
export async function load(): Promise<void> {
  const [data, card] = [tempFolder(), makeCard()];
  const folder = join(card, 'DCIM', 'TEST_CAMERA');
  const paths = Array.from({ length: CLIPS }, (_, i) => {
    make(join(folder, `c${i}.mp4`), `testsrc2=size=1280x720:rate=30:duration=${10 + i}`, QUICK_H264);
    return `DCIM/TEST_CAMERA/c${i}.mp4`;
  });
  const server = await spawnServer(data, card, { INKAVO_STRICT: '0' });
  const { client } = server;
  const outing = await client.post<Outing>('/outings', { name: 'Load', date: '2031-06-14' });
  await client.post(`/outings/${outing.id}/import`, { clips: paths.map((path) => ({ paths: [path] })) });
  const clips = await until(
    async () => await client.clips(outing.id),
    (list) => list.length === CLIPS && list.every((c) => c.proxy === 'ready'),
    180_000,
  );

  const measure = async (name: string): Promise<void> => {
    const times: Record<'save' | 'look' | 'thumb' | 'frame', number[]> = { save: [], look: [], thumb: [], frame: [] };
    const end = performance.now() + SECONDS * 1000;
    const timed = async (kind: keyof typeof times, work: () => Promise<unknown>): Promise<void> => {
      const started = performance.now();
      await work();
      times[kind].push(performance.now() - started);
    };
    const get = (path: string) => fetch(`${client.address}/api${path}`).then((r) => r.arrayBuffer());
    await Promise.all(
      Array.from({ length: CLIENTS }, async (_, c) => {
        const clip = clips[c % clips.length];
        for (let i = 0; performance.now() < end; i += 1) {
          const steps = [newStep('range', `c${c}`, { black: -(i % 50) / 1000 })];
          const now = await client.get<{ clip: Clip }>(`/clips/${clip.id}`);
          const id = `load-${name.length}-${c}-${i}`;
          const change = { id, clip: { base: now.clip.steps, next: steps } };
          await timed('save', () => client.ask('POST', `/clips/${clip.id}/changes`, change));
          await timed('look', () => get(`/outings/${outing.id}`));
          if (i % 4 === 0) await timed('thumb', () => get(`/clips/${clip.id}/thumb.jpg?v=${i}`));
          if (i % 8 === 0) await timed('frame', () => get(`/clips/${clip.id}/frame?frame=${(i * 7) % 250}&width=640`));
          await new Promise((r) => setTimeout(r, 150));
        }
      }),
    );
    for (const [kind, list] of Object.entries(times)) {
      list.sort((a, b) => a - b);
      const say = [0.5, 0.95, 0.99].map((s) => percentile(list, s).toFixed(0)).join(' / ');
      console.log(`${name}, ${kind}: ${say} ms (50th, 95th, 99th percentile of ${list.length})`);
    }
  };
  await measure('alone');
  await client.post('/deliveries', { clipIds: clips.map((c) => c.id), delivery: { codec: 'h265' } });
  await measure('beside an export');
  await server.kill();
}
