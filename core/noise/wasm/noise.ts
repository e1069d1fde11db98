/**
 * Noise reduction over time (AssemblyScript, WebAssembly with SIMD). `reduce.ts` and `motion.ts` are its oracle, and say
 * what it does; numbers are floats here, where theirs are doubles.
 *
 * Squares of a plane are fetched into rows of STRIDE floats, so that all that follows is the same for every format.
 */

const BLOCK: i32 = 16;
const REACH: i32 = 7;
const ROUNDS: i32 = 3;
const COST: i32 = 2;
const PATCH: i32 = 2;
const CHROMA_PATCH: i32 = 1;
const NONE: i32 = i32.MAX_VALUE;

const STRIDE: i32 = 24;
const ROW: usize = 96;
/** Rows of a fetched square, and of what interpolation reads. */
const SQUARE: usize = 24 * ROW;

let width: i32 = 0;
let height: i32 = 0;
let chromaWidth: i32 = 0;
let chromaHeight: i32 = 0;
let sx: i32 = 1;
let sy: i32 = 1;
let wide: bool = false;
let shift: i32 = 0;
let scratch: usize = 0;

/** The pictures' format, and where SCRATCH_BYTES of room are. */
export function setNoiseFormat(w: i32, h: i32, cw: i32, ch: i32, depth: i32, room: usize): void {
  width = w;
  height = h;
  chromaWidth = cw;
  chromaHeight = ch;
  sx = cw < w ? 2 : 1;
  sy = ch < h ? 2 : 1;
  wide = depth > 8;
  shift = depth - 8;
  scratch = room;
}

// — pyramids —

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

// — motion —

/** Sums of absolute differences of neighbouring bytes, in 16-bit lanes. */
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
 * Sum of absolute differences of two squares of a picture `w` wide; at the half, when that is `enough` already. A lane sums
 * 32 bytes at most.
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

// The block that is looked for, and the best that was found of it.
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
  // The best so far comes again from neighbours and rounds.
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

/** Whole vectors of a level (int16: dx, dy); `coarse`: those of the level above, or 0. */
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

/** The part of a pixel beside the best whole one; what lies outside is worse than anything. */
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

/** From whole vectors of the full size to vectors with parts of pixels (floats: dx, dy). */
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

// — squares of planes —

// @ts-ignore: decorator
@inline
function sample(at: usize, i: i32): f32 {
  return wide ? <f32>load<u16>(at + (<usize>i << 1)) : <f32>load<u8>(at + <usize>i);
}

/** Samples of a plane from (x, y), `columns` × `rows`, as floats; what lies outside is its edge. */
function copySquare(plane: usize, w: i32, h: i32, x: i32, y: i32, columns: i32, rows: i32, to: usize): void {
  const whole = x >= 0 && x + STRIDE <= w;
  const bytes = <usize>columns << 2;
  for (let j = 0; j < rows; j += 1) {
    const row = min(max(y + j, 0), h - 1) * w;
    let out = to + <usize>j * ROW;
    const end = out + bytes;
    if (!whole) {
      for (let i = 0; out < end; i += 1, out += 4) store<f32>(out, sample(plane, row + min(max(x + i, 0), w - 1)));
      continue;
    }
    let at = plane + (<usize>(row + x) << (wide ? 1 : 0));
    while (out < end) {
      const eight = wide ? v128.load(at) : i16x8.extend_low_i8x16_u(v128.load64_zero(at));
      v128.store(out, f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(eight)));
      v128.store(out, f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(eight)), 16);
      at += wide ? 16 : 8;
      out += 32;
    }
  }
}

let c0: f32 = 0;
let c1: f32 = 0;
let c2: f32 = 0;
let c3: f32 = 0;

/** Weights of a cubic through four samples, at a part of a pixel behind the second. */
function cubic(t: f32): void {
  c0 = t * (<f32>-0.5 + t * (<f32>1 - <f32>0.5 * t));
  c1 = <f32>1 + t * t * (<f32>-2.5 + <f32>1.5 * t);
  c2 = t * (<f32>0.5 + t * (<f32>2 - <f32>1.5 * t));
  c3 = t * t * (<f32>-0.5 + <f32>0.5 * t);
}

