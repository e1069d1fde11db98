import { chromaHeight, chromaWidth, type PlanarPicture, type Samples } from '../program/cpu/planar';
import { measuredBlocks, noiseLevel, type NoiseLevel, type Seen } from './level';
import { BLOCK, findMotion, pyramidOf, type Motion } from './motion';

/** Number of frames used on either side. */
export const NOISE_REACH = 2;
/** Patch radius in pixels for comparing two frames: of luma, of chroma. */
const PATCH = 2;
const CHROMA_PATCH = 1;

/** Strength of the reduction for luma and chroma: 1 assumes the measured noise; 0 disables it. */
export interface NoiseAmounts {
  luma: number;
  chroma: number;
}

/** Smaller pictures are left unchanged. */
export const takesNoise = ({ width, height }: { width: number; height: number }): boolean =>
  Math.min(width, height) >= 2 * BLOCK;

/** Cubic interpolation of four samples (Catmull and Rom 1974) at a fractional offset after the second. */
const cubic = (t: number): [number, number, number, number] => [
  t * (-0.5 + t * (1 - 0.5 * t)),
  1 + t * t * (-2.5 + 1.5 * t),
  t * (0.5 + t * (2 - 1.5 * t)),
  t * t * (-0.5 + 0.5 * t),
];

const clampTo = (v: number, last: number): number => (v < 0 ? 0 : v > last ? last : v);

/** One plane of a picture. */
interface Plane {
  data: Samples;
  width: number;
  height: number;
}

const planesIn = ({ format, y, cb, cr }: PlanarPicture): [y: Plane, cb: Plane, cr: Plane] => {
  const small = { width: chromaWidth(format), height: chromaHeight(format) };
  return [
    { data: y, width: format.width, height: format.height },
    { data: cb, ...small },
    { data: cr, ...small },
  ];
};

/** A rectangle of a plane. */
interface Rectangle {
  x: number;
  y: number;
  width: number;
  height: number;
}

const grown = ({ x, y, width, height }: Rectangle, by: number): Rectangle => ({
  x: x - by,
  y: y - by,
  width: width + 2 * by,
  height: height + 2 * by,
});

const STILL = [0, 0] as const;

/** A rectangle of a plane displaced by a vector; clamped at the plane's edges. */
function fetched({ data, width, height }: Plane, at: Rectangle, [dx, dy]: readonly [number, number]): Float32Array {
  const [ix, iy] = [Math.floor(dx), Math.floor(dy)];
  const [wx, wy] = [cubic(dx - ix), cubic(dy - iy)];
  const columns = Array.from({ length: at.width + 3 }, (_, i) => clampTo(at.x + ix - 1 + i, width - 1));
  const rows = Array.from({ length: at.height + 3 }, (_, j) => {
    const from = width * clampTo(at.y + iy - 1 + j, height - 1);
    const line = columns.map((c) => data[from + c]);
    return Float32Array.from(
      { length: at.width },
      (_, i) => wx[0] * line[i] + wx[1] * line[i + 1] + wx[2] * line[i + 2] + wx[3] * line[i + 3],
    );
  });
  const out = new Float32Array(at.width * at.height);
  for (let j = 0, o = 0; j < at.height; j += 1)
    for (let i = 0; i < at.width; i += 1, o += 1)
      out[o] = wy[0] * rows[j][i] + wy[1] * rows[j + 1][i] + wy[2] * rows[j + 2][i] + wy[3] * rows[j + 3][i];
  return out;
}

/**
 * Mean squared difference of the patches around each pixel of a rectangle; `a` and `b` are padded by the patch radius.
 */
function distances(a: Float32Array, b: Float32Array, { width, height }: Rectangle, patch: number): Float32Array {
  const wide = width + 2 * patch;
  const square = a.map((v, i) => (v - b[i]) ** 2);
  const out = new Float32Array(width * height);
  const share = 1 / (2 * patch + 1) ** 2;
  for (let j = 0, o = 0; j < height; j += 1)
    for (let i = 0; i < width; i += 1, o += 1) {
      let sum = 0;
      for (let r = 0; r <= 2 * patch; r += 1)
        for (let c = 0; c <= 2 * patch; c += 1) sum += square[(j + r) * wide + i + c];
      out[o] = sum * share;
    }
  return out;
}

/**
 * Weight of another frame's pixel, from the excess of the patches' mean squared difference over the expected noise, in
 * variances: approximately exp(−x), zero from 4.
 */
const fallOff = (x: number): number => {
  const v = x >= 4 ? 0 : 1 - 0.25 * Math.max(0, x);
  return v * v * v * v;
};

