import { GRID_CELLS, GRID_HEIGHT, GRID_WIDTH, type Grid } from './grid';
import { withoutOpenWater } from './openCells';

/** Each cell holds its own number, so that its origin can be traced. */
const numbered = (): Grid => Float32Array.from({ length: 3 * GRID_CELLS }, (_, i) => Math.floor(i / 3));
const openAbove = (rows: number): Float32Array =>
  Float32Array.from({ length: GRID_CELLS }, (_, i) => (i < rows * GRID_WIDTH ? 0.9 : 0.1));

test('things below are mirrored into open water above them, and stay as they are', () => {
  const out = withoutOpenWater(numbered(), openAbove(10));
  for (let i = 10 * GRID_WIDTH; i < GRID_CELLS; i += 1) expect(out[3 * i]).toBe(i);
  // By hand: row 9 lies one above the edge, and takes the row at it; row 0 ten above, and takes the tenth below.
  for (const [row, from] of [
    [9, 10],
    [0, 19],
  ])
    for (const x of [0, 31, GRID_WIDTH - 1]) expect(out[3 * (row * GRID_WIDTH + x)]).toBe(from * GRID_WIDTH + x);
});

test('what is taken is never open water, also where things are few', () => {
  const shares = Float32Array.from({ length: GRID_CELLS }, (_, i) => ((i * 7919) % 100 < 70 ? 1 : 0));
  const out = withoutOpenWater(numbered(), shares);
  for (let i = 0; i < GRID_CELLS; i += 1) expect(shares[out[3 * i]]).toBe(0);
});

test('a frame without open water, and one with hardly anything else, stay as they are', () => {
  const grid = numbered();
  expect(withoutOpenWater(grid, new Float32Array(GRID_CELLS))).toBe(grid);
  expect(withoutOpenWater(grid, openAbove(GRID_HEIGHT - 4))).toBe(grid);
});