// @ts-ignore: decorator
@inline
function four(at: usize, step: usize, k0: v128, k1: v128, k2: v128, k3: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(k0, v128.load(at)), f32x4.mul(k1, v128.load(at + step))),
    f32x4.add(f32x4.mul(k2, v128.load(at + 2 * step)), f32x4.mul(k3, v128.load(at + 3 * step))),
  );
}

/** A square of a plane, moved by a vector. */
function fetch(plane: usize, w: i32, h: i32, x: i32, y: i32, columns: i32, rows: i32, dx: f32, dy: f32, to: usize): void {
  const ix = <i32>Math.floor(dx);
  const iy = <i32>Math.floor(dy);
  const fx = dx - <f32>ix;
  const fy = dy - <f32>iy;
  if (fx === 0 && fy === 0) return copySquare(plane, w, h, x + ix, y + iy, columns, rows, to);
  const raw = scratch;
  const across = raw + SQUARE;
  const bytes = <usize>columns << 2;
  copySquare(plane, w, h, x + ix - 1, y + iy - 1, columns + 3, rows + 3, raw);
  cubic(fx);
  let k0 = f32x4.splat(c0);
  let k1 = f32x4.splat(c1);
  let k2 = f32x4.splat(c2);
  let k3 = f32x4.splat(c3);
  for (let j = 0, from = raw; j < rows + 3; j += 1, from += ROW)
    for (let i: usize = 0; i < bytes; i += 16) v128.store(from + SQUARE + i, four(from + i, 4, k0, k1, k2, k3));
  cubic(fy);
  k0 = f32x4.splat(c0);
  k1 = f32x4.splat(c1);
  k2 = f32x4.splat(c2);
  k3 = f32x4.splat(c3);
  for (let j = 0, from = across; j < rows; j += 1, from += ROW, to += ROW)
    for (let i: usize = 0; i < bytes; i += 16) v128.store(to + i, four(from + i, ROW, k0, k1, k2, k3));
}

// — the noise's level —

/** Mean squared difference of a rectangle, as one frame's noise has it. */
function differ(a: usize, b: usize, w: i32, h: i32, x: i32, y: i32, columns: i32, rows: i32, dx: f32, dy: f32): f32 {
  const p = scratch + 2 * SQUARE;
  const q = scratch + 3 * SQUARE;
  fetch(a, w, h, x, y, columns, rows, 0, 0, p);
  fetch(b, w, h, x, y, columns, rows, dx, dy, q);
  let sums = f32x4.splat(0);
  let sum: f32 = 0;
  const whole = columns & ~3;
  for (let j = 0; j < rows; j += 1) {
    const row = <usize>j * ROW;
    for (let i: usize = 0; i < <usize>whole << 2; i += 16) {
      const d = f32x4.sub(v128.load(p + row + i), v128.load(q + row + i));
      sums = f32x4.add(sums, f32x4.mul(d, d));
    }
    for (let i = whole; i < columns; i += 1) {
      const at = row + (<usize>i << 2);
      const d = load<f32>(p + at) - load<f32>(q + at);
      sum += d * d;
    }
  }
  sum += f32x4.extract_lane(sums, 0) + f32x4.extract_lane(sums, 1) + f32x4.extract_lane(sums, 2) + f32x4.extract_lane(sums, 3);
  cubic(dx - <f32>Math.floor(dx));
  const kx = c0 * c0 + c1 * c1 + c2 * c2 + c3 * c3;
  cubic(dy - <f32>Math.floor(dy));
  const ky = c0 * c0 + c1 * c1 + c2 * c2 + c3 * c3;
  return sum / <f32>(columns * rows) / (<f32>1 + kx * ky);
}

// @ts-ignore: decorator
@inline
function planeAt(picture: usize, index: i32): usize {
  const samples = (index > 0 ? width * height : 0) + (index > 1 ? chromaWidth * chromaHeight : 0);
  return picture + (<usize>samples << (wide ? 1 : 0));
}

