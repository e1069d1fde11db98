import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DEMO_CLIPS, FIRST_CLIPS } from '@inkavo/demo/catalogue';
import type { Clip, Outing } from '@inkavo/core/model/outing';

const LOOK_EVERY_MS = 250;

async function freePort(): Promise<number> {
  const probe = createServer();
  await new Promise<void>((done) => probe.listen(0, '127.0.0.1', done));
  const { port } = probe.address() as { port: number };
  await new Promise((done) => probe.close(done));
  return port;
}

/**
 * The first minutes of the demo on a machine where everything is installed and built but nothing is rendered: seconds
 * from the start until the page, the first clip, one of each camera, and all are ready.
 */
export async function benchFirstMinute(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'inkavo-first-'));
  const env = {
    ...process.env,
    INKAVO_FOOTAGE: join(folder, 'footage'),
    INKAVO_CARD: join(folder, 'footage', 'card'),
    INKAVO_DATA: join(folder, 'data'),
    INKAVO_PORT: String(await freePort()),
    INKAVO_DEMO: '1',
  };
  const started = performance.now();
  const seconds = (): string => `${((performance.now() - started) / 1000).toFixed(1)} s`;
  spawnSync(process.execPath, ['dist/demo.cjs', '--fresh'], { env, stdio: 'inherit' });
  const server = spawn(process.execPath, ['dist/server.cjs'], { env, stdio: ['ignore', 'ignore', 'inherit'] });
  const api = `http://127.0.0.1:${env.INKAVO_PORT}/api`;
  const get = async <T>(path: string): Promise<T | undefined> => {
    const res = await fetch(api + path).catch(() => undefined);
    return res?.ok ? ((await res.json()) as T) : undefined;
  };
  try {
    const marks = [
      { clips: 0, what: 'the page is up, with the demo outing' },
      { clips: 1, what: 'the first clip is there' },
      { clips: FIRST_CLIPS.length, what: 'one clip of each of four cameras' },
      { clips: DEMO_CLIPS.length, what: `all ${DEMO_CLIPS.length} clips` },
    ];
    for (let next = marks.shift(); next;) {
      const outing = (await get<Outing[]>('/outings'))?.[0];
      const opened = outing && (await get<{ clips: Clip[] }>(`/outings/${outing.id}`));
      while (next && opened && opened.clips.length >= next.clips) {
        console.log(`${seconds().padStart(8)}  ${next.what}`);
        next = marks.shift();
      }
      await new Promise((done) => setTimeout(done, LOOK_EVERY_MS));
    }
  } finally {
    server.kill('SIGTERM');
    await new Promise((done) => server.once('exit', done));
    rmSync(folder, { recursive: true, force: true });
  }
}
