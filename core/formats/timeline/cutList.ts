import type { MediaFacts } from '../../model/facts';
import { placeShots, type Placed, type Shot } from '../../model/film';
import type { Cdl } from '../cdl';

type Rate = MediaFacts['frameRate'];

/** A marked moment in a clip. */
export interface CutMarker {
  /** Frame of the clip's recording. */
  frame: number;
  frames: number;
  name: string;
}

/** One clip of a timeline. */
export interface CutClip {
  name: string;
  /** Path of its original, relative to the timeline, with / as separator. */
  path: string;
  rate: Rate;
  /** Number of frames in the original. */
  frames: number;
  /** Time code of its first frame, in frames of its rate; 0 where it has none. */
  start: number;
  /** Whether its time code is in drop-frame counting. */
  drop: boolean;
  inFrame: number;
  outFrame: number;
  /** Speed relative to the recording. */
  factor: number;
  camera: string;
  /** The part of its grade that a CDL can express. */
  cdl: Cdl;
  /** Steps that a CDL cannot express. */
  lost: string[];
  /** Titles of the tables that its steps use. */
  luts: string[];
  markers: CutMarker[];
}

/** Clips in order, with cuts or dissolves: the source of a film or a timeline. */
export interface CutList {
  name: string;
  rate: Rate;
  /** Duration of the dissolves in seconds; 0: straight cuts. */
  dissolve: number;
  clips: CutClip[];
}

export const shotOf = (clip: CutClip): Shot => ({
  facts: { width: 2, height: 2, frameRate: clip.rate },
  inFrame: clip.inFrame,
  outFrame: clip.outFrame,
  retime: clip.factor === 1 ? null : { factor: clip.factor, rate: null, between: 'nearest', sound: 'follows' },
});

/** A clip in frames of the timeline, from the middle of the dissolve before it to the middle of the one after. */
export interface CutPlace extends Placed {
  /** Frames of the dissolves before and after it that lie within it. */
  before: number;
  behind: number;
}

/**
 * Positions of the clips. A dissolve is cut in its middle; of an odd number of frames the earlier half is the shorter.
 */
export function placesOf(list: CutList): CutPlace[] {
  const placed = placeShots(list.clips.map(shotOf), list.rate, list.dissolve);
  return placed.map((p, k) => {
    const next = placed[k + 1]?.dissolve ?? 0;
    const before = p.dissolve - (p.dissolve >> 1);
    // Trimmed at the front: the half of the dissolve that belongs to the clip before.
    const head = p.dissolve >> 1;
    const tail = next - (next >> 1);
    return { start: p.start + head, frames: p.frames - head - tail, dissolve: p.dissolve, before, behind: next >> 1 };
  });
}
