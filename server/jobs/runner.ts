import type { Knex } from 'knex';
import type { Job } from '@inkavo/core/model/job';
import { MediaError } from '@inkavo/media/codec';
import type { Events } from '../events';
import type { DiskSpace } from '../diskSpace';
import { Paces } from './paces';
import type { JobChange, JobStore } from '../stores/jobs';
import { stoppedText, type Payload } from '../stores/newJob';

/** Interface for a running job. */
export interface Work<P extends Payload = Payload> {
  job: Job;
  payload: P;
  signal: AbortSignal;
  /** `frames`: their total number, if frames are made. */
  progress(share: number, frames?: number): void;
}

/** Result of a finished job. */
export interface Outcome extends Pick<JobChange, 'clipId' | 'fileBytes' | 'message' | 'result'> {
  /** It was interrupted in favour of others, and continues when it is its turn again. */
  waits?: boolean;
  /** Share of the work done this time; omitted: all of it. */
  share?: number;
  /** Stored in one transaction with the job's end. May run again if the transaction fails. */
  commit?: (trx: Knex.Transaction) => Promise<JobChange | void>;
  /** Called when everything is stored. */
  after?(): void;
}

/** The work of one kind of job. It may be restarted from the beginning at any time. */
export type Worker<P extends Payload> = (work: Work<P>) => Promise<Outcome>;
export type Workers = { [K in Payload['kind']]: Worker<Extract<Payload, { kind: K }>> };

/** Effect on a job's subject when it failed or was stopped, within the transaction that ends it. */
export type OnGivenUp = (payload: Payload, trx: Knex.Transaction) => Promise<void>;

/** Lanes run in parallel; within a lane one job at a time. */
const LANES: Job['kind'][][] = [['import'], ['proxy'], ['export'], ['copy'], ['render'], ['render']];
/** Minimum interval between writes of progress to the database. */
const WRITE_EVERY_MS = 1000;
/** Retries when the database fails, with delays that double up to the maximum. */
const RETRY_MS = { first: 250, longest: 5000 };
/** Progress from which the remaining time is estimated. */
const TOLD_FROM = 0.02;

const wait = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

/** Takes jobs from the database one after the other and runs them. Survives failures of the database. */
export class Runner {
  private readonly running = new Map<string, { controller: AbortController; ended: Promise<void> }>();
  private readonly busy = new Map<Job['kind'][], Promise<void>>();
  /** Lanes woken while they were looking for their next job. */
  private readonly woken = new Set<Job['kind'][]>();
  private readonly paces = new Paces();
  /** Last reported progress of each running job. */
  private readonly told = new Map<string, Job>();
  private closed = false;

  constructor(
    private readonly jobs: JobStore,
    private readonly workers: Workers,
    private readonly givenUp: OnGivenUp,
    private readonly events: Events,
    private readonly disk: DiskSpace,
  ) {}

  /** Jobs from the database, with current progress and time estimates. */
  withTimes = (jobs: readonly Job[]): Job[] =>
    jobs.map((job) => {
      if (job.state === 'waiting') return { ...job, secondsLeft: this.paces.secondsFor(job) };
      // The database is first to know that one has ended.
      return (job.state === 'running' && this.told.get(job.id)) || job;
    });

  /** Starts waiting jobs. Call it whenever a job has been added. */
  wake(): void {
    if (this.closed) return;
    for (const lane of LANES) {
      this.woken.add(lane);
      if (!this.busy.has(lane)) this.busy.set(lane, this.drain(lane));
    }
  }

  /** Stops a job, waiting or running. Resolves when all its work has ended. */
  async stop(id: string): Promise<Job> {
    const job = await this.jobs.get(id);
    if (job.state !== 'waiting' && job.state !== 'running') return job;
    const payload = await this.jobs.payload(id);
    await this.jobs.update(id, { state: 'stopped', message: stoppedText(payload) }, (trx) =>
      this.givenUp(payload, trx),
    );
    const run = this.running.get(id);
    run?.controller.abort(new MediaError('Stopped.'));
    await run?.ended;
    const ended = await this.jobs.get(id);
    this.events.send({ type: 'job', job: ended });
    return ended;
  }

  /** Stops several jobs. Waiting ones first, so that none of them starts meanwhile. */
  async stopAll(ids: readonly string[]): Promise<void> {
    await this.jobs.stopWaiting(ids, this.givenUp);
    for (const id of ids) if (this.running.has(id)) await this.stop(id);
  }

  /** Interrupts running jobs; they restart with the server, and this start does not count as a crash. */
  async close(): Promise<void> {
    this.closed = true;
    const ids = [...this.running.keys()];
    for (const { controller } of this.running.values()) controller.abort(new MediaError('The server was stopped.'));
    await Promise.all(this.busy.values());
    // If the database fails, the start counts as a crash, which costs one attempt.
    for (const id of ids) await this.jobs.release(id).catch(() => undefined);
  }

