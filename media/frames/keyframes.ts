import { fps } from '@inkavo/core/model/facts';
import { seekArgs, seekSeconds } from '../codec/formats';
import { conformFilters, isInterlaced } from '../codec/conform';
import { originalIndex, type Source } from './rest';

/**
 * Whether keyframes of a file can be decoded alone: not if deinterlacing needs adjacent frames, nor if frames must be
 * counted from the first.
 */
export const hasKeyframes = ({ facts, keys }: Source): boolean =>
  (keys?.length ?? 0) > 0 && !isInterlaced(facts) && facts.seekAhead < facts.durationSeconds;

/** Frame of the clip's even timeline at which a frame of the original is shown; undefined if it is skipped. */
export function timelineFrame(source: Source, index: number): number | undefined {
  if (!source.facts.variableRate) return index;
  const frame = Math.round(source.times[index] * fps(source.facts));
  return [frame - 1, frame, frame + 1].find((n) => n >= 0 && originalIndex(source, n) === index);
}

/** The last keyframe at or before an index, where decoding must begin. 0 if none is known. */
export function keyBefore({ keys = [] }: Source, index: number): number {
  const after = keys.findIndex((k) => k > index);
  return keys.at(after < 0 ? -1 : after - 1) ?? 0;
}

/** Input arguments for decoding keyframes only. Before an `-i`. */
export const KEYFRAMES_ONLY = ['-skip_frame', 'nokey'];

/**
 * Input arguments so that, of keyframes only, exactly the one at an index is decoded; undefined if the decoder would
 * choose another.
 */
export function decodingKeyframe({ facts, times }: Source, index: number): { seek: string[]; filters: string[] } {
  const frame = 1 / fps(facts);
  const around = (seconds: number): string =>
    `trim=start=${Math.max(0, seconds - frame / 4).toFixed(6)}:end=${(seconds + frame / 4).toFixed(6)}`;
  const conform = conformFilters(facts);
  if (facts.seekAhead === 0) {
    const at = seekSeconds(times, index, frame);
    // Time stamps are relative to the seek position, or without a seek to the file's first frame.
    const counted = at > 0 ? [] : ['setpts=PTS-STARTPTS'];
    return { seek: seekArgs(facts, at), filters: [...counted, around(times[index] - at), ...conform] };
  }
  // By time stamps alone: in these containers a seek may land anywhere before.
  const at = Math.max(0, times[index] - facts.seekAhead);
  return at > 0
    ? { seek: seekArgs(facts, at), filters: [around(times[index] - at), ...conform] }
    : { seek: [], filters: ['setpts=PTS-STARTPTS', around(times[index]), ...conform] };
}
