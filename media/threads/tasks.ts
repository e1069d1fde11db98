import { gzipSync } from 'node:zlib';
import jpeg from 'jpeg-js';
import { CannotFollow, followStretch, type Stretch, type StretchAnswer } from '@inkavo/core/follow/stretch';
import { FormatError } from '@inkavo/core/formats/error';
import { gradeFile as written, type GradeFile, type GradeFileRequest } from '@inkavo/core/formats/gradeFile';
import { readShelfFile, type ShelfFile } from '@inkavo/core/formats/shelfFile';
import { downsample } from '@inkavo/core/fields/smallPicture';
import type { Step } from '@inkavo/core/model/grade';
import { REST_SIZE } from '@inkavo/core/program/bake';
import { compile } from '@inkavo/core/program/compile';
import { bakeFor, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { packSamples } from '@inkavo/core/program/cpu/packedSamples';
import type { PlanarPicture } from '@inkavo/core/program/cpu/planar';
import {
  castReadings,
  clippingReading,
  isUnflattened,
  rangeReading,
  saturationReading,
} from '@inkavo/core/scopes/readings';
import { fileEnds, measure } from '@inkavo/core/scopes/statistics';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { reducedOf, type NoiseTask } from '../frames/noise';
import { doTask, type ReadAnswers, type ReadTask, type TaskMessages } from '../reading/tasks';

/** Grades a picture and encodes it as JPEG, for a thumbnail. */
export interface PictureTask {
  kind: 'picture';
  picture: PlanarPicture;
  steps: Step[];
  luts: Record<string, string>;
  seconds: number;
}

/** Grades a picture as exactly as an export, for a still. */
export interface StillTask extends Omit<PictureTask, 'kind'> {
  kind: 'still';
}

/** Statistics of a picture, as recorded and graded. */
export interface ReadingsTask extends Omit<PictureTask, 'kind'> {
  kind: 'readings';
}

/** Reads a shelf file. */
export interface ShelfFileTask {
  kind: 'shelfFile';
  text: string;
  name: string;
}

/** Writes a grade in an open format. */
export interface GradeFileTask {
  kind: 'gradeFile';
  steps: Step[];
  luts: Record<string, string>;
  request: GradeFileRequest;
}

/** Averages a picture over cells: the input of planes. */
export interface CellsTask {
  kind: 'cells';
  picture: PlanarPicture;
}

/** Packs the samples of a 16-bit picture for a network. */
export interface PackTask {
  kind: 'pack';
  samples: Uint16Array;
  /** Samples per row. */
  width: number;
}

/** Follows a shape through a stretch of frames. */
export interface FollowTask {
  kind: 'follow';
  stretch: Stretch;
  from: Parameters<typeof followStretch>[1];
}

export type Task =
  | ReadTask
  | PictureTask
  | StillTask
  | ReadingsTask
  | ShelfFileTask
  | GradeFileTask
  | CellsTask
  | PackTask
  | FollowTask
  | NoiseTask;

export interface Answers extends ReadAnswers {
  /** A JPEG. */
  picture: Uint8Array;
  /** Encoded R'G'B', three values per pixel, not clipped. */
  still: Float32Array;
  /** Sentences. */
  readings: { before: string[]; after: string[] };
  /** R'G'B' of each cell. */
  cells: Float32Array;
  noise: PlanarPicture;
  /** Compressed with gzip. */
  pack: Uint8Array;
  shelfFile: ShelfFile | { problem: string };
  gradeFile: GradeFile | { problem: string };
  follow: StretchAnswer | { problem: string };
}

/** Messages of a task before its answer. */
export type MessageOf<K extends Task['kind']> = K extends keyof TaskMessages ? TaskMessages[K] : never;

/** Nodes per edge of a table for thumbnails. */
const THUMB_TABLE = 17;
/** JPEG quality, 1–100: no visible blocks at the size of a tile. */
const THUMB_QUALITY = 88;
const READ_TABLE = 33;
/** Gzip level: higher ones save a few percent and take several times as long. */
const QUICKLY = 1;

function still({ picture, steps, luts, seconds }: StillTask): Float32Array {
  for (const [id, text] of Object.entries(luts)) provideLut(id, text);
  return pictureToRgb(bakeFor(compile(steps, seconds), picture, REST_SIZE), picture);
}

function readings({ picture, steps, luts, seconds }: ReadingsTask): Answers['readings'] {
  for (const [id, text] of Object.entries(luts)) provideLut(id, text);
  const code = pictureToRgb(undefined, picture);
  const ends = fileEnds(code);
  const say = (graded: Float32Array, unflattened: boolean): string[] => {
    const numbers = measure(graded, code, ends);
    const list = [clippingReading(numbers), rangeReading(numbers, unflattened), ...castReadings(numbers).slice(0, 1)];
    return [...list, saturationReading(numbers)].map((r) => r.text);
  };
  return {
    before: say(code, false),
    after: say(pictureToRgb(bakeFor(compile(steps, seconds), picture, READ_TABLE), picture), isUnflattened(steps)),
  };
}

function gradedPicture({ picture, steps, luts, seconds }: PictureTask): Uint8Array {
  for (const [id, text] of Object.entries(luts)) provideLut(id, text);
  const rgb = pictureToRgb(bakeFor(compile(steps, seconds), picture, THUMB_TABLE), picture);
  const { width, height } = picture.format;
  // The encoder takes four bytes per pixel, the last unused.
  const data = new Uint8ClampedArray(width * height * 4);
  for (let i = 0; i < width * height; i += 1) for (let c = 0; c < 3; c += 1) data[4 * i + c] = rgb[3 * i + c] * 255;
  return jpeg.encode({ data: new Uint8Array(data.buffer), width, height }, THUMB_QUALITY).data;
}

/** A task's answer, or the problem with its file or grade. */
function orProblem<T>(work: () => T): T | { problem: string } {
  try {
    return work();
  } catch (error) {
    if (error instanceof FormatError) return { problem: error.message };
    throw error;
  }
}

function gradeFile({ steps, luts, request }: GradeFileTask): GradeFile {
  for (const [id, text] of Object.entries(luts)) provideLut(id, text);
  return written(steps, request);
}

function follow({ stretch, from }: FollowTask): Answers['follow'] {
  try {
    return followStretch(stretch, from);
  } catch (error) {
    if (error instanceof CannotFollow) return { problem: error.message };
    throw error;
  }
}

/** Runs a task in the calling thread; `onMessage` receives its messages. */
export function perform<T extends Task>(
  task: T,
  onMessage?: (message: MessageOf<T['kind']>) => void,
): Answers[T['kind']] {
  const answer = (): Answers[Task['kind']] => {
    if (task.kind === 'picture') return gradedPicture(task);
    if (task.kind === 'still') return still(task);
    if (task.kind === 'readings') return readings(task);
    if (task.kind === 'cells') return downsample(task.picture).code;
    if (task.kind === 'noise') return reducedOf(task);
    if (task.kind === 'pack') return gzipSync(packSamples(task.samples, task.width), { level: QUICKLY });
    if (task.kind === 'follow') return follow(task);
    if (task.kind === 'gradeFile') return orProblem(() => gradeFile(task));
    if (task.kind === 'shelfFile') return orProblem(() => readShelfFile(task.text, task.name));
    return doTask(task, onMessage as (message: unknown) => void);
  };
  return answer() as Answers[T['kind']];
}
