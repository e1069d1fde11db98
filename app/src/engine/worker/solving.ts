import type { Mark } from '@inkavo/core/scopes/readings';
import { padSample, solvePad, type PadSample, type PadSolution } from '@inkavo/core/scopes/padSolver';
import { grabSample, solve, type Grab, type GrabSample, type Solution } from '@inkavo/core/scopes/solver';
import { measureMarks, type Chroma, type MarkColours } from '@inkavo/core/scopes/vectorscope';
import type { BandEdges } from '@inkavo/core/steps/bands/weights';
import { readPixels } from './chosenPixels';
import { received, type Moment, type Stamped } from './frame';
import { measuredFrame } from './measuredFrame';

/** Solves for the numbers that put a grabbed part of a trace, or a mark on the pad, where it was released. */
export const solvingApi = {
  /** Positions of the marks over every pixel of the graded frame. */
  marks(sent: Stamped, edges: BandEdges): MarkColours | null {
    const from = received(sent);
    const frame = measuredFrame();
    return frame ? measureMarks(readPixels(frame, from, false).graded, edges) : null;
  },

  /** Sample of pixels that represents the frame while a mark is dragged on the pad. */
  grabMark(sent: Stamped, mark: Mark, edges: BandEdges): PadSample | null {
    const from = received(sent);
    const frame = measuredFrame();
    if (!frame) return null;
    const { graded, code, planes } = readPixels(frame, from, false);
    return padSample(code, graded, mark, edges, planes());
  },

  /** The colour of a band that puts its mark where it was released. */
  solveMark(sample: PadSample, { steps, seconds }: Moment, stepId: string, target: Chroma): PadSolution {
    return solvePad(sample, steps, stepId, target, seconds);
  },

  /** The pixels around a grabbed part of the trace. */
  grab(sent: Stamped, part: Grab): GrabSample | null {
    const from = received(sent);
    const frame = measuredFrame();
    if (!frame) return null;
    // Every pixel: at a steep edge of the distribution, a few ranks are many levels.
    const { graded, code, planes } = readPixels(frame, from, false);
    return grabSample(code, graded, part, planes());
  },

  /** The value of a step's number that puts a grabbed part where it was released. */
  solve(sample: GrabSample, { steps, seconds }: Moment, stepId: string, key: string, target: number): Solution {
    return solve(sample, steps, stepId, key, target, seconds);
  },
};
