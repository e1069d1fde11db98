import { openWaterFeatures, openWaterShares } from '../fields/openWater';
import { GRID_CELLS, GRID_HEIGHT, GRID_WIDTH, linearOf, type Grid } from './grid';

/** From this likelihood on a cell counts as open water. */
export const OPEN = 0.5;
/** Minimum share of cells that must show objects, for these to be representative; by judgement. */
const LEAST_THINGS = 0.15;

/** How likely each cell of a grid (in standard video) shows open water, 0–1. */
export const openCells = (grid: Grid): Float32Array => openWaterShares(openWaterFeatures(linearOf(grid)));

const WAYS = [
  [0, 1],
  [0, -1],
  [1, 0],
  [-1, 0],
] as const;

/** Mirrors an open cell at the nearest edge of an object; null if there is none in its row or column. */
function mirrored(open: readonly boolean[], x: number, y: number): number | null {
  const isIn = (u: number, v: number): boolean => u >= 0 && v >= 0 && u < GRID_WIDTH && v < GRID_HEIGHT;
  let best: { steps: number; cell: number } | null = null;
  for (const [dx, dy] of WAYS) {
    let steps = 1;
    while (isIn(x + steps * dx, y + steps * dy) && open[(y + steps * dy) * GRID_WIDTH + x + steps * dx]) steps += 1;
    if (!isIn(x + steps * dx, y + steps * dy) || (best && best.steps <= steps)) continue;
    // Back towards the edge until a cell shows an object.
    for (let far = 2 * steps - 1; far >= steps; far -= 1) {
      const [u, v] = [x + far * dx, y + far * dy];
      if (!isIn(u, v) || open[v * GRID_WIDTH + u]) continue;
      best = { steps, cell: v * GRID_WIDTH + u };
      break;
    }
  }
  return best && best.cell;
}

/**
 * Replaces open water in a grid by mirrored objects: estimators of what water does to objects were trained on frames
 * full of them, and would mistake the water's own colour for theirs. Unchanged where there is little but water.
 */
export function withoutOpenWater(grid: Grid, shares: Float32Array): Grid {
  const open = Array.from(shares, (v) => v >= OPEN);
  const things = open.filter((v) => !v).length;
  if (things === GRID_CELLS || things < LEAST_THINGS * GRID_CELLS) return grid;
  const out = grid.slice();
  const kept: number[] = [];
  open.forEach((isOpen, i) => {
    if (!isOpen) kept.push(i);
  });
  open.forEach((isOpen, i) => {
    if (!isOpen) return;
    const from = mirrored(open, i % GRID_WIDTH, Math.floor(i / GRID_WIDTH)) ?? kept[(i * 61) % kept.length];
    out.set(grid.subarray(3 * from, 3 * from + 3), 3 * i);
  });
  return out;
}