/** Variance of the finest detail of a rectangle. */
function fineVariance(plane: usize, w: i32, h: i32, x: i32, y: i32, columns: i32, rows: i32): f32 {
  if (columns < 3 || rows < 3) return 0;
  const p = scratch + 2 * SQUARE;
  fetch(plane, w, h, x, y, columns, rows, 0, 0, p);
  let sum: f32 = 0;
  for (let j = 1; j + 1 < rows; j += 1)
    for (let i = 1; i + 1 < columns; i += 1) {
      const o = p + <usize>j * ROW + (<usize>i << 2);
      const up = o - ROW;
      const down = o + ROW;
      const corners = load<f32>(up - 4) + load<f32>(up + 4) + load<f32>(down - 4) + load<f32>(down + 4);
      const sides = load<f32>(up) + load<f32>(down) + load<f32>(o - 4) + load<f32>(o + 4);
      const d = <f32>4 * load<f32>(o) - <f32>2 * sides + corners;
      sum += d * d;
    }
  return sum / <f32>((columns - 2) * (rows - 2)) / <f32>36;
}

/** Mean luma, and the variance of the finest detail of luma and of chroma, of each block that is measured: arrays of floats. */
export function fineNoise(frame: usize, step: i32, count: i32, out: usize): void {
  const columns = (width + BLOCK - 1) / BLOCK;
  const to8 = <f32>(1 << shift);
  for (let i = 0; i < count; i += 1) {
    const x = ((i * step) % columns) * BLOCK;
    const y = ((i * step) / columns) * BLOCK;
    const w = min(BLOCK, width - x);
    const h = min(BLOCK, height - y);
    const cw = (w + sx - 1) / sx;
    const ch = (h + sy - 1) / sy;
    let mean: f32 = 0;
    for (let j = 0; j < h; j += 1) for (let k = 0; k < w; k += 1) mean += sample(frame, (y + j) * width + x + k);
    store<f32>(out + (<usize>i << 2), mean / <f32>(w * h) / to8);
    store<f32>(out + (<usize>(count + i) << 2), fineVariance(frame, width, height, x, y, w, h));
    let chroma: f32 = 0;
    for (let p = 1; p <= 2; p += 1)
      chroma += fineVariance(planeAt(frame, p), chromaWidth, chromaHeight, x / sx, y / sy, cw, ch);
    store<f32>(out + (<usize>(2 * count + i) << 2), chroma * 0.5);
  }
}

/** Noise variance by another frame, of luma and of chroma, of each block that is measured: two arrays. `less`: only what is less than is there. */
export function residuals(frame: usize, other: usize, vectors: usize, step: i32, count: i32, out: usize, less: bool): void {
  const columns = (width + BLOCK - 1) / BLOCK;
  for (let i = 0; i < count; i += 1) {
    const block = i * step;
    const x = (block % columns) * BLOCK;
    const y = (block / columns) * BLOCK;
    const w = min(BLOCK, width - x);
    const h = min(BLOCK, height - y);
    const dx = load<f32>(vectors + (<usize>block << 3));
    const dy = load<f32>(vectors + (<usize>block << 3), 4);
    const cw = (w + sx - 1) / sx;
    const ch = (h + sy - 1) / sy;
    let chroma: f32 = 0;
    for (let p = 1; p <= 2; p += 1)
      chroma += differ(
        planeAt(frame, p), planeAt(other, p), chromaWidth, chromaHeight, x / sx, y / sy, cw, ch,
        dx / <f32>sx, dy / <f32>sy,
      );
    keep(out + (<usize>i << 2), differ(frame, other, width, height, x, y, w, h, dx, dy), less);
    keep(out + (<usize>(count + i) << 2), chroma * 0.5, less);
  }
}

// @ts-ignore: decorator
@inline
function keep(at: usize, value: f32, less: bool): void {
  store<f32>(at, less ? min<f32>(value, load<f32>(at)) : value);
}

// — the average —

// @ts-ignore: decorator
@inline
function across(at: usize, k0: v128, k1: v128, k2: v128, k3: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(k0, v128.load(at)), f32x4.mul(k1, v128.load(at, 4))),
    f32x4.add(f32x4.mul(k2, v128.load(at, 8)), f32x4.mul(k3, v128.load(at, 12))),
  );
}

/**
 * Four columns of a square of samples: moved by a part of a pixel, where `parts` (`raw` then begins a pixel before it on
 * either side), and the sums of squared differences from the frame's own over 2 × `patch` + 1 rows. Where `add`, these are
 * added to what `between` holds.
 */
