import type { DiveLog } from '@inkavo/core/model/diveLog';
import { clockText } from './timeText';

/** Seconds from a dive's start to its last sample. */
export const lengthOf = (log: DiveLog): number => log.samples[log.samples.length - 1].seconds;

const deepestOf = (log: DiveLog): string =>
  `${log.samples.reduce((most, s) => Math.max(most, s.metres), 0).toFixed(1)} m`;

/** One of several dives on a line: when it began, or its number where that is not known; how deep and how long it was. */
export function diveTitle(log: DiveLog, number: number): string {
  const when = log.startedAt?.replace('T', ' ').slice(0, 16) ?? `Dive ${number}`;
  return `${when} · ${deepestOf(log)} · ${clockText(lengthOf(log))}`;
}

/** How long and how deep a dive was, and when it began where that is known. */
export function diveInWords(log: DiveLog): string {
  const when = log.startedAt ? `, ${log.startedAt.replace('T', ' ')}` : '';
  return `${clockText(lengthOf(log))} long, down to ${deepestOf(log)}${when}`;
}