/** Luma and chroma rectangles of a block. */
function rectangles(
  picture: PlanarPicture,
  column: number,
  row: number,
): [Rectangle, Rectangle, readonly [number, number]] {
  const { format } = picture;
  const [x, y] = [column * BLOCK, row * BLOCK];
  const luma = { x, y, width: Math.min(BLOCK, format.width - x), height: Math.min(BLOCK, format.height - y) };
  const [sx, sy] = [format.chroma === '444' ? 1 : 2, format.chroma === '420' ? 2 : 1];
  const half = (v: number, s: number): number => Math.ceil(v / s);
  const chroma = { x: x / sx, y: y / sy, width: half(luma.width, sx), height: half(luma.height, sy) };
  return [luma, chroma, [sx, sy]];
}

/** An adjacent frame, and the motion vectors to it. */
export interface Beside {
  picture: PlanarPicture;
  motion: Motion;
}

/**
 * Variance of the finest detail of a rectangle: a Laplacian-type filter that removes linear gradients (Immerkær 1996);
 * for white noise it equals its variance.
 */
function fineVariance(plane: Plane, at: Rectangle): number {
  const p = fetched(plane, at, STILL);
  const w = at.width;
  let sum = 0;
  for (let j = 1; j + 1 < at.height; j += 1)
    for (let i = 1; i + 1 < w; i += 1) {
      const o = j * w + i;
      const corners = p[o - w - 1] + p[o - w + 1] + p[o + w - 1] + p[o + w + 1];
      const sides = p[o - w] + p[o + w] + p[o - 1] + p[o + 1];
      sum += (4 * p[o] - 2 * sides + corners) ** 2;
    }
  const count = Math.max(0, w - 2) * Math.max(0, at.height - 2);
  return count > 0 ? sum / count / 36 : 0;
}

/** Noise measurements of a frame from itself and one or two adjacent frames. */
export function seenNoise(frame: PlanarPicture, beside: readonly Beside[]): Seen {
  const a = planesIn(frame);
  const { columns, rows } = beside[0].motion;
  const { step, count } = measuredBlocks(columns * rows);
  const make = (): Float32Array => new Float32Array(count);
  const out = { brightness: make(), luma: make(), chroma: make(), fineLuma: make(), fineChroma: make() };
  const to8 = 2 ** (frame.format.depth - 8);
  // Interpolation attenuates the other frame's noise; the rest adds to this frame's.
  const differ = (plane: number, at: Rectangle, other: Plane, v: readonly [number, number]): number => {
    const [p, q] = [fetched(a[plane], at, STILL), fetched(other, at, v)];
    const kept = v.reduce((s, d) => s * cubic(d - Math.floor(d)).reduce((t, c) => t + c * c, 0), 1);
    return p.reduce((s, value, i) => s + (value - q[i]) ** 2, 0) / p.length / (1 + kept);
  };
  const others = beside.map(({ picture }) => planesIn(picture));
  for (let i = 0; i < count; i += 1) {
    const block = i * step;
    const [luma, chroma, [sx, sy]] = rectangles(frame, block % columns, Math.floor(block / columns));
    out.brightness[i] = fetched(a[0], luma, STILL).reduce((s, l) => s + l, 0) / (luma.width * luma.height) / to8;
    out.fineLuma[i] = fineVariance(a[0], luma);
    out.fineChroma[i] = (fineVariance(a[1], chroma) + fineVariance(a[2], chroma)) / 2;
    const found = beside.map(({ motion: { vectors } }, k) => {
      const [dx, dy] = [vectors[2 * block], vectors[2 * block + 1]];
      const cv = [dx / sx, dy / sy] as const;
      return [
        differ(0, luma, others[k][0], [dx, dy]),
        (differ(1, chroma, others[k][1], cv) + differ(2, chroma, others[k][2], cv)) / 2,
      ];
    });
    out.luma[i] = Math.min(...found.map(([l]) => l));
    out.chroma[i] = Math.min(...found.map(([, c]) => c));
  }
  return out;
}

