/** Noise level of a frame; `level.ts` and `reduce.ts` are the reference implementation. */
import { BLOCK, chromaHeight, chromaWidth, height, planeAt, sample, scratch, shift, sx, sy, width } from './format';
import { c0, c1, c2, c3, cubic, fetch, ROW, SQUARE } from './squares';

/** Mean squared difference of a rectangle, corrected to the noise of a single frame. */
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

/** Mean luma, and the variance of the finest detail of luma and of chroma, of each measured block: arrays of floats. */
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

/**
 * Noise variance against another frame, of luma and of chroma, of each measured block: two arrays. `less`: keep the
 * minimum of this and the existing value.
 */
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
