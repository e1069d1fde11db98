import { z } from 'zod';
import type { MediaFacts } from './facts';
import { simplify } from './simplify';

/** Samples of one dive. */
export const diveSampleSchema = z.object({
  /** Seconds from the start of the dive. */
  seconds: z.number().min(0).max(1e6),
  /** Depth in metres. */
  metres: z.number().min(0).max(400),
  /** Water temperature, degrees Celsius. */
  celsius: z.number().min(-10).max(60).optional(),
});

/** The part of a dive log that a clip needs. */
export const diveLogSchema = z.object({
  name: z.string().max(120),
  /** Start of the dive, as stated in the file. */
  startedAt: z.string().max(40).nullable(),
  samples: z
    .array(diveSampleSchema)
    .min(1)
    .max(20_000)
    .refine((s) => s.every((v, i) => i === 0 || v.seconds > s[i - 1].seconds), 'Times of a dive log must rise.'),
});
export type DiveLog = z.infer<typeof diveLogSchema>;

/** A clip's dive log: `offset` is the second of the dive at which the clip begins. */
export const clipDiveSchema = z.object({ log: diveLogSchema, offset: z.number().min(-1e6).max(1e6) });
export type ClipDive = z.infer<typeof clipDiveSchema>;

/** Depth in metres at a second of the dive: linear between samples, constant before the first and after the last. */
export function depthAt({ samples }: DiveLog, seconds: number): number {
  if (seconds <= samples[0].seconds) return samples[0].metres;
  let [low, high] = [0, samples.length - 1];
  if (seconds >= samples[high].seconds) return samples[high].metres;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (samples[middle].seconds <= seconds) low = middle;
    else high = middle;
  }
  const [a, b] = [samples[low], samples[high]];
  return a.metres + ((b.metres - a.metres) * (seconds - a.seconds)) / (b.seconds - a.seconds);
}

/** Milliseconds of a wall-clock time, ignoring its zone. */
const wallClock = (time: string): number => Date.parse(`${time.replace(/(Z|[+-]\d\d:?\d\d)$/, '')}Z`);

/**
 * The second of a dive at which a clip recorded at a given time begins, by both clocks; null where the time is not
 * within the log. If zones do not match, wall-clock times are compared: cameras without a zone write local time as if
 * it were UTC (common practice).
 */
export function clipBegins({ startedAt, samples }: DiveLog, recordedAt: string | null): number | null {
  const [recorded, started] = [recordedAt ?? '', startedAt ?? ''];
  const meets = (ms: number): boolean => ms >= 0 && ms / 1000 < samples[samples.length - 1].seconds;
  const found = [Date.parse(recorded) - Date.parse(started), wallClock(recorded) - wallClock(started)].find(meets);
  return found === undefined ? null : found / 1000;
}

/** The dive during which a clip was recorded, by both clocks; undefined where none, or more than one, matches. */
export function diveAround(dives: readonly DiveLog[], recordedAt: string | null): DiveLog | undefined {
  const met = dives.filter((log) => clipBegins(log, recordedAt) !== null);
  return met.length === 1 ? met[0] : undefined;
}

/**
 * A clip's dive log transferred to another clip by the difference of their recording times. Null where a time is
 * unknown, or the log does not cover the other clip.
 */
export function sameDive(
  { log, offset }: ClipDive,
  recordedAt: string | null,
  other: Pick<MediaFacts, 'recordedAt' | 'durationSeconds'>,
): ClipDive | null {
  const later = (Date.parse(other.recordedAt ?? '') - Date.parse(recordedAt ?? '')) / 1000;
  const begins = offset + later;
  const [first, last] = [log.samples[0].seconds, log.samples[log.samples.length - 1].seconds];
  return begins >= first && begins + other.durationSeconds <= last ? { log, offset: begins } : null;
}

/** Tolerance in metres. */
const TOLERANCE = 0.02;

/**
 * Keyframes for depth over a clip of this many seconds: the log's samples simplified within {@link TOLERANCE}
 * (Ramer–Douglas–Peucker).
 */
export function depthKeys(
  { log, offset }: ClipDive,
  clipSeconds: number,
): { seconds: number; value: number; ease: 'linear' }[] {
  const inside = log.samples.map((s) => s.seconds - offset).filter((t) => t > 0 && t < clipSeconds);
  const points = [0, ...inside, clipSeconds].map((seconds) => ({ seconds, value: depthAt(log, seconds + offset) }));
  const needed = simplify(points, (from, to, { seconds, value }) => {
    const share = (seconds - from.seconds) / (to.seconds - from.seconds);
    return Math.abs(value - from.value - share * (to.value - from.value)) / TOLERANCE;
  });
  return needed.map((p) => ({ ...p, ease: 'linear' as const }));
}
