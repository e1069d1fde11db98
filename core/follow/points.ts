import { sample, type Grey } from './pyramid';

/** Half the edge of the window around a point, in pixels of its pyramid level. */
const RADIUS = 7;
const EDGE = 2 * RADIUS + 1;
const ROUNDS = 10;
/** The iteration has converged when a point moves by less than this, in pixels. */
const ARRIVED = 0.02;

/** How a window is transformed in the other picture: the linear part of a similarity, row-major. */
export type Linear = readonly [a: number, b: number, c: number, d: number];
export const SAME: Linear = [1, 0, 0, 1];

export interface Found {
  x: number;
  y: number;
  /** Correlation of both windows, −1 to 1, invariant to brightness and contrast. */
  like: number;
}

const window = new Float64Array(EDGE * EDGE);
const slopeX = new Float64Array(EDGE * EDGE);
const slopeY = new Float64Array(EDGE * EDGE);
const now = new Float64Array(EDGE * EDGE);
const wide = new Float64Array((EDGE + 2) ** 2);

/** The axis-aligned window around a position, bilinearly interpolated at one subpixel offset. */
function upright(grey: Grey, cx: number, cy: number, out: Float64Array): void {
  const [x0, y0] = [Math.floor(cx) - RADIUS, Math.floor(cy) - RADIUS];
  const { width, height, data } = grey;
  if (x0 < 0 || y0 < 0 || x0 + EDGE >= width || y0 + EDGE >= height) {
    for (let j = -RADIUS, i = 0; j <= RADIUS; j += 1)
      for (let k = -RADIUS; k <= RADIUS; k += 1, i += 1) out[i] = sample(grey, cx + k, cy + j);
    return;
  }
  const [fx, fy] = [cx - Math.floor(cx), cy - Math.floor(cy)];
  const [a, b, c, d] = [(1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy];
  for (let j = 0, i = 0; j < EDGE; j += 1)
    for (let k = 0, o = (y0 + j) * width + x0; k < EDGE; k += 1, i += 1, o += 1)
      out[i] = a * data[o] + b * data[o + 1] + c * data[o + width] + d * data[o + width + 1];
}

/** Subtracts a window's mean and returns its standard deviation. */
function centre(values: Float64Array): number {
  let [sum, squares] = [0, 0];
  for (const v of values) sum += v;
  const mean = sum / values.length;
  for (let i = 0; i < values.length; i += 1) {
    values[i] -= mean;
    squares += values[i] * values[i];
  }
  return Math.sqrt(squares / values.length);
}

/**
 * Finds the window around a point of one picture in another, starting at a guess (Lucas, Kanade 1981; pyramids as in
 * Bouguet 2000). The window may be rotated and scaled by `linear`. Both windows are normalised in mean and contrast.
 * `from` and `to` are pyramids; positions are in pixels of their largest pictures.
 */
export function findPoint(
  from: readonly Grey[],
  to: readonly Grey[],
  x: number,
  y: number,
  guess: { x: number; y: number },
  linear: Linear = SAME,
  levels = from.length,
): Found {
  let [gx, gy] = [guess.x, guess.y];
  let like = -1;
  // Maps offsets in the new picture's window back to the old one.
  const det = linear[0] * linear[3] - linear[1] * linear[2] || 1;
  const [ia, ib, ic, id] = [linear[3] / det, -linear[1] / det, -linear[2] / det, linear[0] / det];
  for (let level = levels - 1; level >= 0; level -= 1) {
    const scale = 2 ** level;
    const [source, target] = [from[level], to[level]];
    // Pixel centres: a pixel at a level covers scale × scale pixels of the largest picture.
    const at = (v: number): number => (v + 0.5) / scale - 0.5;
    const [px, py] = [at(x), at(y)];
    // The window along the axes of the new picture, with a margin for its gradients.
    for (let j = -RADIUS - 1, i = 0; j <= RADIUS + 1; j += 1)
      for (let k = -RADIUS - 1; k <= RADIUS + 1; k += 1, i += 1)
        wide[i] = sample(source, px + ia * k + ib * j, py + ic * k + id * j);
    for (let j = 0, i = 0; j < EDGE; j += 1)
      for (let k = 0, o = (j + 1) * (EDGE + 2) + 1; k < EDGE; k += 1, i += 1, o += 1) {
        window[i] = wide[o];
        slopeX[i] = 0.5 * (wide[o + 1] - wide[o - 1]);
        slopeY[i] = 0.5 * (wide[o + EDGE + 2] - wide[o - EDGE - 2]);
      }
    const spread = centre(window) || 1e-9;
    let [xx, xy, yy] = [0, 0, 0];
    for (let i = 0; i < window.length; i += 1) {
      xx += slopeX[i] * slopeX[i];
      xy += slopeX[i] * slopeY[i];
      yy += slopeY[i] * slopeY[i];
    }
    const bottom = xx * yy - xy * xy;
    if (bottom < 1e-12) return { x: gx, y: gy, like: -1 };
    let [cx, cy] = [at(gx), at(gy)];
    for (let round = 0; round < ROUNDS; round += 1) {
      upright(target, cx, cy, now);
      const gain = spread / (centre(now) || 1e-9);
      let [bx, by] = [0, 0];
      for (let i = 0; i < window.length; i += 1) {
        const off = window[i] - gain * now[i];
        bx += off * slopeX[i];
        by += off * slopeY[i];
      }
      const dx = (yy * bx - xy * by) / bottom;
      const dy = (xx * by - xy * bx) / bottom;
      cx += dx;
      cy += dy;
      if (Math.hypot(dx, dy) < ARRIVED || !Number.isFinite(cx + cy)) break;
    }
    if (!Number.isFinite(cx + cy)) return { x: guess.x, y: guess.y, like: -1 };
    gx = (cx + 0.5) * scale - 0.5;
    gy = (cy + 0.5) * scale - 0.5;
    if (level === 0) {
      upright(target, cx, cy, now);
      const other = centre(now) || 1e-9;
      let sum = 0;
      for (let i = 0; i < window.length; i += 1) sum += window[i] * now[i];
      like = sum / (window.length * spread * other);
    }
  }
  return { x: gx, y: gy, like };
}

/**
 * Trackable points: those with a large smaller eigenvalue of the structure tensor (Shi, Tomasi 1994) within a mask
 * (0–1, as large as the picture), at least `apart` from each other, strongest first, at most `most` of them. `least`:
 * the smallest eigenvalue that counts, in luma squared per pixel.
 */
export function strongPoints(
  { width, height, data }: Grey,
  mask: Float32Array,
  { apart, most, least }: { apart: number; most: number; least: number },
): { x: number; y: number }[] {
  const strength = new Float32Array(width * height);
  const R = 3;
  // Box sums of gradient products; the picture is small.
  const products = [0, 1, 2].map(() => new Float64Array((width + 1) * (height + 1)));
  for (let y = 0; y < height; y += 1) {
    const sums = [0, 0, 0];
    for (let x = 0; x < width; x += 1) {
      const o = y * width + x;
      const inner = x > 0 && y > 0 && x < width - 1 && y < height - 1;
      const dx = inner ? 0.5 * (data[o + 1] - data[o - 1]) : 0;
      const dy = inner ? 0.5 * (data[o + width] - data[o - width]) : 0;
      [dx * dx, dx * dy, dy * dy].forEach((v, k) => {
        sums[k] += v;
        products[k][(y + 1) * (width + 1) + x + 1] = products[k][y * (width + 1) + x + 1] + sums[k];
      });
    }
  }
  const over = (k: number, x: number, y: number): number => {
    const p = products[k];
    const w = width + 1;
    return (
      p[(y + R + 1) * w + x + R + 1] - p[(y - R) * w + x + R + 1] - p[(y + R + 1) * w + x - R] + p[(y - R) * w + x - R]
    );
  };
  const found: { x: number; y: number; s: number }[] = [];
  const margin = RADIUS + 2;
  for (let y = margin; y < height - margin; y += 1)
    for (let x = margin; x < width - margin; x += 1) {
      if (mask[y * width + x] < 0.5) continue;
      const [xx, xy, yy] = [over(0, x, y), over(1, x, y), over(2, x, y)];
      const s = (xx + yy - Math.sqrt((xx - yy) ** 2 + 4 * xy * xy)) / 2 / (2 * R + 1) ** 2;
      strength[y * width + x] = s;
    }
  for (let y = margin; y < height - margin; y += 1)
    for (let x = margin; x < width - margin; x += 1) {
      const s = strength[y * width + x];
      if (s < least) continue;
      let peak = true;
      for (let j = -1; j <= 1 && peak; j += 1)
        for (let i = -1; i <= 1; i += 1)
          if (strength[(y + j) * width + x + i] > s) {
            peak = false;
            break;
          }
      if (peak) found.push({ x, y, s });
    }
  found.sort((a, b) => b.s - a.s);
  const chosen: { x: number; y: number }[] = [];
  for (const { x, y } of found) {
    if (chosen.length >= most) break;
    if (chosen.every((p) => Math.hypot(p.x - x, p.y - y) >= apart)) chosen.push({ x, y });
  }
  return chosen;
}
