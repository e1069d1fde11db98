import type { Vec3 } from '@inkavo/core/colour/matrix';
import { LUMA } from '@inkavo/core/colour/ycbcr';
import { downsample, smallFrom, type SmallPicture } from '@inkavo/core/fields/smallPicture';
import type { Step } from '@inkavo/core/model/grade';
import type { BakedOp } from '@inkavo/core/program/baked';
import { compile, type Program } from '@inkavo/core/program/compile';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { REGION } from '@inkavo/core/regions/region';
import { planesOf, planeValues, samePlane, type Planes } from '@inkavo/core/program/planes';
import type { PixelPlanes } from '@inkavo/core/scopes/solver';
import { fileEnds, type FileEnds } from '@inkavo/core/scopes/statistics';
import { TablesReceived } from '../sentTables';
import { gradeCode } from './grading';

/** A grade at a time of a clip. */
export interface Moment {
  /** Resolved at that time, without keyframes. */
  steps: Step[];
  /** Seconds from the clip's first frame. */
  seconds: number;
  /** A region that has an op of its own in any case, so that its selection can be shown. */
  show?: string;
}

/** The ops of a grade (none: no effect), their planes of the frame, and a unique number. */
export interface Stamped {
  ops: readonly BakedOp[];
  planes: Planes;
  stamp: number;
  /** Requested nodes per edge; 0 if the grade has no effect. */
  size: number;
  /** Readings are limited to the selection of this region. */
  within?: string;
}

const tables = new TablesReceived();

/** Restores a grade packed by the page, see {@link TablesSent}. Call for each one, in order. */
export const received = <T extends Pick<Stamped, 'ops'>>(from: T): T => ({ ...from, ops: tables.unpack(from.ops) });

/** The frame on which everything is measured. */
export interface Frame {
  width: number;
  height: number;
  code: Float32Array;
  ends: FileEnds;
  small: SmallPicture;
  /** Luma weights of the file. */
  weights: Readonly<Vec3>;
  rough?: Pick<Pixels, 'code' | 'width' | 'height'>;
}

export interface Pixels {
  /** Encoded output of the grade, and the file's R'G'B' of the same pixels. */
  graded: Float32Array;
  code: Float32Array;
  width: number;
  height: number;
}

/** During a drag every third pixel of every third row is measured: responsiveness has priority. */
const ROUGH = 3;

function roughOf({ width, height, code }: Frame): Pick<Pixels, 'code' | 'width' | 'height'> {
  const [w, h] = [Math.ceil(width / ROUGH), Math.ceil(height / ROUGH)];
  const out = new Float32Array(w * h * 3);
  for (let y = 0, o = 0; y < h; y += 1)
    for (let x = 0, from = ROUGH * y * width * 3; x < w; x += 1, o += 3, from += 3 * ROUGH) {
      out[o] = code[from];
      out[o + 1] = code[from + 1];
      out[o + 2] = code[from + 2];
    }
  return { code: out, width: w, height: h };
}

/** The last fully graded pixels: a grab usually follows the trace that shows them. */
let whole: { frame: Frame; stamp: number; graded: Float32Array } | undefined;
/** Values of planes at every pixel, for the last requested planes. */
let lastValues: { frame: Frame; planes: Planes; values: PixelPlanes } | undefined;
/** The latest planes, still valid when later steps change. */
let lastPlanes: { small: SmallPicture; key: string; planes: Planes } | undefined;

const samePlanes = (a: Planes, b: Planes): boolean => a.length === b.length && a.every((p, k) => samePlane(p, b[k]));

/** Planes at every pixel of the frame, in the order of the planes. */
export function pixelPlanes(from: Frame, planes: Planes): PixelPlanes {
  if (!planes.some(Boolean)) return [];
  if (lastValues?.frame !== from || !samePlanes(lastValues.planes, planes)) {
    const values = planes.map((m) => m && planeValues(m, from.code, from.width, from.height, from.weights));
    lastValues = { frame: from, planes, values };
  }
  return lastValues.values;
}

/** The planes of a small picture for a grade at a time. */
export function planesFor(small: SmallPicture, { steps, seconds, show }: Moment): Planes {
  const program = compile(steps, seconds, show);
  if (program.planes.length === 0) return [];
  const key = JSON.stringify([seenSteps(steps, program), program.planes]);
  if (lastPlanes?.small !== small || lastPlanes.key !== key)
    lastPlanes = { small, key, planes: planesOf(program, small) };
  return lastPlanes.planes;
}

/** Dependencies of planes that are made from the picture: all steps up to the last one that has such a plane. */
function seenSteps(steps: readonly Step[], { planes }: Program): readonly Step[] {
  const last = planes.findLast((p) => p.kind === 'field');
  if (!last) return [];
  const end = steps.findIndex((s) => s.id === last.step);
  // Regions may appear anywhere in the list; the one that is shown has no step yet.
  return end < 0 ? steps : steps.filter((s, i) => i <= end || s.kind === REGION);
}

/** Graded pixels of the frame: all of them, or a ninth during a drag. */
export function gradedPixels(from: Frame, { ops, planes, stamp }: Stamped, rough: boolean): Pixels {
  const { code, width, height } = rough ? (from.rough ??= roughOf(from)) : from;
  if (ops.length === 0) return { graded: code, code, width, height };
  if (!rough && whole?.frame === from && whole.stamp === stamp) return { graded: whole.graded, code, width, height };
  const graded = gradeCode({ ops, planes }, code, width, height, from.weights);
  if (!rough && stamp >= 0) whole = { frame: from, stamp, graded };
  return { graded, code, width, height };
}

/** A frame's cells from the server, averaged over the file's own pixels, and the file's size. */
export interface CellsOfFile {
  code: Float32Array;
  width: number;
  height: number;
}

/** Prepares a still frame for measuring. Without the file's cells, those of the picture are used. */
export function frameOf(buffer: ArrayBuffer, format: PlanarFormat, cells?: CellsOfFile): Frame {
  const picture = planesOver(buffer, format);
  const code = pictureToRgb(undefined, picture);
  const { width, height, matrix } = format;
  const weights = LUMA[matrix];
  const small = cells ? smallFrom(cells.code, cells, weights) : downsample(picture);
  return { width, height, code, ends: fileEnds(code), small, weights };
}
