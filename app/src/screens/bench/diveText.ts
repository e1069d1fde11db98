import type { DiveLog } from '@inkavo/core/model/diveLog';
import { clockText } from './timeText';

/** Seconds from a dive's start to its last sample. */
export const lengthOf = (log: DiveLog): number => log.samples[log.samples.length - 1].seconds;

/** How long and how deep a dive was, and when it began where that is known. */
export function diveInWords(log: DiveLog): string {
  const deepest = log.samples.reduce((most, s) => Math.max(most, s.metres), 0);
  const when = log.startedAt ? `, ${log.startedAt.replace('T', ' ')}` : '';
  return `${clockText(lengthOf(log))} long, down to ${deepest.toFixed(1)} m${when}`;
}
