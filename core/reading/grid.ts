import type { Vec3 } from '../colour/matrix';
import type { SmallPicture } from '../fields/smallPicture';

/** A frame thinned out to so many cells across and down: enough to know what a clip is, and equal for all clips. */
export const GRID_WIDTH = 64;
export const GRID_HEIGHT = 36;
export const GRID_CELLS = GRID_WIDTH * GRID_HEIGHT;

/** Encoded R'G'B' of the cells (0 = black, 1 = white, not clipped), row by row, GRID_CELLS × 3. */
export type Grid = Float32Array;

/** Picks the cells of a small picture, each through what comes before (code values to encoded ones). */
export function gridOf({ width, height, code }: SmallPicture, before?: (rgb: Vec3) => void): Grid {
  const grid = new Float32Array(3 * GRID_CELLS);
  const rgb: Vec3 = [0, 0, 0];
  for (let y = 0, o = 0; y < GRID_HEIGHT; y += 1) {
    const row = Math.floor(((y + 0.5) * height) / GRID_HEIGHT) * width;
    for (let x = 0; x < GRID_WIDTH; x += 1, o += 3) {
      const i = 3 * (row + Math.floor(((x + 0.5) * width) / GRID_WIDTH));
      for (let c = 0; c < 3; c += 1) rgb[c] = code[i + c];
      before?.(rgb);
      grid.set(rgb, o);
    }
  }
  return grid;
}
