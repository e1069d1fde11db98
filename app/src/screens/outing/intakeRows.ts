import type { Job } from '@inkavo/core/model/job';

/** Jobs that are alike, which take one row. */
export interface JobGroup {
  /** The same while jobs come and go. */
  key: string;
  kind: Job['kind'];
  state: Exclude<Job['state'], 'running' | 'done'>;
  jobs: Job[];
}

/** So many jobs that are alike have a row each. */
export const APART = 3;

/** Why it failed is a part of what makes jobs alike. */
const keyOf = ({ kind, state, message }: Job): string => [kind, state, state === 'waiting' ? '' : message].join();

/**
 * What is shown of jobs that are not done: what runs, then what ended without success, then what waits, the next one first.
 * More than {@link APART} that are alike are one group.
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
