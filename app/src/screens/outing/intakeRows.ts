import type { Job } from '@inkavo/core/model/job';

/** Similar jobs in one row. */
export interface JobGroup {
  /** Stable while jobs come and go. */
  key: string;
  kind: Job['kind'];
  state: Exclude<Job['state'], 'running' | 'done'>;
  jobs: Job[];
}

/** Maximum number of similar jobs with separate rows. */
export const APART = 3;

/** Jobs are similar only if they failed for the same reason. */
const keyOf = ({ kind, state, message }: Job): string => [kind, state, state === 'waiting' ? '' : message].join();

/**
 * Rows for unfinished jobs: running ones, then failed ones, then waiting ones in order. More than {@link APART} similar
 * ones form a group.
 */
export function intakeRows(jobs: readonly Job[]): (Job | JobGroup)[] {
  const order = (job: Job): number => ['running', 'failed', 'stopped', 'waiting'].indexOf(job.state);
  const sorted = jobs
    .filter((j) => j.state !== 'done')
    .sort((a, b) => order(a) - order(b) || a.rank - b.rank || a.createdAt - b.createdAt);
  const groups = new Map<string, JobGroup>();
  for (const job of sorted) {
    const { kind, state } = job;
    if (state === 'running' || state === 'done') continue;
    const key = keyOf(job);
    const group = groups.get(key) ?? { key, kind, state, jobs: [] };
    group.jobs.push(job);
    groups.set(key, group);
  }
  return sorted.flatMap((job): (Job | JobGroup)[] => {
    const group = groups.get(keyOf(job));
    if (!group || group.jobs.length <= APART) return [job];
    return job === group.jobs[0] ? [group] : [];
  });
}
