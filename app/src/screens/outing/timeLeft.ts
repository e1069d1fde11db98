import type { Job } from '@inkavo/core/model/job';
import type { Sending } from '../../api/upload';

/** Files still being imported into an outing, and the time left. */
export interface OnTheWay {
  files: number;
  /** Remaining bytes of files of known size. */
  bytes: number;
  /** Null while there is no basis for an estimate. */
  secondsLeft: number | null;
}

/** Waiting or running jobs. */
export const underWay = (jobs: readonly Job[]): Job[] =>
  jobs.filter((j) => j.state === 'waiting' || j.state === 'running');

/**
 * Total seconds of jobs of one kind, run one after the other. Jobs without an estimate get the pace of the others.
 * Null: no estimates, or no sizes.
 */
export function secondsForAll(jobs: readonly Job[]): number | null {
  if (jobs.some((j) => j.bytes === null && j.pixels === null)) return null;
  const work = (job: Job): number => (job.bytes ?? job.pixels ?? 0) * (1 - job.progress);
  const told = jobs.filter((j) => j.secondsLeft !== null && work(j) > 0);
  const sum = (some: readonly Job[], of: (job: Job) => number): number => some.reduce((s, j) => s + of(j), 0);
  return told.length ? (sum(told, (j) => j.secondsLeft!) * sum(jobs, work)) / sum(told, work) : null;
}

/** What remains, and how long it takes: copies on the server's machine and uploads run in parallel. */
export function onTheWay(jobs: readonly Job[], sending: readonly Sending[]): OnTheWay {
  const copies = underWay(jobs).filter((j) => j.kind === 'import');
  const sent = sending.filter((s) => s.state !== 'failed');
  const copyBytes = copies.reduce((sum, j) => sum + (j.bytes ?? 0) * (1 - j.progress), 0);
  const sendBytes = sent.reduce((sum, s) => sum + s.bytes * (1 - s.progress), 0);
  const pace = sent.reduce((sum, s) => sum + (s.bytesPerSecond ?? 0), 0);
  const sendSeconds = pace > 0 ? sendBytes / pace : null;
  const told = [copies.length ? secondsForAll(copies) : 0, sendBytes > 0 ? sendSeconds : 0];
  return {
    files: copies.length + sent.length,
    bytes: copyBytes + sendBytes,
    secondsLeft: told.some((t) => t === null) ? null : Math.max(...(told as number[])),
  };
}

/** Formats seconds: 40 s, 3 min, 2 h. */
export const spell = (seconds: number): string =>
  seconds < 90
    ? `${Math.max(1, Math.round(seconds))} s`
    : seconds < 5400
      ? `${Math.round(seconds / 60)} min`
      : `${Math.round(seconds / 3600)} h`;