// @ts-ignore: decorator
@inline
function movedColumns(
  raw: usize, own: usize, rows: i32, patch: i32, parts: bool, moved: usize, between: usize, add: bool,
  k0: v128, k1: v128, k2: v128, k3: v128, m0: v128, m1: v128, m2: v128, m3: v128,
): void {
  let h0 = f32x4.splat(0);
  let h1 = h0;
  let h2 = h0;
  let q0 = h0;
  let q1 = h0;
  let q2 = h0;
  let q3 = h0;
  if (parts) {
    h0 = across(raw, k0, k1, k2, k3);
    h1 = across(raw + ROW, k0, k1, k2, k3);
    h2 = across(raw + 2 * ROW, k0, k1, k2, k3);
    raw += 3 * ROW;
  }
  const first = 2 * patch;
  for (let j = 0; j < rows + 2 * patch; j += 1) {
    let v = h0;
    if (parts) {
      const h3 = across(raw, k0, k1, k2, k3);
      v = f32x4.add(
        f32x4.add(f32x4.mul(m0, h0), f32x4.mul(m1, h1)),
        f32x4.add(f32x4.mul(m2, h2), f32x4.mul(m3, h3)),
      );
      h0 = h1;
      h1 = h2;
      h2 = h3;
      v128.store(moved, v);
      moved += ROW;
    } else v = v128.load(raw);
    raw += ROW;
    const d = f32x4.sub(v128.load(own), v);
    own += ROW;
    const s = f32x4.mul(d, d);
    if (j >= first) {
      let sum = f32x4.add(f32x4.add(q0, q1), s);
      if (patch === 2) sum = f32x4.add(sum, f32x4.add(q2, q3));
      v128.store(between, add ? f32x4.add(v128.load(between), sum) : sum);
      between += ROW;
    }
    if (patch === 2) {
      q0 = q1;
      q1 = q2;
      q2 = q3;
      q3 = s;
    } else {
      q0 = q1;
      q1 = s;
    }
  }
}

/**
 * Fetches a square of another frame's plane, larger by `patch` on every side than `columns` × `rows` at (x, y), moved by a
 * vector, and holds it against the frame's own. The address of the moved square.
 */
// @ts-ignore: decorator
@inline
function hold(
  plane: usize, w: i32, h: i32, x: i32, y: i32, columns: i32, rows: i32, patch: i32, dx: f32, dy: f32,
  own: usize, moved: usize, between: usize, add: bool,
): void {
  const ix = <i32>Math.floor(dx);
  const iy = <i32>Math.floor(dy);
  const fx = dx - <f32>ix;
  const fy = dy - <f32>iy;
  x += ix - patch;
  y += iy - patch;
  const wider = columns + 2 * patch;
  const higher = rows + 2 * patch;
  const bytes = <usize>wider << 2;
  if (fx === 0 && fy === 0) {
    const none = f32x4.splat(0);
    copySquare(plane, w, h, x, y, wider, higher, moved);
    for (let i: usize = 0; i < bytes; i += 16)
      movedColumns(moved + i, own + i, rows, patch, false, 0, between + i, add, none, none, none, none, none, none, none, none);
    return;
  }
  copySquare(plane, w, h, x - 1, y - 1, wider + 3, higher + 3, scratch);
  cubic(fx);
  const k0 = f32x4.splat(c0);
  const k1 = f32x4.splat(c1);
  const k2 = f32x4.splat(c2);
  const k3 = f32x4.splat(c3);
  cubic(fy);
  const m0 = f32x4.splat(c0);
  const m1 = f32x4.splat(c1);
  const m2 = f32x4.splat(c2);
  const m3 = f32x4.splat(c3);
  for (let i: usize = 0; i < bytes; i += 16)
    movedColumns(scratch + i, own + i, rows, patch, true, moved + i, between + i, add, k0, k1, k2, k3, m0, m1, m2, m3);
}

/** Four sums over patches, of sums over their rows. */
// @ts-ignore: decorator
@inline
function patchSum(at: usize, patch: i32): v128 {
  const three = f32x4.add(f32x4.add(v128.load(at), v128.load(at, 4)), v128.load(at, 8));
  return patch === 1 ? three : f32x4.add(three, f32x4.add(v128.load(at, 12), v128.load(at, 16)));
}

