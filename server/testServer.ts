import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { appendFileSync, mkdirSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { changeOf, type StepsState } from '@inkavo/core/model/change';
import type { StepLists } from '@inkavo/core/model/lists';
import type { Camera, Clip, ListedClip, Outing } from '@inkavo/core/model/outing';
import type { Problem } from '@inkavo/core/model/problem';
import { make, QUICK_H264 } from '@inkavo/media/testClips';

/** Talks to a server like a page. */
export class Client {
  constructor(readonly address: string) {}

  async ask<T>(method: string, path: string, body?: unknown): Promise<{ status: number; body: T }> {
    const res = await fetch(`${this.address}/api${path}`, {
      method,
      ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } }),
    });
    const text = await res.text();
    return { status: res.status, body: (text ? JSON.parse(text) : undefined) as T };
  }
  /** The clips of an outing, complete. */
  async clips(outingId: string): Promise<Clip[]> {
    const { clips } = await this.get<{ clips: ListedClip[] }>(`/outings/${outingId}`);
    return Promise.all(clips.map(async ({ id }) => (await this.get<{ clip: Clip }>(`/clips/${id}`)).clip));
  }
  /** Sets steps of a clip, its camera or its outing, whatever they are now. */
  async setSteps(clipId: string, parts: Partial<StepLists>): Promise<{ status: number; body: StepsState & Problem }> {
    const { clip, camera, outing } = await this.get<{ clip: Clip; camera: Camera; outing: Outing }>(`/clips/${clipId}`);
    const now: StepLists = {
      clip: clip.steps,
      camera: camera.steps,
      outing: outing.steps,
      overrides: clip.overrides,
    };
    const id = `change-${Math.random().toString(36).slice(2, 12)}`;
    const change = { id, ...changeOf(id, now, { ...now, ...parts }) };
    return this.ask('POST', `/clips/${clipId}/changes`, change);
  }
  get = async <T>(path: string): Promise<T> => (await this.ask<T>('GET', path)).body;
  post = async <T>(path: string, body?: unknown): Promise<T> => (await this.ask<T>('POST', path, body)).body;
}

/** Waits until a condition holds; fails with the last value. */
export async function until<T>(look: () => Promise<T>, holds: (seen: T) => boolean, ms = 180_000): Promise<T> {
  const end = Date.now() + ms;
  for (;;) {
    const seen = await look().catch((error: Error) => error as T);
    if (!(seen instanceof Error) && holds(seen)) return seen;
    if (Date.now() > end)
      throw new Error(
        `Waited in vain; last seen: ${seen instanceof Error ? seen.message : JSON.stringify(seen).slice(0, 600)}`,
      );
    await new Promise((r) => setTimeout(r, 60));
  }
}

export const tempFolder = (): string => mkdtempSync(join(tmpdir(), 'inkavo-server-'));

/** Fills a disk until this many bytes are free, gradually, since others write meanwhile. */
export function fillDisk(disk: string, file: string, left: number): void {
  const free = (): number => Number(execFileSync('df', ['--output=avail', '-B1', disk]).toString().split('\n')[1]);
  for (let now = free(); now > left; now = free()) appendFileSync(file, Buffer.alloc(Math.min(now - left + 1e6, 32e6)));
}

/** A memory card with small clips on it. */
export function makeCard(): string {
  const card = tempFolder();
  const folder = join(card, 'DCIM', 'TEST_CAMERA');
  mkdirSync(folder, { recursive: true });
  make(join(folder, 'short.mp4'), 'testsrc2=size=320x180:rate=25:duration=1', QUICK_H264);
  make(join(folder, 'long.mp4'), 'testsrc2=size=1280x720:rate=30:duration=7', QUICK_H264);
  return card;
}

/** A server in its own process, which can be killed. */
export interface ServerProcess {
  client: Client;
  child: ChildProcess;
  /** Kills it, as a power failure would. */
  kill(): Promise<void>;
  /** Stops it properly (SIGTERM). Resolves with its exit status. */
  stop(): Promise<number | null>;
}

/** `env`: overrides. */
export async function spawnServer(
  data: string,
  card: string,
  env: Record<string, string> = {},
): Promise<ServerProcess> {
  const child = spawn(process.execPath, [resolve(__dirname, '../dist/server.cjs')], {
    env: {
      ...process.env,
      INKAVO_DATA: data,
      INKAVO_CARD: card,
      INKAVO_PORT: '0',
      INKAVO_APP: 'none',
      INKAVO_STRICT: '1',
      ...env,
    },
    stdio: ['ignore', 'pipe', 'inherit'],
    detached: true,
  });
  const address = await new Promise<string>((done, fail) => {
    child.stdout!.on('data', (chunk: Buffer) => {
      const found = /http:\/\/\S+/.exec(chunk.toString());
      if (found) done(found[0]);
    });
    child.on('exit', (code) => fail(new Error(`The server ended with ${code}.`)));
  });
  return {
    client: new Client(address),
    child,
    kill: () =>
      new Promise((done) => {
        child.once('exit', () => done());
        if (child.exitCode !== null || child.signalCode !== null) return done();
        // The whole process group, including the codec's processes, as in a power failure.
        process.kill(-child.pid!, 'SIGKILL');
      }),
    stop: () =>
      new Promise((done) => {
        child.once('exit', (code) => done(code));
        child.kill('SIGTERM');
      }),
  };
}
