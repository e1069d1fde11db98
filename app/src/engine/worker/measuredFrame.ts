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

/** The frame on which everything in this worker is measured. */
export const measuredFrame = (): Frame | undefined => frame;

/** The frame, and the planes that ops read of it. */
export const frameApi = {
  /** Sets the frame to be measured; returns the code values at which its file is clipped. */
  async setFrame(buffer: ArrayBuffer, format: PlanarFormat, cells?: CellsOfFile): Promise<FileEnds> {
    await gradingReady;
    frame = frameOf(buffer, format, cells);
    return frame.ends;
  },

  /** Another clip was opened: nothing is measured until its first frame arrives. */
  async forgetFrame(): Promise<void> {
    await gradingReady;
    frame = undefined;
  },

  /** Cells of the file's own pixels, for the last frame set, which may still be waiting for the kernel. */
  async setCells(cells: CellsOfFile): Promise<void> {
    await gradingReady;
    if (frame) frame.small = smallFrom(cells.code, cells, frame.weights);
  },

  /** The planes of a grade's ops: of the measured frame, or of another one. */
  async planes(moment: Moment, of?: SmallPicture): Promise<Planes> {
    const small = of ?? frame?.small;
    if (!small) return [];
    await fetchLuts(moment.steps);
    return planesFor(small, moment);
  },

  /** The planes of a grade with shapes only, which depend on no frame. `aspect`: width over height of the frame. */
  async masks({ steps, seconds, show }: Moment, aspect: number): Promise<Planes> {
    await fetchLuts(steps);
    return unseenPlanes(compile(steps, seconds, show), aspect);
  },
};
