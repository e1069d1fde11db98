import type { Job } from '@inkavo/core/model/job';
import { MediaError } from '@inkavo/media/codec';
import type { Events } from '../events';
import type { JobStore, Payload } from '../stores/jobs';

/** What a job's work may use while it runs. */
export interface Work<P extends Payload = Payload> {
  job: Job;
  payload: P;
  signal: AbortSignal;
  progress(share: number): void;
}

/** The work of one kind of job. Its result says what is worth keeping of it. */
export type Worker<P extends Payload> = (
  work: Work<P>,
) => Promise<{ clipId?: string; fileBytes?: number; message?: string }>;
export type Workers = { [K in Payload['kind']]: Worker<Extract<Payload, { kind: K }>> };

/** Kinds that run beside each other; within a lane one job at a time. */
const LANES: Payload['kind'][][] = [['import'], ['proxy'], ['export']];
/** Progress is written to the database no more often than this. */
const WRITE_EVERY_MS = 1000;

/** Takes jobs from the database one after the other and does them. */
export class Runner {
  private readonly running = new Map<string, { controller: AbortController; ended: Promise<void> }>();
  private readonly busy = new Set<Payload['kind'][]>();
  private readonly lanes = new Set<Promise<void>>();
  private closed = false;

  constructor(
    private readonly jobs: JobStore,
    private readonly workers: Workers,
    private readonly events: Events,
  ) {}

  /** Starts what waits. Call it whenever a job has been added. */
  wake(): void {
    if (this.closed) return;
    for (const lane of LANES) {
      if (this.busy.has(lane)) continue;
      this.busy.add(lane);
      const drained = this.drain(lane).finally(() => this.lanes.delete(drained));
      this.lanes.add(drained);
    }
  }

  /** Stops a job, waiting or running. Resolves when nothing of it is under way any more. */
  async stop(id: string): Promise<Job> {
    const job = await this.jobs.get(id);
    if (job.state !== 'waiting' && job.state !== 'running') return job;
    const stopped = await this.jobs.update(id, { state: 'stopped', message: 'Stopped. No file was left.' });
    const run = this.running.get(id);
    run?.controller.abort();
    await run?.ended;
    this.events.send({ type: 'job', job: stopped });
    return stopped;
  }

  /** Breaks off what runs; after a restart it begins again. */
  async close(): Promise<void> {
    this.closed = true;
    for (const { controller } of this.running.values()) controller.abort();
    await Promise.all(this.lanes);
  }

  private async drain(lane: Payload['kind'][]): Promise<void> {
    try {
      for (let next = await this.jobs.take(lane); next; next = this.closed ? undefined : await this.jobs.take(lane)) {
        const controller = new AbortController();
        const ended = this.run(next.job, next.payload, controller);
        this.running.set(next.job.id, { controller, ended });
        await ended;
        this.running.delete(next.job.id);
      }
    } finally {
      this.busy.delete(lane);
    }
  }

  private async run(job: Job, payload: Payload, controller: AbortController): Promise<void> {
    this.events.send({ type: 'job', job });
    const started = Date.now();
    let written = started;
    const progress = (share: number): void => {
      const now = Date.now();
      const secondsLeft = share > 0.02 ? ((now - started) / 1000) * (1 / share - 1) : null;
      this.events.send({ type: 'job', job: { ...job, progress: share, secondsLeft } });
      if (now - written < WRITE_EVERY_MS) return;
      written = now;
      void this.jobs.update(job.id, { progress: share });
    };
    try {
      const worker = this.workers[payload.kind] as Worker<Payload>;
      const result = await worker({ job, payload, signal: controller.signal, progress });
      await this.finish(job.id, { state: 'done', progress: 1, message: null, ...result });
    } catch (error) {
      // Stopped: the state says so already. A server that closes leaves its jobs as they are, so that they begin again.
      if (controller.signal.aborted) return;
      if (!(error instanceof MediaError)) console.error(error);
      const message = error instanceof MediaError ? error.message : 'Something went wrong that was not foreseen.';
      await this.finish(job.id, { state: 'failed', message });
    }
  }

  private async finish(id: string, set: Parameters<JobStore['update']>[1]): Promise<void> {
    this.events.send({ type: 'job', job: await this.jobs.update(id, set) });
  }
}
