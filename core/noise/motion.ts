import type { PlanarPicture } from '../program/cpu/planar';

/** Pixels an edge of the blocks that move as one, and of those that are compared at the smaller sizes. */
export const BLOCK = 16;
export const SMALL_BLOCK = 8;
/** The search begins where the picture is about this wide, and so reaches about 3 % of the width. */
const TOP_WIDTH = 240;
/** Whole pixels searched on either side at the smallest size. */
const REACH = 7;
/** Rounds in which a vector may move on by a pixel to one side, at every size. */
const ROUNDS = 3;
const SIDES = [
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
] as const;
/** A longer vector has to be better by this, of a block's sum of differences, for each pixel: flat blocks stay put. */
const COST = 2;

/** Luma of one size at 8 bits. */
export interface Level {
  width: number;
  height: number;
  data: Uint8Array;
}

/** How many times a picture is halved before the search begins. */
export function topLevel(width: number, height: number): number {
  let top = Math.max(0, Math.round(Math.log2(width / TOP_WIDTH)));
  while (top > 0 && Math.min(width, height) >> top < 2 * BLOCK) top -= 1;
  return top;
}

/** A picture's luma at 8 bits, and halved again and again. */
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

/** Blocks across and down a frame. */
export const blocksOf = (pixels: number): number => Math.ceil(pixels / BLOCK);

/** Where a frame's blocks were in another frame: dx and dy by block, in pixels of luma, row by row. */
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

/** Compares a block of one level with the other picture's; vectors that leave the picture are none. */
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

  /** A vector's badness: its differences and its length. */
  cost(dx: number, dy: number): number {
    return this.inside(dx, dy) ? this.sad(dx, dy) + COST * (Math.abs(dx) + Math.abs(dy)) : Infinity;
  }
}

/** The whole vectors of a level; `coarse`: those of the level above, of blocks `ratio` times as large. */
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
 * The part of a pixel beside the best whole one: sums of absolute differences rise in two lines of equal slope from where
 * they are least (equiangular fitting, Shimizu and Okutomi 2002).
 */
export function beside(before: number, at: number, after: number): number {
  const slope = Math.max(before, after) - at;
  return slope <= 0 || !Number.isFinite(slope) ? 0 : Math.min(0.5, Math.max(-0.5, (before - after) / (2 * slope)));
}

/** Where the blocks of one picture were in another, from coarse to fine. Both pyramids have the same sizes. */
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
