/** Pyramids of 8-bit luma, and block matching; `motion.ts` is the reference implementation. */
import { BLOCK, height, shift, wide, width } from './format';

const REACH: i32 = 7;
const ROUNDS: i32 = 3;
const COST: i32 = 2;
const NONE: i32 = i32.MAX_VALUE;

export function toBytes(from: usize, count: i32, to: usize): void {
  if (!wide) {
    memory.copy(to, from, <usize>count);
    return;
  }
  let i = 0;
  for (; i + 16 <= count; i += 16) {
    const at = from + (<usize>i << 1);
    const low = v128.shr<u16>(v128.load(at), shift);
    const high = v128.shr<u16>(v128.load(at, 16), shift);
    v128.store(to + <usize>i, i8x16.narrow_i16x8_u(low, high));
  }
  for (; i < count; i += 1) store<u8>(to + <usize>i, <u8>(load<u16>(from + (<usize>i << 1)) >> <u16>shift));
}

export function halve(from: usize, w: i32, h: i32, to: usize): void {
  const hw = w >> 1;
  const hh = h >> 1;
  const two = i16x8.splat(2);
  for (let y = 0; y < hh; y += 1) {
    const a = from + <usize>(2 * y * w);
    const b = a + <usize>w;
    const out = to + <usize>(y * hw);
    let x = 0;
    for (; x + 8 <= hw; x += 8) {
      const at = <usize>(2 * x);
      const sum = i16x8.add(
        i16x8.extadd_pairwise_i8x16_u(v128.load(a + at)),
        i16x8.extadd_pairwise_i8x16_u(v128.load(b + at)),
      );
      const mean = i16x8.shr_u(i16x8.add(sum, two), 2);
      v128.store64_lane(out + <usize>x, i8x16.narrow_i16x8_u(mean, mean), 0);
    }
    for (; x < hw; x += 1) {
      const at = <usize>(2 * x);
      const sum = <i32>load<u8>(a + at) + <i32>load<u8>(a + at, 1) + <i32>load<u8>(b + at) + <i32>load<u8>(b + at, 1);
      store<u8>(out + <usize>x, <u8>((sum + 2) >> 2));
    }
  }
}

/** Sums of absolute differences of adjacent bytes, in 16-bit lanes. */
// @ts-ignore: decorator
@inline
function apart(a: v128, b: v128): v128 {
  return i16x8.extadd_pairwise_i8x16_u(v128.or(i8x16.sub_sat_u(a, b), i8x16.sub_sat_u(b, a)));
}

// @ts-ignore: decorator
@inline
function total(sums: v128): i32 {
  const v = i32x4.extadd_pairwise_i16x8_u(sums);
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3);
}

/**
 * Sum of absolute differences of two squares of a picture `w` wide; returns after half if that already exceeds
 * `enough`. A lane sums at most 32 bytes.
 */
function sad(a: usize, b: usize, w: i32, size: i32, enough: i32): i32 {
  const row = <usize>w;
  let sum = i16x8.splat(0);
  if (size === 16) {
    for (let half = 0; half < 2; half += 1) {
      for (let r = 0; r < 8; r += 2) {
        sum = i16x8.add(sum, apart(v128.load(a), v128.load(b)));
        sum = i16x8.add(sum, apart(v128.load(a + row), v128.load(b + row)));
        a += 2 * row;
        b += 2 * row;
      }
      const so = total(sum);
      if (half === 1 || so >= enough) return so;
    }
  }
  for (let r = 0; r < 8; r += 2) {
    const p = v128.load64_lane(a + row, v128.load64_zero(a), 1);
    const q = v128.load64_lane(b + row, v128.load64_zero(b), 1);
    sum = i16x8.add(sum, apart(p, q));
    a += 2 * row;
    b += 2 * row;
  }
  return total(sum);
}

// The block being matched, and its best vector so far.
let levelA: usize = 0;
let levelB: usize = 0;
let levelW: i32 = 0;
let levelH: i32 = 0;
let size: i32 = 0;
let blockX: i32 = 0;
let blockY: i32 = 0;
let bestX: i32 = 0;
let bestY: i32 = 0;
let best: i32 = 0;

// @ts-ignore: decorator
@inline
function inside(dx: i32, dy: i32): bool {
  const x = blockX + dx;
  const y = blockY + dy;
  return x >= 0 && y >= 0 && x + size <= levelW && y + size <= levelH;
}

// @ts-ignore: decorator
@inline
function differences(dx: i32, dy: i32, enough: i32): i32 {
  const a = levelA + <usize>(blockY * levelW + blockX);
  const b = levelB + <usize>((blockY + dy) * levelW + blockX + dx);
  return sad(a, b, levelW, size, enough);
}

