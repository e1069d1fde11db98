import type { MediaFacts } from '@inkavo/core/model/facts';
import { DECODE_LIMITS, PICTURES } from './limits';
import { QUIET, run, SAFE_INPUT, type RunOptions } from './run';

export type Fields = MediaFacts['fields'];

/** Frames that are looked at. */
const LOOKED_AT = 60;

/** By its tag, the field that comes first; undefined: progressive. */
export function taggedFields(tag: string | undefined): Exclude<Fields, 'progressive'> | undefined {
  if (!tag || tag === 'progressive' || tag === 'unknown') return undefined;
  // "tb" and "bt" are told apart by writers in both ways; high-definition cameras begin with the top one (common practice).
  return tag === 'bb' ? 'bottomFirst' : 'topFirst';
}

/**
 * Scan of a file that is tagged as interlaced, by its pictures: cameras also write progressive frames under such a tag (segmented
 * frames), and writers mix up the order of the fields. Judged by the codec library's detector (`idet`) over frames from the
 * middle of the clip; where nothing moves, so that it cannot be told, the tag is believed. `seconds`: where to look.
 */
export async function seenFields(
  path: string,
  tagged: Exclude<Fields, 'progressive'>,
  seconds: number,
  options: RunOptions,
): Promise<Fields> {
  const out = await run(
    'ffmpeg',
    [
      ...[...QUIET, ...DECODE_LIMITS, ...SAFE_INPUT, '-ss', Math.max(0, seconds).toFixed(3), '-i', path],
      ...['-map', `0:${PICTURES}`, '-an', '-frames:v', String(LOOKED_AT)],
      ...['-vf', 'idet,metadata=mode=print:file=-', '-f', 'null', '-'],
    ],
    { signal: options.signal, timeoutMs: options.timeoutMs },
  );
  const count = (what: string): number =>
    Number([...out.toString().matchAll(new RegExp(`idet\\.multiple\\.${what}=([\\d.]+)`, 'g'))].at(-1)?.[1] ?? 0);
  const [top, bottom, whole] = ['tff', 'bff', 'progressive'].map(count);
  if (top + bottom + whole === 0) return tagged;
  if (whole > top + bottom) return 'progressive';
  return bottom > top ? 'bottomFirst' : 'topFirst';
}
