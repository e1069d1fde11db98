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

/**
 * What is still to come, and how long it takes at the pace of what is under way: copies on the server's machine and files
 * that are sent from here go beside each other.
 */
export function onTheWay(jobs: readonly Job[], sending: readonly Sending[]): OnTheWay {
  const copies = jobs.filter((j) => j.kind === 'import' && (j.state === 'waiting' || j.state === 'running'));
  const sent = sending.filter((s) => s.state !== 'failed');
  const copyBytes = copies.reduce((sum, j) => sum + (j.bytes ?? 0) * (1 - j.progress), 0);
  const sendBytes = sent.reduce((sum, s) => sum + s.bytes * (1 - s.progress), 0);
  const running = copies.find((j) => j.state === 'running' && j.secondsLeft !== null && j.bytes);
  const copySeconds = running
    ? (running.secondsLeft! * copyBytes) / Math.max(1, running.bytes! * (1 - running.progress))
    : null;
  const pace = sent.reduce((sum, s) => sum + (s.bytesPerSecond ?? 0), 0);
  const sendSeconds = pace > 0 ? sendBytes / pace : null;
  const told = [copyBytes > 0 ? copySeconds : 0, sendBytes > 0 ? sendSeconds : 0];
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
