import type { MediaFacts } from '@inkavo/core/model/facts';
import { DECODE_LIMITS, PICTURES } from './limits';
import { QUIET, run, SAFE_INPUT, type RunOptions } from './run';

export type Fields = MediaFacts['fields'];

/** Number of frames analysed. */
const LOOKED_AT = 60;

/** The first field according to the tag; undefined: progressive. */
export function taggedFields(tag: string | undefined): Exclude<Fields, 'progressive'> | undefined {
  if (!tag || tag === 'progressive' || tag === 'unknown') return undefined;
  // Writers disagree on the meaning of "tb" and "bt"; high-definition cameras begin with the top field (common
  // practice).
  return tag === 'bb' ? 'bottomFirst' : 'topFirst';
}

/**
 * Detects the scan of a file that is tagged as interlaced from its pictures: cameras also write progressive frames with
 * such a tag (segmented frames), and writers confuse the field order. Uses the codec library's detector (`idet`) on
 * frames from the middle of the clip; where nothing moves, the tag is trusted. `seconds`: position of the frames.
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
