import type { Job } from '@inkavo/core/model/job';
import type { Sending } from '../../api/upload';

/** Files that are still on their way into an outing, and for how long. */
export interface OnTheWay {
  files: number;
  /** Bytes that are still to come, of files whose size is known. */
  bytes: number;
  /** Null while nothing has come far enough to tell. */
  secondsLeft: number | null;
}

/** Jobs that wait or run. */
export const underWay = (jobs: readonly Job[]): Job[] =>
  jobs.filter((j) => j.state === 'waiting' || j.state === 'running');

/**
 * Seconds that jobs of one kind, which are done one after the other, take in all. Those whose time is not told go at the pace
 * of the others. Null: nothing is told of any, or nobody knows how much one of them is.
 */
export function secondsForAll(jobs: readonly Job[]): number | null {
  if (jobs.some((j) => j.bytes === null && j.pixels === null)) return null;
  const work = (job: Job): number => (job.bytes ?? job.pixels ?? 0) * (1 - job.progress);
  const told = jobs.filter((j) => j.secondsLeft !== null && work(j) > 0);
  const sum = (some: readonly Job[], of: (job: Job) => number): number => some.reduce((s, j) => s + of(j), 0);
  return told.length ? (sum(told, (j) => j.secondsLeft!) * sum(jobs, work)) / sum(told, work) : null;
}

/** What is still to come, and how long it takes: copies on the server's machine and files that are sent from here go beside each other. */
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

/** Seconds as they are said: 40 s, 3 min, 2 h. */
export const spell = (seconds: number): string =>
  seconds < 90
    ? `${Math.max(1, Math.round(seconds))} s`
    : seconds < 5400
      ? `${Math.round(seconds / 60)} min`
      : `${Math.round(seconds / 3600)} h`;
