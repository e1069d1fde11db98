import type { Step } from '../model/grade';
import { pictureToRgb } from '../program/cpu/gradePicture';
import { fileEnds, type FileEnds } from '../scopes/statistics';
import { beyond, HELD, Measurer, middleOf, sentence, type HeldFrame, type HeldKind, type HeldMoment } from './held';
import type { Own } from './holdMends';
import { percentile } from './readFrames';
import { mendsFor, type HeldMend } from './tryMends';

/** Number of frames, spread over a clip, on which a hold check is based. */
export const HOLD_FRAMES = 48;

/** A stretch of the clip in which a limit is exceeded, with its worst frame and a description. */
export interface HeldTrouble {
  kind: HeldKind;
  fromFrame: number;
  toFrame: number;
  worstFrame: number;
  text: string;
}

export interface HoldReport {
  moments: HeldMoment[];
  troubles: HeldTrouble[];
  mends: HeldMend[];
}

function troublesOf(moments: readonly HeldMoment[]): HeldTrouble[] {
  const middle = middleOf(moments);
  return HELD.flatMap((kind) => {
    const found: HeldTrouble[] = [];
    let run: HeldMoment[] = [];
    const close = (): void => {
      if (run.length === 0) return;
      const worst = run.reduce((a, b) => (beyond(kind, b, middle) > beyond(kind, a, middle) ? b : a));
      found.push({
        kind,
        fromFrame: run[0].frame,
        toFrame: run[run.length - 1].frame,
        worstFrame: worst.frame,
        text: sentence(kind, worst, middle),
      });
      run = [];
    };
    for (const m of moments) {
      if (beyond(kind, m, middle) > 0) run.push(m);
      else close();
    }
    close();
    return found;
  });
}

/**
 * Checks whether a grade holds over a clip: every given frame is graded and measured; exceeded limits are reported, and
 * possible mends are tried on the worst frame. `own` tells which steps may be changed; null: no mends are tried.
 * `onProgress` is called with the number of frames done.
 */
export function holdCheck(
  frames: readonly HeldFrame[],
  steps: readonly Step[],
  own: Own | null = () => true,
  onProgress?: (done: number) => void,
): HoldReport {
  const ends = clipEnds(frames);
  const measurer = new Measurer(steps, ends);
  const moments = frames.map((f, i) => {
    const moment = measurer.measure(f);
    onProgress?.(i + 1);
    return moment;
  });
  return { moments, troubles: troublesOf(moments), mends: own ? mendsFor(frames, moments, ends, steps, own) : [] };
}

/** Code values at which the file is clipped, as the median over frames. */
function clipEnds(frames: readonly HeldFrame[]): FileEnds {
  const ends = frames.map((f) => fileEnds(pictureToRgb(undefined, f.picture)));
  const of = (values: number[], none: number): number => {
    const found = values.filter((v) => Number.isFinite(v));
    return found.length === 0 ? none : percentile(found, 0.5);
  };
  return {
    low: of(
      ends.map((e) => e.low),
      -Infinity,
    ),
    high: of(
      ends.map((e) => e.high),
      Infinity,
    ),
  };
}