  private async drain(lane: Job['kind'][]): Promise<void> {
    // Not in the same turn as wake(), which has yet to mark this lane as busy.
    await Promise.resolve();
    while (!this.closed && this.woken.delete(lane)) {
      for (let next = await this.take(lane); next; next = await this.take(lane)) {
        const controller = new AbortController();
        const ended = this.run(next.job, next.payload, controller);
        this.running.set(next.job.id, { controller, ended });
        await ended;
        this.running.delete(next.job.id);
      }
    }
    this.busy.delete(lane);
  }

  private async take(lane: Job['kind'][]): Promise<{ job: Job; payload: Payload } | undefined> {
    if (this.closed) return undefined;
    const next = await this.insist(async () => {
      if (lane.includes('export') && (await this.jobs.queue()).paused) return undefined;
      return this.jobs.take(lane);
    });
    if (!next || !this.closed) return next;
    await this.jobs.release(next.job.id).catch(() => undefined);
    return undefined;
  }

  /** Retries until the database responds; undefined when the server closes first. */
  private async insist<T>(ask: () => Promise<T>): Promise<T | undefined> {
    for (let ms = RETRY_MS.first; ; ms = Math.min(RETRY_MS.longest, ms * 2)) {
      try {
        return await ask();
      } catch (error) {
        if (ms === RETRY_MS.first) console.error('The queue cannot reach its store and goes on trying.', error);
        this.disk.dropBallast();
        if (this.closed) return undefined;
        await wait(ms);
      }
    }
  }

  private async run(job: Job, payload: Payload, controller: AbortController): Promise<void> {
    this.events.send({ type: 'job', job });
    const { signal } = controller;
    const began = performance.now();
    const stopWatch = this.disk.watch((reason) => controller.abort(reason));
    try {
      const worker = this.workers[payload.kind] as Worker<Payload>;
      const outcome = await worker({ job, payload, signal, progress: this.teller(job) });
      if (outcome.waits) await this.putBack(job.id);
      else {
        await this.finish(job.id, outcome);
        this.paces.ended(job, outcome.share ?? 1, (performance.now() - began) / 1000);
      }
    } catch (error) {
      await this.fail(job.id, payload, signal.aborted ? signal.reason : error);
    } finally {
      this.told.delete(job.id);
      stopWatch();
      // A job that failed because the disk was full is queued again as soon as there is room.
      this.disk.fillBallast().catch(() => undefined);
    }
  }

  private async putBack(id: string): Promise<void> {
    await this.insist(() => this.jobs.release(id));
    const waiting = await this.insist(() => this.jobs.get(id));
    if (waiting) this.events.send({ type: 'job', job: waiting });
  }

  private async finish(id: string, { commit, after, share: _share, ...set }: Outcome): Promise<void> {
    const change: JobChange = { state: 'done', progress: 1, message: null, ...set };
    const done = await this.insist(() => this.jobs.update(id, change, commit));
    if (!done) return;
    after?.();
    this.events.send({ type: 'job', job: done });
  }

  private async fail(id: string, payload: Payload, error: unknown): Promise<void> {
    // A stopped job already has its state, and one interrupted by the server's stop will restart.
    if (this.closed || (await this.insist(() => this.jobs.stateOf(id))) !== 'running') return;
    if (!(error instanceof MediaError)) console.error(error);
    const message = error instanceof MediaError ? error.message : 'Something went wrong that was not foreseen.';
    const failed = await this.insist(() =>
      this.jobs.update(id, { state: 'failed', message }, (trx) => this.givenUp(payload, trx)),
    );
    if (failed) this.events.send({ type: 'job', job: failed });
  }

  /** Sends progress to pages, and occasionally to the database. Uses a monotonic clock. */
  private teller(job: Job): Work['progress'] {
    const started = performance.now();
    let written = started;
    // Measured from the first frame: the codec's start-up says nothing about its speed.
    let first: { at: number; share: number } | undefined;
    return (share, frames) => {
      const now = performance.now();
      if (share > 0) first ??= { at: now, share };
      const pace = first && share > first.share ? (share - first.share) / ((now - first.at) / 1000) : 0;
      const secondsLeft = share > TOLD_FROM && pace > 0 ? (1 - share) / pace : null;
      const framesPerSecond = frames && pace > 0 ? frames * pace : null;
      if (secondsLeft !== null) this.paces.runs(job, share, share / pace);
      const told = { ...job, progress: share, secondsLeft, framesPerSecond };
      this.told.set(job.id, told);
      this.events.send({ type: 'job', job: told });
      if (now - written < WRITE_EVERY_MS) return;
      written = now;
      // Lost progress does no harm: only the end of the job matters.
      this.jobs.update(job.id, { progress: share }).catch(() => undefined);
    };
  }
}
