import type { MediaFacts } from '../../model/facts';
import { placeShots, type Placed, type Shot } from '../../model/film';
import type { Cdl } from '../cdl';

type Rate = MediaFacts['frameRate'];

/** Something worth a look in a clip. */
export interface CutMarker {
  /** Frame of the clip's recording. */
  frame: number;
  frames: number;
  name: string;
}

/** One clip as a timeline has it. */
export interface CutClip {
  name: string;
  /** Path of its original, relative to the timeline, with / between folders. */
  path: string;
  rate: Rate;
  /** Frames that the original has. */
  frames: number;
  /** Time code of its first frame, in frames of its rate; 0 where it has none. */
  start: number;
  /** Whether its time code is in drop-frame counting. */
  drop: boolean;
  inFrame: number;
  outFrame: number;
  /** Times the recorded speed. */
  factor: number;
  camera: string;
  /** Its grade as a CDL, as far as it goes. */
  cdl: Cdl;
  /** Steps that a CDL cannot hold. */
  lost: string[];
  /** Titles of the tables that its steps use. */
  luts: string[];
  markers: CutMarker[];
}

/** Clips in order, with straight cuts or dissolves: what a film is made from, and a timeline holds. */
export interface CutList {
  name: string;
  rate: Rate;
  /** Seconds over which each clip gives way to the next; 0: straight cuts. */
  dissolve: number;
  clips: CutClip[];
}

export const shotOf = (clip: CutClip): Shot => ({
  facts: { width: 2, height: 2, frameRate: clip.rate },
  inFrame: clip.inFrame,
  outFrame: clip.outFrame,
  retime: clip.factor === 1 ? null : { factor: clip.factor, rate: null, between: 'nearest', sound: 'follows' },
});

/** A clip in frames of the timeline: what stands between the middles of the dissolves on either side. */
export interface CutPlace extends Placed {
  /** Frames of the dissolves before and behind it that lie in it. */
  before: number;
  behind: number;
}

/** Where clips stand. A dissolve is cut in its middle; the earlier half of an odd number of frames is the shorter. */
export function placesOf(list: CutList): CutPlace[] {
  const placed = placeShots(list.clips.map(shotOf), list.rate, list.dissolve);
  return placed.map((p, k) => {
    const next = placed[k + 1]?.dissolve ?? 0;
    const before = p.dissolve - (p.dissolve >> 1);
    // What is cut off at the front: the half that the clip before keeps.
    const head = p.dissolve >> 1;
    const tail = next - (next >> 1);
    return { start: p.start + head, frames: p.frames - head - tail, dissolve: p.dissolve, before, behind: next >> 1 };
  });
}
