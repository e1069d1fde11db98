import type { PlanarPicture } from '../program/cpu/planar';

/** Block size in pixels for motion vectors, and for matching at the smaller levels. */
export const BLOCK = 16;
export const SMALL_BLOCK = 8;
/** The search begins at the level about this wide, so it covers about 3 % of the width. */
const TOP_WIDTH = 240;
/** Search radius in whole pixels at the smallest level. */
const REACH = 7;
/** Maximum number of refinement steps of one pixel at every level. */
const ROUNDS = 3;
const SIDES = [
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
] as const;
/** Penalty per pixel of vector length, relative to a block's sum of differences: keeps flat blocks still. */
const COST = 2;

/** 8-bit luma at one level. */
export interface Level {
  width: number;
  height: number;
  data: Uint8Array;
}

/** Number of pyramid levels above the original. */
export function topLevel(width: number, height: number): number {
  let top = Math.max(0, Math.round(Math.log2(width / TOP_WIDTH)));
  while (top > 0 && Math.min(width, height) >> top < 2 * BLOCK) top -= 1;
  return top;
}

/** Pyramid of a picture's 8-bit luma. */
export function pyramidOf({ format, y }: PlanarPicture): Level[] {
  const { width, height, depth } = format;
  const levels: Level[] = [{ width, height, data: Uint8Array.from(y, (v) => v >> (depth - 8)) }];
  for (let l = topLevel(width, height); l > 0; l -= 1) levels.push(halved(levels[levels.length - 1]));
  return levels;
}

function halved({ width, height, data }: Level): Level {
  const [w, h] = [width >> 1, height >> 1];
  const out = new Uint8Array(w * h);
  for (let y = 0, o = 0; y < h; y += 1)
    for (let x = 0, from = 2 * y * width; x < w; x += 1, o += 1, from += 2)
      out[o] = (data[from] + data[from + 1] + data[from + width] + data[from + width + 1] + 2) >> 2;
  return { width: w, height: h, data: out };
}

/** Number of blocks across and down. */
export const blocksOf = (pixels: number): number => Math.ceil(pixels / BLOCK);

/** Motion vectors to another frame: dx and dy per block, in pixels of luma, row-major. */
export interface Motion {
  columns: number;
  rows: number;
  vectors: Float32Array;
}

interface Field {
  columns: number;
  rows: number;
  dx: Int16Array;
  dy: Int16Array;
}

/** Matching cost of a block at one level; vectors that leave the picture are invalid. */
class Matcher {
  constructor(
    private readonly a: Level,
    private readonly b: Level,
    private readonly size: number,
    private readonly x: number,
    private readonly y: number,
  ) {}

  inside(dx: number, dy: number): boolean {
    const { b, size } = this;
    const [x, y] = [this.x + dx, this.y + dy];
    return x >= 0 && y >= 0 && x + size <= b.width && y + size <= b.height;
  }

  /** Sum of absolute differences. */
  sad(dx: number, dy: number): number {
    const { a, b, size } = this;
    let sum = 0;
    for (let r = 0; r < size; r += 1) {
      const [p, q] = [(this.y + r) * a.width + this.x, (this.y + r + dy) * b.width + this.x + dx];
      for (let c = 0; c < size; c += 1) sum += Math.abs(a.data[p + c] - b.data[q + c]);
    }
    return sum;
  }

  /** Cost of a vector: its differences plus the length penalty. */
  cost(dx: number, dy: number): number {
    return this.inside(dx, dy) ? this.sad(dx, dy) + COST * (Math.abs(dx) + Math.abs(dy)) : Infinity;
  }
}

/** Integer vectors of a level; `coarse`: those of the level above, for blocks `ratio` times as large. */
function searchLevel(a: Level, b: Level, size: number, coarse: Field | undefined, ratio: number): Field {
  const [columns, rows] = [Math.ceil(a.width / size), Math.ceil(a.height / size)];
  const out: Field = { columns, rows, dx: new Int16Array(columns * rows), dy: new Int16Array(columns * rows) };
  for (let row = 0; row < rows; row += 1)
    for (let column = 0; column < columns; column += 1) {
      const block = new Matcher(
        a,
        b,
        size,
        Math.min(column * size, a.width - size),
        Math.min(row * size, a.height - size),
      );
      let [bx, by, best] = [0, 0, block.cost(0, 0)];
      const attempt = (dx: number, dy: number): void => {
        const cost = block.cost(dx, dy);
        if (cost < best) [bx, by, best] = [dx, dy, cost];
      };
      if (!coarse) {
        for (let dy = -REACH; dy <= REACH; dy += 1) for (let dx = -REACH; dx <= REACH; dx += 1) attempt(dx, dy);
      } else {
        const [pr, pc] = [Math.floor(row / ratio), Math.floor(column / ratio)];
        for (const [r, c] of [
          [pr, pc],
          [pr, pc - 1],
          [pr, pc + 1],
          [pr - 1, pc],
          [pr + 1, pc],
        ]) {
          if (r < 0 || c < 0 || r >= coarse.rows || c >= coarse.columns) continue;
          attempt(2 * coarse.dx[r * coarse.columns + c], 2 * coarse.dy[r * coarse.columns + c]);
        }
        for (let round = 0; round < ROUNDS; round += 1) {
          const [x, y] = [bx, by];
          for (const [dx, dy] of SIDES) attempt(x + dx, y + dy);
          if (x === bx && y === by) break;
        }
      }
      out.dx[row * columns + column] = bx;
      out.dy[row * columns + column] = by;
    }
  return out;
}

/**
 * Subpixel offset from the best integer vector: sums of absolute differences rise linearly on both sides of the minimum
 * (equiangular fitting, Shimizu and Okutomi 2002).
 */
export function beside(before: number, at: number, after: number): number {
  const slope = Math.max(before, after) - at;
  return slope <= 0 || !Number.isFinite(slope) ? 0 : Math.min(0.5, Math.max(-0.5, (before - after) / (2 * slope)));
}

/** Coarse-to-fine block matching between two pictures. Both pyramids have the same sizes. */
export function findMotion(a: readonly Level[], b: readonly Level[]): Motion {
  let field: Field | undefined;
  for (let l = a.length - 1; l >= 1; l -= 1) field = searchLevel(a[l], b[l], SMALL_BLOCK, field, 2);
  // Blocks of the first two levels cover the same pixels.
  const whole = searchLevel(a[0], b[0], BLOCK, field, 1);
  const { columns, rows } = whole;
  const vectors = new Float32Array(2 * columns * rows);
  for (let i = 0; i < columns * rows; i += 1) {
    const [x, y] = [(i % columns) * BLOCK, Math.floor(i / columns) * BLOCK];
    const block = new Matcher(a[0], b[0], BLOCK, Math.min(x, a[0].width - BLOCK), Math.min(y, a[0].height - BLOCK));
    const [dx, dy] = [whole.dx[i], whole.dy[i]];
    const sad = (ox: number, oy: number): number =>
      block.inside(dx + ox, dy + oy) ? block.sad(dx + ox, dy + oy) : Infinity;
    const at = block.sad(dx, dy);
    vectors[2 * i] = dx + beside(sad(-1, 0), at, sad(1, 0));
    vectors[2 * i + 1] = dy + beside(sad(0, -1), at, sad(0, 1));
  }
  return { columns, rows, vectors };
}
