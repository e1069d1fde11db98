import type { Job } from '@inkavo/core/model/job';

/** Decay of earlier jobs' weight per finished job: the last three or four dominate. By judgement. */
const FADES = 0.7;

interface Done {
  work: number;
  seconds: number;
}

/** Amount of work of a job: bytes to copy, or pixels to decode; 0: unknown. */
const workOf = ({ bytes, pixels }: Job): number => bytes ?? pixels ?? 0;

/** Speed of each kind of work, for estimating the time of waiting jobs. */
export class Paces {
  private readonly lately = new Map<Job['kind'], Done>();
  private readonly now = new Map<Job['kind'], Done>();

  /** Records that a share of a running job, 0–1, took this many seconds. */
  runs(job: Job, share: number, seconds: number): void {
    this.now.set(job.kind, { work: workOf(job) * share, seconds });
  }

  /** Records the end of a job of which a share, 0–1, took this many seconds. */
  ended(job: Job, share: number, seconds: number): void {
    const work = workOf(job) * share;
    if (work <= 0) return;
    const before = this.lately.get(job.kind) ?? { work: 0, seconds: 0 };
    this.lately.set(job.kind, { work: FADES * before.work + work, seconds: FADES * before.seconds + seconds });
  }

  /** Estimated seconds of a job that has not started; null: no speed is known for its kind. */
  secondsFor(job: Job): number | null {
    const pace = this.lately.get(job.kind) ?? this.now.get(job.kind);
    const work = workOf(job);
    return pace?.work && work > 0 ? (work * pace.seconds) / pace.work : null;
  }
}