/** How much of another frame's four pixels is taken, by their patches. */
// @ts-ignore: decorator
@inline
function taken(between: usize, patch: i32, share: v128, perVariance: usize): v128 {
  const d = f32x4.mul(f32x4.mul(patchSum(between, patch), share), v128.load(perVariance));
  const x = f32x4.pmax(f32x4.splat(0), f32x4.sub(d, f32x4.splat(2)));
  const v = f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.splat(1), f32x4.mul(x, f32x4.splat(0.25))));
  const square = f32x4.mul(v, v);
  return f32x4.mul(square, square);
}

// @ts-ignore: decorator
@inline
function addTo(at: usize, v: v128): void {
  v128.store(at, f32x4.add(v128.load(at), v));
}

/** Adds another frame's luma square to the sums. */
function addLuma(between: usize, perVariance: usize, moved: usize, columns: i32, rows: i32, sums: usize, weights: usize): void {
  const share = f32x4.splat(1.0 / 25.0);
  const bytes = <usize>columns << 2;
  moved += <usize>PATCH * ROW + (<usize>PATCH << 2);
  for (let j: usize = 0; j < <usize>rows * ROW; j += ROW)
    for (let i = j; i < j + bytes; i += 16) {
      const w = taken(between + i, PATCH, share, perVariance + i);
      addTo(weights + i, w);
      addTo(sums + i, f32x4.mul(w, v128.load(moved + i)));
    }
}

/** Adds another frame's two chroma squares to the sums. */
function addChroma(
  between: usize, perVariance: usize, movedB: usize, movedR: usize, columns: i32, rows: i32,
  sumsB: usize, sumsR: usize, weights: usize,
): void {
  const share = f32x4.splat(1.0 / 18.0);
  const bytes = <usize>columns << 2;
  const inner = <usize>CHROMA_PATCH * ROW + (<usize>CHROMA_PATCH << 2);
  movedB += inner;
  movedR += inner;
  for (let j: usize = 0; j < <usize>rows * ROW; j += ROW)
    for (let i = j; i < j + bytes; i += 16) {
      const w = taken(between + i, CHROMA_PATCH, share, perVariance + i);
      addTo(weights + i, w);
      addTo(sumsB + i, f32x4.mul(w, v128.load(movedB + i)));
      addTo(sumsR + i, f32x4.mul(w, v128.load(movedR + i)));
    }
}

/** Sums begin with the frame's own square. */
// @ts-ignore: decorator
@inline
function begin(own: usize, patch: i32, columns: i32, rows: i32, sums: usize, weights: usize): void {
  const inner = <usize>patch * ROW + (<usize>patch << 2);
  for (let j = 0; j < rows; j += 1)
    for (let i = 0; i < columns; i += 4) {
      const at = <usize>j * ROW + (<usize>i << 2);
      v128.store(sums + at, v128.load(own + at + inner));
      v128.store(weights + at, f32x4.splat(1));
    }
}

function put(sums: usize, weights: usize, plane: usize, w: i32, x: i32, y: i32, columns: i32, rows: i32): void {
  const most = f32x4.splat(<f32>((256 << shift) - 1));
  for (let j = 0; j < rows; j += 1) {
    let to = plane + (<usize>((y + j) * w + x) << (wide ? 1 : 0));
    for (let i = 0; i < columns; i += 4) {
      const at = <usize>j * ROW + (<usize>i << 2);
      const mean = f32x4.add(f32x4.div(v128.load(sums + at), v128.load(weights + at)), f32x4.splat(0.5));
      const held = f32x4.pmin(most, f32x4.pmax(f32x4.splat(0), f32x4.floor(mean)));
      const four = i32x4.trunc_sat_f32x4_u(held);
      const words = i16x8.narrow_i32x4_u(four, four);
      if (i + 4 > columns) {
        // The picture ends within these four.
        v128.store(scratch, words);
        for (let k = 0; k < columns - i; k += 1) {
          const v = load<u16>(scratch + (<usize>k << 1));
          if (wide) store<u16>(to + (<usize>k << 1), v);
          else store<u8>(to + <usize>k, <u8>v);
        }
      } else if (wide) v128.store64_lane(to, words, 0);
      else v128.store32_lane(to, i8x16.narrow_i16x8_u(words, words), 0);
      to += wide ? 8 : 4;
    }
  }
}

