import type { Vec3 } from '../colour/matrix';
import type { NeutralSample } from '../steps/balance/pick';
import type { FileEnds } from './statistics';

/** A part of a picture in shares of its width and height, 0–1. */
export interface Area {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Pixel bounds of an area, at least one pixel, clamped to the picture. */
function bounds(area: Area, width: number, height: number): { x0: number; y0: number; x1: number; y1: number } {
  const hold = (v: number, max: number) => Math.min(max, Math.max(0, v));
  const x0 = hold(Math.floor(area.x * width), width - 1);
  const y0 = hold(Math.floor(area.y * height), height - 1);
  return {
    x0,
    y0,
    x1: hold(Math.ceil((area.x + area.width) * width), width) || x0 + 1,
    y1: hold(Math.ceil((area.y + area.height) * height), height) || y0 + 1,
  };
}

/** Tiles along each side of a sampled area. */
const TILES = 4;

/** An area as 4 × 4 tiles, so that neighbouring pixels stay together. */
function tilesOf(x0: number, y0: number, x1: number, y1: number): { x0: number; y0: number; x1: number; y1: number }[] {
  const cut = (from: number, to: number, i: number): number => from + Math.floor(((to - from) * i) / TILES);
  return Array.from({ length: TILES * TILES }, (_, k) => {
    const [i, j] = [k % TILES, Math.floor(k / TILES)];
    return { x0: cut(x0, x1, i), x1: cut(x0, x1, i + 1), y0: cut(y0, y1, j), y1: cut(y0, y1, j + 1) };
  });
}

/**
 * The pixels of an area, tile by tile, in linear light as they enter a step; `code` holds the file's R'G'B' of the
 * whole picture. `before` applies the earlier steps to a colour, given its pixel index.
 */
export function sampleArea(
  code: Float32Array,
  width: number,
  height: number,
  area: Area,
  before: (rgb: Vec3, pixel: number) => void,
  ends: FileEnds,
): NeutralSample {
  const { x0, y0, x1, y1 } = bounds(area, width, height);
  const linear = new Float64Array(Math.max(1, (x1 - x0) * (y1 - y0)) * 3);
  let clipped = 0;
  let at = 0;
  const rgb: Vec3 = [0, 0, 0];
  for (const tile of tilesOf(x0, y0, x1, y1)) {
    for (let y = tile.y0; y < tile.y1; y += 1) {
      for (let x = tile.x0; x < tile.x1; x += 1) {
        const o = (y * width + x) * 3;
        for (let c = 0; c < 3; c += 1) rgb[c] = code[o + c];
        if (Math.max(...rgb) >= ends.high || Math.min(...rgb) <= ends.low) clipped += 1;
        before(rgb, y * width + x);
        linear.set(rgb, at);
        at += 3;
      }
    }
  }
  return { linear, clipped: clipped / (linear.length / 3) };
}

/** Mean of three-channel values over an area. */
export function meanOfArea(values: Float32Array, width: number, height: number, area: Area): Vec3 {
  const { x0, y0, x1, y1 } = bounds(area, width, height);
  const sum: Vec3 = [0, 0, 0];
  for (let y = y0; y < y1; y += 1) {
    for (let x = x0; x < x1; x += 1) for (let c = 0; c < 3; c += 1) sum[c] += values[(y * width + x) * 3 + c];
  }
  const n = (x1 - x0) * (y1 - y0);
  return [sum[0] / n, sum[1] / n, sum[2] / n];
}
