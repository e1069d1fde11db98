import type { SmallPicture } from '@inkavo/core/fields/smallPicture';
import { smallFrom } from '@inkavo/core/fields/smallPicture';
import { compile } from '@inkavo/core/program/compile';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { unseenPlanes, type Planes } from '@inkavo/core/program/planes';
import type { FileEnds } from '@inkavo/core/scopes/statistics';
import { fetchLuts } from './baking';
import { frameOf, planesFor, type CellsOfFile, type Frame, type Moment } from './frame';
import { gradingReady } from './grading';

let frame: Frame | undefined;

/** The frame that everything in this worker is measured on. */
export const measuredFrame = (): Frame | undefined => frame;

/** The frame, and the planes that ops read of it. */
export const frameApi = {
  /** Takes the frame that everything here is measured on; says where its file has lost detail. */
  async setFrame(buffer: ArrayBuffer, format: PlanarFormat, cells?: CellsOfFile): Promise<FileEnds> {
    await gradingReady;
    frame = frameOf(buffer, format, cells);
    return frame.ends;
  },

  /** Another clip is looked at: nothing is measured until a frame of it comes. */
  async forgetFrame(): Promise<void> {
    await gradingReady;
    frame = undefined;
  },

  /** The cells of the file's own pixels, of the frame that was given last: it may still wait for the kernel. */
  async setCells(cells: CellsOfFile): Promise<void> {
    await gradingReady;
    if (frame) frame.small = smallFrom(cells.code, cells, frame.weights);
  },

  /** The planes that a grade's ops have: of the frame that everything is measured on, or of another one. */
  async planes(moment: Moment, of?: SmallPicture): Promise<Planes> {
    const small = of ?? frame?.small;
    if (!small) return [];
    await fetchLuts(moment.steps);
    return planesFor(small, moment);
  },

  /** The planes of a grade that has nothing but shapes: they depend on no frame. `aspect`: the frame's width over its height. */
  async masks({ steps, seconds, show }: Moment, aspect: number): Promise<Planes> {
    await fetchLuts(steps);
    return unseenPlanes(compile(steps, seconds, show), aspect);
  },
};