/** A frame averaged with its motion-compensated neighbours. */
function averaged(
  frame: PlanarPicture,
  others: readonly Beside[],
  level: NoiseLevel,
  amounts: NoiseAmounts,
  out: PlanarPicture,
): void {
  const source = planesIn(frame);
  const target = planesIn(out);
  const { columns, rows } = others[0].motion;
  const most = 2 ** frame.format.depth - 1;
  const shift = frame.format.depth - 8;
  for (let block = 0; block < columns * rows; block += 1) {
    const [luma, chroma, [sx, sy]] = rectangles(frame, block % columns, Math.floor(block / columns));
    const rects = [luma, chroma, chroma];
    const patches = [PATCH, CHROMA_PATCH, CHROMA_PATCH];
    const own = rects.map((r, p) => fetched(source[p], grown(r, patches[p]), STILL));
    const plain = rects.map((r, p) => fetched(source[p], r, STILL));
    const sums = plain.map((p) => Float32Array.from(p));
    const weights = plain.map((p) => new Float32Array(p.length).fill(1));
    const varianceAt = (curve: Float32Array, i: number, j: number, amount: number): number =>
      Math.max(1e-6, curve[source[0].data[(luma.y + j) * source[0].width + luma.x + i] >> shift] * amount * amount);
    for (const { picture, motion } of others) {
      const planes = planesIn(picture);
      const v = [motion.vectors[2 * block], motion.vectors[2 * block + 1]] as const;
      const cv = [v[0] / sx, v[1] / sy] as const;
      const moved = rects.map((r, p) => fetched(planes[p], grown(r, patches[p]), p ? cv : v));
      const alike = rects.map((r, p) => distances(own[p], moved[p], r, patches[p]));
      for (let j = 0, o = 0; j < luma.height; j += 1)
        for (let i = 0; i < luma.width; i += 1, o += 1) {
          const variance = varianceAt(level.luma, i, j, amounts.luma);
          const w = amounts.luma > 0 ? fallOff(alike[0][o] / variance - 2) : 0;
          sums[0][o] += w * moved[0][(j + PATCH) * (luma.width + 2 * PATCH) + i + PATCH];
          weights[0][o] += w;
        }
      if (!(amounts.chroma > 0)) continue;
      for (let j = 0, o = 0; j < chroma.height; j += 1)
        for (let i = 0; i < chroma.width; i += 1, o += 1) {
          const [lx, ly] = [i * sx, j * sy];
          const variance = varianceAt(level.chroma, lx, ly, amounts.chroma);
          const w = fallOff((alike[1][o] + alike[2][o]) / (2 * variance) - 2);
          for (const p of [1, 2]) {
            sums[p][o] += w * moved[p][(j + CHROMA_PATCH) * (chroma.width + 2 * CHROMA_PATCH) + i + CHROMA_PATCH];
            weights[p][o] += w;
          }
        }
    }
    for (const p of [0, 1, 2]) {
      const { x, y, width, height } = rects[p];
      for (let j = 0, o = 0; j < height; j += 1)
        for (let i = 0; i < width; i += 1, o += 1)
          target[p].data[(y + j) * target[p].width + x + i] = clampTo(
            Math.floor(sums[p][o] / weights[p][o] + 0.5),
            most,
          );
    }
  }
}

/** The frames directly before and after the given one. */
export const besideOf = <T>(others: readonly T[], at: number): T[] => others.slice(Math.max(0, at - 1), at + 1);

/**
 * Temporal noise reduction: motion-compensated blocks of adjacent frames are averaged where they differ by no more than
 * noise. `frames` in order, `at` the one to process, all of one format; without other frames, or for a small picture,
 * it stays unchanged. Sources: hierarchical block matching as in Bierling 1988; patch-based weights as in Buades, Coll,
 * Morel 2005.
 */
export function reduceNoise(
  frames: readonly PlanarPicture[],
  at: number,
  amounts: NoiseAmounts,
  out: PlanarPicture,
): void {
  const frame = frames[at];
  out.y.set(frame.y);
  out.cb.set(frame.cb);
  out.cr.set(frame.cr);
  if (frames.length < 2 || !takesNoise(frame.format)) return;
  const others = othersOf(frames, at);
  averaged(frame, others, levelBeside(frame, others, at), amounts, out);
}

/** All other frames, with motion vectors from the given one. */
function othersOf(frames: readonly PlanarPicture[], at: number): Beside[] {
  const own = pyramidOf(frames[at]);
  return frames.flatMap((picture, k) => (k === at ? [] : [{ picture, motion: findMotion(own, pyramidOf(picture)) }]));
}

const levelBeside = (frame: PlanarPicture, others: readonly Beside[], at: number): NoiseLevel =>
  noiseLevel(seenNoise(frame, besideOf(others, at)));

/** The noise level of `frames[at]`, from the adjacent frames; null where it cannot be measured. */
export function noiseLevelOf(frames: readonly PlanarPicture[], at: number): NoiseLevel | null {
  if (frames.length < 2 || !takesNoise(frames[at].format)) return null;
  return levelBeside(frames[at], othersOf(frames, at), at);
}
