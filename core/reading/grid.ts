import type { Vec3 } from '../colour/matrix';
import { decode709 } from '../colour/transferTables';
import type { LinearPicture } from '../fields/map';
import type { SmallPicture } from '../fields/smallPicture';
import { subsample } from '../fields/subsample';

/** A frame subsampled to a fixed number of cells: enough to classify a clip, and of equal size for all clips. */
export const GRID_WIDTH = 64;
export const GRID_HEIGHT = 36;
export const GRID_CELLS = GRID_WIDTH * GRID_HEIGHT;

/** Encoded R'G'B' of the cells (0 = black, 1 = white, not clipped), row-major, GRID_CELLS × 3. */
export type Grid = Float32Array;

/** A grid as a picture in linear light. */
export const linearOf = (grid: Grid): LinearPicture => ({
  width: GRID_WIDTH,
  height: GRID_HEIGHT,
  rgb: grid.map(decode709),
});

/** Samples the cells of a small picture and applies the earlier steps (code values to encoded ones). */
export function gridOf({ width, height, code }: SmallPicture, before?: (rgb: Vec3) => void): Grid {
  const grid = subsample(code, width, height, GRID_WIDTH, GRID_HEIGHT);
  return before ? throughCells(grid, before) : grid;
}

/** Applies a function to the colour of each cell, in place. */
export function throughCells(grid: Grid, change: (rgb: Vec3) => void): Grid {
  const rgb: Vec3 = [0, 0, 0];
  for (let o = 0; o < grid.length; o += 3) {
    for (let c = 0; c < 3; c += 1) rgb[c] = grid[o + c];
    change(rgb);
    grid.set(rgb, o);
  }
  return grid;
}
