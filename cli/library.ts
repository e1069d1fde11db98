import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream, mkdirSync, renameSync, rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream } from 'node:stream/web';
import { z } from 'zod';
import { jobSchema, type Job } from '@inkavo/core/model/job';
import { outingSchema, type Outing } from '@inkavo/core/model/outing';
import { problemSchema } from '@inkavo/core/model/problem';
import {
  codeSchema,
  sharingSchema,
  type JoinCode,
  type sharingRequest,
  type SharingState,
} from '@inkavo/core/model/sharing';
import { MediaError } from '@inkavo/media/codec';
import { CallError, showShare } from './call';

/** Options of commands that work on an outing of a running server instead of files. */
export const OUTING_OPTIONS = ['outing', 'server'] as const;
export const OUTING_USAGE = '--outing NAME [--server ADDRESS]';
const HERE = 'http://127.0.0.1:4680';
const LOOK_MS = 300;

const openedSchema = z.object({ clips: z.array(z.object({ id: z.string() })) });

/** Client of a running server. */
export class Library {
  constructor(private readonly address: string) {}

  /** The outing with this name or id. Throws a {@link CallError} if there is none, or more than one. */
  async outing(name: string): Promise<Outing> {
    const all = await this.ask('GET', '/outings', z.array(outingSchema));
    const found = all.filter((o) => o.id === name || o.name === name);
    if (found.length === 1) return found[0];
    if (found.length === 0) throw new CallError(`There is no outing "${name}" on ${this.address}.`);
    const ids = found.map((o) => `${o.id} (${o.date})`).join(', ');
    throw new CallError(`${found.length} outings are called "${name}": give the id of one, ${ids}.`);
  }

  /** Switches sharing on or off; returns the addresses. */
  setSharing = (part: z.infer<typeof sharingRequest>): Promise<SharingState> =>
    this.ask('PATCH', '/sharing', sharingSchema, part);
  joinCode = (): Promise<JoinCode> => this.ask('POST', '/sharing/code', codeSchema);

  /** Ids of an outing's clips, in order. */
  clips = async (outingId: string): Promise<string[]> =>
    (await this.ask('GET', `/outings/${outingId}`, openedSchema)).clips.map((c) => c.id);

  /**
   * Queues jobs, and waits for all of them. `accept` checks the queued jobs; if it throws, they are cancelled. Throws a
   * {@link MediaError} that names what failed.
   */
  async make(path: string, body: unknown, accept?: (jobs: Job[]) => void): Promise<Job[]> {
    const queued = await this.ask('POST', path, z.array(jobSchema), body);
    try {
      accept?.(queued);
    } catch (error) {
      for (const { id } of queued) await this.call('POST', `/jobs/${id}/stop`);
      throw error;
    }
    for (;;) {
      const now = await this.ask('GET', '/jobs', z.array(jobSchema));
      const jobs = queued.map((q) => now.find((j) => j.id === q.id) ?? { ...q, state: 'stopped' as const });
      showShare(jobs.reduce((sum, j) => sum + (j.state === 'done' ? 1 : j.progress), 0) / jobs.length);
      if (jobs.every((j) => j.state !== 'waiting' && j.state !== 'running')) {
        const failed = jobs.filter((j) => j.state !== 'done');
        if (failed.length === 0) return jobs;
        const why = failed.map((j) => `${j.file?.name ?? j.title}: ${j.message ?? 'it was removed from the queue.'}`);
        throw new MediaError(why.join('\n'));
      }
      await new Promise((done) => setTimeout(done, LOOK_MS));
    }
  }

  /** Downloads a finished file atomically. Throws a {@link MediaError} if it arrives damaged. */
  async fetch({ id, file }: Job, output: string): Promise<void> {
    const res = await this.call('GET', `/jobs/${id}/file`);
    mkdirSync(dirname(output), { recursive: true });
    const part = `${output}.part`;
    try {
      await pipeline(Readable.fromWeb(res.body as ReadableStream), createWriteStream(part));
      const hash = createHash('sha256');
      await pipeline(createReadStream(part), hash);
      if (file?.result && hash.digest('hex') !== file.result.sha256)
        throw new MediaError(`${file.name} did not arrive as it was made. It is still on the server.`);
      renameSync(part, output);
    } finally {
      rmSync(part, { force: true });
    }
  }

  private async call(method: string, path: string, body?: unknown): Promise<Response> {
    const res = await fetch(`${this.address}/api${path}`, {
      method,
      ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } }),
    }).catch(() => {
      throw new MediaError(`No server answers at ${this.address}. Start it, or give its address with --server.`);
    });
    if (res.ok) return res;
    const problem = problemSchema.safeParse(await res.json().catch(() => undefined)).data;
    throw new MediaError(problem?.detail ?? `The server answered ${res.status}.`);
  }

  private ask = async <T>(method: string, path: string, schema: z.ZodType<T>, body?: unknown): Promise<T> =>
    schema.parse(await (await this.call(method, path, body)).json());
}

/** The running server from the options. Throws a {@link CallError}. */
export function libraryFrom(options: Record<string, string | undefined>): Library {
  const address = (options.server ?? HERE).replace(/\/+$/, '');
  if (!URL.canParse(address)) throw new CallError('--server is an address such as http://127.0.0.1:4680.');
  return new Library(address);
}

/** The server and the outing from the options. Throws a {@link CallError} or a {@link MediaError}. */
export async function outingFrom(
  options: Record<string, string | undefined>,
): Promise<{ library: Library; outing: Outing }> {
  const library = libraryFrom(options);
  return { library, outing: await library.outing(options.outing!) };
}
