import type { DiveLog } from '@inkavo/core/model/diveLog';
import { dayText } from '../day';
import { clockText } from './timeText';

/** Seconds from a dive's start to its last sample. */
export const lengthOf = (log: DiveLog): number => log.samples[log.samples.length - 1].seconds;

const deepestOf = (log: DiveLog): string =>
  `${log.samples.reduce((most, s) => Math.max(most, s.metres), 0).toFixed(1)} m`;

/** A dive on one line: start, or number if unknown; depth and duration. */
export function diveTitle(log: DiveLog, number: number): string {
  const when = log.startedAt?.replace('T', ' ').slice(0, 16) ?? `Dive ${number}`;
  return `${when} · ${deepestOf(log)} · ${clockText(lengthOf(log))}`;
}

/** A log's start as date and time; as it was written, if it is not in ISO 8601. */
function startText(startedAt: string): string {
  const [, day, time] = /^(\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01]))T(\d\d:\d\d)/.exec(startedAt) ?? [];
  return day ? `${dayText(day)}, ${time}` : startedAt;
}

/** Duration and depth of a dive, and its start if known. */
export function diveInWords(log: DiveLog): string {
  const when = log.startedAt ? `, ${startText(log.startedAt)}` : '';
  return `${clockText(lengthOf(log))} long, down to ${deepestOf(log)}${when}`;
}