/** 1 / variance of each of some pixels, by the luma there; `sx`, `sy`: pixels of luma for one of the plane's. */
function perVariances(
  variances: usize, frame: usize, x: i32, y: i32, columns: i32, rows: i32, sx: i32, sy: i32, to: usize,
): void {
  for (let j = 0; j < rows; j += 1) {
    const row = (y + j * sy) * width + x;
    let out = to + <usize>j * ROW;
    for (let i = 0; i < columns; i += 1, out += 4) {
      const luma = <usize>(<i32>sample(frame, row + i * sx) >> shift);
      store<f32>(out, load<f32>(variances + (luma << 2)));
    }
  }
}

/**
 * A frame with what `count` others saw of the same places. `others` and `motions`: addresses (int32) of pictures and of their
 * vectors. `lumaVariance`, `chromaVariance`: 1 / variance of the noise by luma 0–255, as floats; 0: that plane stays.
 */
export function average(
  frame: usize,
  count: i32,
  others: usize,
  motions: usize,
  lumaVariance: usize,
  chromaVariance: usize,
  out: usize,
): void {
  const blocks = (width + BLOCK - 1) / BLOCK;
  const blockRows = (height + BLOCK - 1) / BLOCK;
  // The first two squares are those of interpolation.
  const ownY = scratch + 2 * SQUARE;
  const ownB = ownY + SQUARE;
  const ownR = ownB + SQUARE;
  const moved = ownR + SQUARE;
  const movedB = moved + SQUARE;
  const between = movedB + SQUARE;
  const perY = between + SQUARE;
  const perC = perY + SQUARE;
  const sums = perC + SQUARE;
  const sumsB = sums + SQUARE;
  const sumsR = sumsB + SQUARE;
  const weights = sumsR + SQUARE;
  const weightsC = weights + SQUARE;
  const planeB = planeAt(frame, 1);
  const planeR = planeAt(frame, 2);
  for (let block = 0; block < blocks * blockRows; block += 1) {
    const x = (block % blocks) * BLOCK;
    const y = (block / blocks) * BLOCK;
    const w = min(BLOCK, width - x);
    const h = min(BLOCK, height - y);
    const cx = x / sx;
    const cy = y / sy;
    const cw = (w + sx - 1) / sx;
    const ch = (h + sy - 1) / sy;
    copySquare(frame, width, height, x - PATCH, y - PATCH, w + 2 * PATCH, h + 2 * PATCH, ownY);
    copySquare(planeB, chromaWidth, chromaHeight, cx - 1, cy - 1, cw + 2, ch + 2, ownB);
    copySquare(planeR, chromaWidth, chromaHeight, cx - 1, cy - 1, cw + 2, ch + 2, ownR);
    begin(ownY, PATCH, w, h, sums, weights);
    begin(ownB, CHROMA_PATCH, cw, ch, sumsB, weightsC);
    begin(ownR, CHROMA_PATCH, cw, ch, sumsR, weightsC);
    if (lumaVariance) perVariances(lumaVariance, frame, x, y, w, h, 1, 1, perY);
    if (chromaVariance) perVariances(chromaVariance, frame, x, y, cw, ch, sx, sy, perC);
    for (let k = 0; k < count; k += 1) {
      const other = <usize>load<i32>(others + (<usize>k << 2));
      const vector = <usize>load<i32>(motions + (<usize>k << 2)) + (<usize>block << 3);
      const dx = load<f32>(vector);
      const dy = load<f32>(vector, 4);
      if (lumaVariance) {
        hold(other, width, height, x, y, w, h, PATCH, dx, dy, ownY, moved, between, false);
        addLuma(between, perY, moved, w, h, sums, weights);
      }
      if (chromaVariance) {
        const ux = dx / <f32>sx;
        const uy = dy / <f32>sy;
        const otherB = planeAt(other, 1);
        const otherR = planeAt(other, 2);
        hold(otherB, chromaWidth, chromaHeight, cx, cy, cw, ch, CHROMA_PATCH, ux, uy, ownB, movedB, between, false);
        hold(otherR, chromaWidth, chromaHeight, cx, cy, cw, ch, CHROMA_PATCH, ux, uy, ownR, moved, between, true);
        addChroma(between, perC, movedB, moved, cw, ch, sumsB, sumsR, weightsC);
      }
    }
    put(sums, weights, out, width, x, y, w, h);
    put(sumsB, weightsC, planeAt(out, 1), chromaWidth, cx, cy, cw, ch);
    put(sumsR, weightsC, planeAt(out, 2), chromaWidth, cx, cy, cw, ch);
  }
}
