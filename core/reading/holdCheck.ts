import type { Step } from '../model/grade';
import { pictureToRgb } from '../program/cpu/gradePicture';
import { fileEnds, type FileEnds } from '../scopes/statistics';
import {
  excessOf,
  HOLD_KINDS,
  Measurer,
  mediansOf,
  troubleText,
  type HoldFrame,
  type HoldKind,
  type HoldMoment,
} from './holdMeasures';
import type { Own } from './holdMends';
import { percentile } from './readFrames';
import { mendsFor, type HoldMend } from './tryMends';

/** Number of frames, spread over a clip, on which a hold check is based. */
export const HOLD_FRAMES = 48;

/** A stretch of the clip in which a limit is exceeded, with its worst frame and a description. */
export interface HoldTrouble {
  kind: HoldKind;
  fromFrame: number;
  toFrame: number;
  worstFrame: number;
  text: string;
}

export interface HoldReport {
  moments: HoldMoment[];
  troubles: HoldTrouble[];
  mends: HoldMend[];
}

function troublesOf(moments: readonly HoldMoment[]): HoldTrouble[] {
  const middle = mediansOf(moments);
  return HOLD_KINDS.flatMap((kind) => {
    const found: HoldTrouble[] = [];
    let run: HoldMoment[] = [];
    const close = (): void => {
      if (run.length === 0) return;
      const worst = run.reduce((a, b) => (excessOf(kind, b, middle) > excessOf(kind, a, middle) ? b : a));
      found.push({
        kind,
        fromFrame: run[0].frame,
        toFrame: run[run.length - 1].frame,
        worstFrame: worst.frame,
        text: troubleText(kind, worst, middle),
      });
      run = [];
    };
    for (const m of moments) {
      if (excessOf(kind, m, middle) > 0) run.push(m);
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
  frames: readonly HoldFrame[],
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
function clipEnds(frames: readonly HoldFrame[]): FileEnds {
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
