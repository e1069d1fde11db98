import type { Knex } from 'knex';
import type { Job } from '@inkavo/core/model/job';
import { MediaError } from '@inkavo/media/codec';
import type { Events } from '../events';
import type { DiskSpace } from '../diskSpace';
import { Paces } from './paces';
import type { JobChange, JobStore } from '../stores/jobs';
import { stoppedText, type Payload } from '../stores/newJob';

/** What a job's work may use while it runs. */
export interface Work<P extends Payload = Payload> {
  job: Job;
  payload: P;
  signal: AbortSignal;
  /** `frames`: how many there are in all, where frames are made. */
  progress(share: number, frames?: number): void;
}

/** What is worth keeping of a job that is done. */
export interface Outcome extends Pick<JobChange, 'clipId' | 'fileBytes' | 'message' | 'result'> {
  /** It was broken off so that others go first, and goes on when it is its turn again. */
  waits?: boolean;
  /** Share of the work that was done this time; left out: all of it. */
  share?: number;
  /** Stored in one transaction with the job's end. May run again when the transaction fails. */
  commit?: (trx: Knex.Transaction) => Promise<JobChange | void>;
  /** Called when all that is stored. */
  after?(): void;
}

/** The work of one kind of job. It may run again from the start at any time. */
export type Worker<P extends Payload> = (work: Work<P>) => Promise<Outcome>;
export type Workers = { [K in Payload['kind']]: Worker<Extract<Payload, { kind: K }>> };

/** What happens to a job's subject, within the transaction that ends it, when it failed or was stopped. */
export type OnGivenUp = (payload: Payload, trx: Knex.Transaction) => Promise<void>;

/** Kinds that run beside each other; within a lane one job at a time. */
const LANES: Job['kind'][][] = [['import'], ['proxy'], ['export'], ['copy'], ['render'], ['render']];
/** Progress is written to the database no more often than this. */
const WRITE_EVERY_MS = 1000;
/** A store that fails is asked again, with waits that double up to the longest. */
const RETRY_MS = { first: 250, longest: 5000 };
/** Time left is told from this share on. */
const TOLD_FROM = 0.02;

const wait = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

/** Takes jobs from the database one after the other and does them. Outlives failures of the database. */
export class Runner {
  private readonly running = new Map<string, { controller: AbortController; ended: Promise<void> }>();
  private readonly busy = new Map<Job['kind'][], Promise<void>>();
  /** Lanes that were woken while they looked for their next job. */
  private readonly woken = new Set<Job['kind'][]>();
  private readonly paces = new Paces();
  /** What was last told of each job that runs. */
  private readonly told = new Map<string, Job>();
  private closed = false;

  constructor(
    private readonly jobs: JobStore,
    private readonly workers: Workers,
    private readonly givenUp: OnGivenUp,
    private readonly events: Events,
    private readonly disk: DiskSpace,
  ) {}

  /** Jobs from the store, with what is known of them now: how far they are, and how long they take. */
  withTimes = (jobs: readonly Job[]): Job[] =>
    jobs.map((job) => {
      if (job.state === 'waiting') return { ...job, secondsLeft: this.paces.secondsFor(job) };
      // The store knows first that one has ended.
      return (job.state === 'running' && this.told.get(job.id)) || job;
    });

  /** Starts what waits. Call it whenever a job has been added. */
  wake(): void {
    if (this.closed) return;
    for (const lane of LANES) {
      this.woken.add(lane);
      if (!this.busy.has(lane)) this.busy.set(lane, this.drain(lane));
    }
  }

  /** Stops a job, waiting or running. Resolves when nothing of it is under way any more. */
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

  /** Stops several jobs. Those that wait first, so that none of them begins meanwhile. */
  async stopAll(ids: readonly string[]): Promise<void> {
    await this.jobs.stopWaiting(ids, this.givenUp);
    for (const id of ids) if (this.running.has(id)) await this.stop(id);
  }

  /** Breaks off what runs; after a restart it begins again, and this start does not count as a crash. */
  async close(): Promise<void> {
    this.closed = true;
    const ids = [...this.running.keys()];
    for (const { controller } of this.running.values()) controller.abort(new MediaError('The server was stopped.'));
    await Promise.all(this.busy.values());
    // Where the store fails, the start counts as a crash; that costs an attempt and nothing else.
    for (const id of ids) await this.jobs.release(id).catch(() => undefined);
  }

  private async drain(lane: Job['kind'][]): Promise<void> {
    // Not in the same turn as wake(), which has still to note that this lane is busy.
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

  /** Asks the store until it answers; undefined when the server closes before that. */
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
      // Given up while the disk was full, it is put back as soon as there is room.
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
    // A job that was stopped has its state already, and one that the server's stop broke off will begin again.
    if (this.closed || (await this.insist(() => this.jobs.stateOf(id))) !== 'running') return;
    if (!(error instanceof MediaError)) console.error(error);
    const message = error instanceof MediaError ? error.message : 'Something went wrong that was not foreseen.';
    const failed = await this.insist(() =>
      this.jobs.update(id, { state: 'failed', message }, (trx) => this.givenUp(payload, trx)),
    );
    if (failed) this.events.send({ type: 'job', job: failed });
  }

  /** Tells pages how far a job is, and now and then the database. Clocks of the day may go back; this one does not. */
  private teller(job: Job): Work['progress'] {
    const started = performance.now();
    let written = started;
    // Counted from the first frame: what a codec needs to begin says nothing of its pace.
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
      // Progress that is not written costs nothing: the end of the job is what counts.
      this.jobs.update(job.id, { progress: share }).catch(() => undefined);
    };
  }
}
