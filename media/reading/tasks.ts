import { findCorners, type FoundCorners, type LightFrame } from '@inkavo/core/reading/findCorners';
import { firstPass, type FirstPass, type Known } from '@inkavo/core/reading/firstPass';
import { noiseOf } from '@inkavo/core/reading/noise';
import { noiseSeen, type PredictedNoise } from '@inkavo/core/reading/noiseAfter';
import { holdCheck, type HoldReport } from '@inkavo/core/reading/holdCheck';
import { fileReading, type FileReading } from '@inkavo/core/reading/fileReading';
import type { Sight } from '@inkavo/core/reading/recognise';
import { squaresOf } from '@inkavo/core/match/colours';
import { matchTo, type Match } from '@inkavo/core/match/matchTo';
import type { Profile } from '@inkavo/core/model/profile';
import { readFrame } from '@inkavo/core/reading/readFrames';
import { clockByColour, type ClockFit } from '@inkavo/core/reading/waterClock';
import { downsample, type SmallPicture } from '@inkavo/core/fields/smallPicture';
import { LUMINANCE } from '@inkavo/core/colour/primaries';
import { decode709 } from '@inkavo/core/colour/transferTables';
import { compile } from '@inkavo/core/program/compile';
import { Baker } from '@inkavo/core/program/baker';
import { planesFor, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import type { DiveLog } from '@inkavo/core/model/diveLog';
import type { Step } from '@inkavo/core/model/grade';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { levelOf, middleOf, type Stack } from '../frames/noise';
import type { ReadPicture } from './clipFrames';

/** Pictures of a clip, and the steps applied to them. */
export interface Graded {
  pictures: ReadPicture[];
  steps: Step[];
}

/** A frame with its neighbours, and its time. */
export interface Around {
  stack: Stack;
  seconds: number;
}

/** Readings of a clip's pictures, each done in a separate thread. */
export type ReadTask =
  | {
      kind: 'firstPass';
      pictures: ReadPicture[];
      given: Step[];
      known: Known;
      /** Whether alternatives to the best explanation are computed. */
      others: boolean;
      luts: Record<string, string>;
    }
  | { kind: 'holdCheck'; pictures: ReadPicture[]; steps: Step[]; own: string[] | null; luts: Record<string, string> }
  | { kind: 'noiseSeen'; around: Around; steps: Step[]; luts: Record<string, string> }
  | { kind: 'corners'; stretches: ReadPicture[][]; steps: Step[]; luts: Record<string, string> }
  | { kind: 'match'; source: Graded; reference: Graded; like: string; luts: Record<string, string> }
  | { kind: 'waterClock'; pictures: ReadPicture[]; log: DiveLog }
  | {
      kind: 'fileReading';
      pictures: ReadPicture[];
      profiles: Profile[];
      depth: number;
      tag: string | null;
      otherClips: Sight[];
    };

export interface ReadAnswers {
  firstPass: FirstPass;
  holdCheck: HoldReport;
  noiseSeen: PredictedNoise | null;
  corners: FoundCorners;
  match: Match;
  waterClock: ClockFit | null;
  fileReading: FileReading;
}

/** Messages before the answer: the best explanation of a first pass, or the number of pictures done. */
export interface TaskMessages extends Record<Exclude<ReadTask['kind'], 'firstPass'>, number> {
  firstPass: FirstPass;
}

/** Stride of the pictures in which noise is measured. */
const NOISE_EVERY = 6;

/** Runs a task; `onMessage` receives its messages. */
export function doTask<T extends ReadTask>(
  task: T,
  onMessage?: (message: TaskMessages[T['kind']]) => void,
): ReadAnswers[T['kind']] {
  if ('luts' in task) for (const [id, text] of Object.entries(task.luts)) provideLut(id, text);
  return answer(task, onMessage as (message: unknown) => void) as ReadAnswers[T['kind']];
}

function answer(task: ReadTask, onMessage?: (message: unknown) => void): ReadAnswers[keyof ReadAnswers] {
  switch (task.kind) {
    case 'firstPass': {
      // Noise is a property of the clip: a few frames suffice. Frames are downsampled when needed: many are not.
      const frames = task.pictures.map(({ picture, seconds }, i) => {
        let small: SmallPicture | undefined;
        return {
          get small() {
            return (small ??= downsample(picture));
          },
          seconds,
          ...(i % NOISE_EVERY === 0 ? { noise: noiseOf(picture) } : {}),
        };
      });
      return firstPass(frames, task.given, task.known, {
        others: task.others,
        onBest: onMessage,
      });
    }
    case 'noiseSeen':
      return seenIn(task.around, task.steps);
    case 'holdCheck': {
      const { own } = task;
      return holdCheck(task.pictures, task.steps, own && ((id) => own.includes(id)), onMessage);
    }
    case 'corners':
      return cornersOf(task.stretches, task.steps);
    case 'match':
      return matchTo(coloursOf(task.source), coloursOf(task.reference), task.like);
    case 'fileReading':
      return fileReading(task.pictures, task.profiles, task);
    case 'waterClock':
      return clockByColour(
        task.pictures.map((p) => readFrame(downsample(p.picture))),
        task.pictures.map((p) => p.seconds - task.pictures[0].seconds),
        task.log,
      );
  }
}

/** The noise of a frame after steps; null if it cannot be measured. */
function seenIn({ stack, seconds }: Around, steps: readonly Step[]): PredictedNoise | null {
  const level = levelOf(stack);
  return level && noiseSeen({ small: downsample(middleOf(stack)), seconds }, steps, level, stack.format);
}

/** Nodes per edge of the tables applied to pictures. */
const TABLE = 33;

/** Applies steps to pictures of a clip: to encoded R'G'B' (width × height × 3). */
function grader(steps: readonly Step[]): (picture: ReadPicture) => Float32Array {
  // Caches tables: constant steps are baked once for all pictures.
  const baker = new Baker();
  return ({ picture, seconds }) => {
    const planes = planesFor(compile(steps, seconds), picture);
    return pictureToRgb({ ops: baker.bake(steps, seconds, TABLE), planes }, picture);
  };
}

/** Colours of a clip after its steps. */
function coloursOf({ pictures, steps }: Graded): Float32Array {
  const graded = grader(steps);
  return squaresOf(
    pictures.map((p) => ({ rgb: graded(p), width: p.picture.format.width, height: p.picture.format.height })),
  );
}

/** Measures vignetting in pictures after some steps. */
function cornersOf(stretches: readonly (readonly ReadPicture[])[], steps: readonly Step[]): FoundCorners {
  const graded = grader(steps);
  return findCorners(stretches.map((stretch) => stretch.map((p) => lightFrame(graded(p), p.picture.format))));
}

/** Luminance in linear light of encoded R'G'B', averaged over four pixels. */
function lightFrame(rgb: Float32Array, { width: across, height: down }: PlanarFormat): LightFrame {
  const [width, height] = [across >> 1, down >> 1];
  const light = new Float32Array(width * height);
  for (let y = 0; y < 2 * height; y += 1)
    for (let x = 0; x < 2 * width; x += 1) {
      const o = 3 * (y * across + x);
      const sum = LUMINANCE.reduce((s, share, c) => s + share * decode709(rgb[o + c]), 0);
      light[(y >> 1) * width + (x >> 1)] += sum / 4;
    }
  return { width, height, light };
}
