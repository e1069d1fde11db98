import type { Job } from '@inkavo/core/model/job';

/** What is left of the weight of earlier work with each job that ends: the last three or four decide. Chosen by judgement. */
const FADES = 0.7;

interface Done {
  work: number;
  seconds: number;
}

/** How much there is to do for a job: bytes that are copied, or pixels that are decoded; 0: not known. */
const workOf = ({ bytes, pixels }: Job): number => bytes ?? pixels ?? 0;

/** How fast work of each kind goes, so that the time of what waits can be told. */
export class Paces {
  private readonly lately = new Map<Job['kind'], Done>();
  private readonly now = new Map<Job['kind'], Done>();

  /** Notes that a share of a job, 0–1, took so many seconds, while it still runs. */
  runs(job: Job, share: number, seconds: number): void {
    this.now.set(job.kind, { work: workOf(job) * share, seconds });
  }

  /** Notes that a job has ended of which a share, 0–1, took so many seconds. */
  ended(job: Job, share: number, seconds: number): void {
    const work = workOf(job) * share;
    if (work <= 0) return;
    const before = this.lately.get(job.kind) ?? { work: 0, seconds: 0 };
    this.lately.set(job.kind, { work: FADES * before.work + work, seconds: FADES * before.seconds + seconds });
  }

  /** Seconds that a job takes which has not begun; null: nothing of its kind has told yet how fast it goes. */
  secondsFor(job: Job): number | null {
    const pace = this.lately.get(job.kind) ?? this.now.get(job.kind);
    const work = workOf(job);
    return pace?.work && work > 0 ? (work * pace.seconds) / pace.work : null;
  }
}
