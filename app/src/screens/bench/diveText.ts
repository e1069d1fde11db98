import type { DiveLog } from '@inkavo/core/model/diveLog';
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

/** Duration and depth of a dive, and its start if known. */
export function diveInWords(log: DiveLog): string {
  const when = log.startedAt ? `, ${log.startedAt.replace('T', ' ')}` : '';
  return `${clockText(lengthOf(log))} long, down to ${deepestOf(log)}${when}`;
}