function attempt(dx: i32, dy: i32): void {
  // Neighbours and refinement often propose the current best again.
  if (!inside(dx, dy) || (dx === bestX && dy === bestY && best !== NONE)) return;
  const length = COST * (abs(dx) + abs(dy));
  const cost = differences(dx, dy, best - length) + length;
  if (cost >= best) return;
  best = cost;
  bestX = dx;
  bestY = dy;
}

function setLevel(a: usize, b: usize, w: i32, h: i32, s: i32): void {
  levelA = a;
  levelB = b;
  levelW = w;
  levelH = h;
  size = s;
}

function setBlock(column: i32, row: i32): void {
  blockX = min(column * size, levelW - size);
  blockY = min(row * size, levelH - size);
}

/** Integer vectors of a level (int16: dx, dy); `coarse`: those of the level above, or 0. */
export function searchLevel(
  a: usize,
  b: usize,
  w: i32,
  h: i32,
  s: i32,
  coarse: usize,
  coarseColumns: i32,
  coarseRows: i32,
  ratio: i32,
  out: usize,
): void {
  setLevel(a, b, w, h, s);
  const columns = (w + s - 1) / s;
  const rows = (h + s - 1) / s;
  for (let row = 0; row < rows; row += 1)
    for (let column = 0; column < columns; column += 1) {
      setBlock(column, row);
      best = NONE;
      attempt(0, 0);
      if (!coarse) {
        for (let dy = -REACH; dy <= REACH; dy += 1) for (let dx = -REACH; dx <= REACH; dx += 1) attempt(dx, dy);
      } else {
        const pr = row / ratio;
        const pc = column / ratio;
        let lastX = 0;
        let lastY = 0;
        for (let k = 0; k < 5; k += 1) {
          const r = pr + (k === 3 ? -1 : k === 4 ? 1 : 0);
          const c = pc + (k === 1 ? -1 : k === 2 ? 1 : 0);
          if (r < 0 || c < 0 || r >= coarseRows || c >= coarseColumns) continue;
          const at = coarse + (<usize>(r * coarseColumns + c) << 2);
          const dx = 2 * <i32>load<i16>(at);
          const dy = 2 * <i32>load<i16>(at, 2);
          // Neighbours mostly agree.
          if (dx !== lastX || dy !== lastY) attempt(dx, dy);
          lastX = dx;
          lastY = dy;
        }
        for (let round = 0; round < ROUNDS; round += 1) {
          const x = bestX;
          const y = bestY;
          attempt(x - 1, y);
          attempt(x + 1, y);
          attempt(x, y - 1);
          attempt(x, y + 1);
          if (x === bestX && y === bestY) break;
        }
      }
      const to = out + (<usize>(row * columns + column) << 2);
      store<i16>(to, <i16>bestX);
      store<i16>(to, <i16>bestY, 2);
    }
}

/** Subpixel offset from the best integer vector; positions outside have maximum cost. */
function beside(before: i32, at: i32, after: i32): f32 {
  if (before === NONE || after === NONE) return 0;
  const slope: i32 = max(before, after) - at;
  if (slope <= 0) return 0;
  return min<f32>(0.5, max<f32>(-0.5, <f32>(before - after) / (<f32>2 * <f32>slope)));
}

// @ts-ignore: decorator
@inline
function differencesOr(dx: i32, dy: i32): i32 {
  return inside(dx, dy) ? differences(dx, dy, NONE) : NONE;
}

/** From integer vectors at full size to subpixel vectors (floats: dx, dy). */
export function refine(a: usize, b: usize, whole: usize, out: usize): void {
  setLevel(a, b, width, height, BLOCK);
  const columns = (width + BLOCK - 1) / BLOCK;
  const rows = (height + BLOCK - 1) / BLOCK;
  for (let row = 0; row < rows; row += 1)
    for (let column = 0; column < columns; column += 1) {
      setBlock(column, row);
      const i = <usize>(row * columns + column);
      const dx = <i32>load<i16>(whole + (i << 2));
      const dy = <i32>load<i16>(whole + (i << 2), 2);
      const at = differences(dx, dy, NONE);
      store<f32>(out + (i << 3), <f32>dx + beside(differencesOr(dx - 1, dy), at, differencesOr(dx + 1, dy)));
      store<f32>(out + (i << 3), <f32>dy + beside(differencesOr(dx, dy - 1), at, differencesOr(dx, dy + 1)), 4);
    }
}
