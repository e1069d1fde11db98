import { tapsOf } from '../program/stencil';
import { randomFrom } from '../random';
import type { FieldMap } from './map';

/** A noise texture tiled over the frame and shifted randomly in each one: grain. */
export interface TiledField {
  /** Grain size (width of the autocorrelation at half its height) as a share of the frame's width. */
  grain: number;
}

export const isTiled = (spec: object): spec is TiledField => 'grain' in spec;

/** Edge of the texture in cells. */
const PERIOD = 512;
/** Edge of a tile in cells: the first ones are repeated at the end, so that interpolation never has to wrap. */
export const TILE_EDGE = PERIOD + 1;
/** A map holds 0–1: the texture's mean is 0.5, and this many standard deviations correspond to 1. */
export const TILE_RANGE = 10;
/**
 * Standard deviation, in cells, of the Gaussian that blurs the white noise. With less, bilinear interpolation would
 * reveal the grid of cells, since noise is weaker between cells than on them.
 */
const BLUR = 0.8;
/**
 * Cells per grain: the blur plus interpolation between cells, which has a variance of 1/6; an autocorrelation is wider
 * by √2, and the full width at half maximum of a Gaussian is 2.355 deviations.
 */
const CELLS_A_GRAIN = 2.355 * Math.SQRT2 * Math.sqrt(BLUR * BLUR + 1 / 6);
/** Prefiltered levels per octave (as in mipmaps), for pixels that cover several cells. */
const LEVELS = 8;

const wrapped = (i: number): number => ((i % PERIOD) + PERIOD) % PERIOD;

/** Separable convolution of a wrapping texture; the centre weight first, then those on either side. */
function smoothed(pattern: Float32Array, weights: readonly number[]): Float32Array {
  const pass = (from: Float32Array, step: number, lineStep: number): Float32Array => {
    const out = new Float32Array(PERIOD * PERIOD);
    for (let line = 0; line < PERIOD; line += 1)
      for (let i = 0, base = line * lineStep; i < PERIOD; i += 1) {
        let sum = weights[0] * from[base + i * step];
        for (let k = 1; k < weights.length; k += 1)
          sum += weights[k] * (from[base + wrapped(i - k) * step] + from[base + wrapped(i + k) * step]);
        out[base + i * step] = sum;
      }
    return out;
  };
  return pass(pass(pattern, 1, PERIOD), PERIOD, 1);
}

/** Weights of a box filter `width` cells wide (1 or more), the outermost fractional. */
function box(width: number): number[] {
  const reach = (width - 1) / 2;
  return Array.from({ length: Math.ceil(reach) + 1 }, (_, i) => Math.min(1, Math.max(0, reach + 1 - i)) / width);
}

/** The texture: Gaussian noise with mean 0 and standard deviation 1. */
const pattern = (() => {
  let made: Float32Array | undefined;
  return (): Float32Array => {
    if (made) return made;
    const random = randomFrom(1);
    // Box and Muller 1958.
    const white = Float32Array.from(
      { length: PERIOD * PERIOD },
      () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random()),
    );
    const soft = smoothed(white, [...tapsOf(BLUR).weights]);
    const mean = soft.reduce((a, v) => a + v, 0) / soft.length;
    const deviation = Math.sqrt(soft.reduce((a, v) => a + (v - mean) ** 2, 0) / soft.length);
    made = soft.map((v) => (v - mean) / deviation);
    return made;
  };
})();

/** A map's coefficients from a texture. */
function coefficientsOf(values: Float32Array): Float32Array {
  const out = new Float32Array(2 * TILE_EDGE * TILE_EDGE);
  for (let y = 0, o = 1; y < TILE_EDGE; y += 1)
    for (let x = 0; x < TILE_EDGE; x += 1, o += 2)
      out[o] = 0.5 + values[(y % PERIOD) * PERIOD + (x % PERIOD)] / TILE_RANGE;
  return out;
}

interface Level {
  coefficients: Float32Array;
  /** Standard deviation of the interpolated texture, as pixels see it. */
  deviation: number;
}
/** Size of the cache: more than a picture, its thumbnail and a zoom between them use. */
const levels = new Map<number, Level>();
const KEPT = 16;

/** The texture prefiltered for pixels this many cells wide, by level. */
function levelOf(number: number): Level {
  const known = levels.get(number);
  if (known) {
    levels.delete(number);
    levels.set(number, known);
    return known;
  }
  const values = smoothed(pattern(), box(2 ** (number / LEVELS)));
  let [square, product] = [0, 0];
  for (let i = 0; i < values.length; i += 1) {
    const next = i % PERIOD === PERIOD - 1 ? i - PERIOD + 1 : i + 1;
    square += values[i] * values[i];
    product += values[i] * values[next];
  }
  // Averaged over positions between cells: 2/3 of the variance and 1/3 of the covariance, along rows and columns.
  const deviation = Math.sqrt(square / values.length) * (2 / 3 + product / square / 3);
  const made = { coefficients: coefficientsOf(values), deviation };
  if (levels.size >= KEPT) levels.delete(levels.keys().next().value!);
  levels.set(number, made);
  return made;
}

/** A pixel covers at least one cell. */
const levelAt = (cellsAPixel: number): number => Math.max(0, Math.round(LEVELS * Math.log2(cellsAPixel)));
const cellsAcross = ({ grain }: TiledField): number => CELLS_A_GRAIN / grain;

/** Standard deviation of the texture, relative to its finest level, in pictures of a frame this many pixels wide. */
export const tileDeviation = (field: TiledField, width: number): number =>
  levelOf(levelAt(cellsAcross(field) / width)).deviation;

const NONE = new Float32Array(0);

/**
 * An integer seed for a frame's time: identical however the time was computed, different for the next frame, since at
 * no usual frame rate do frames lie close to the boundary between two seeds.
 */
export const frameSeed = (seconds: number): number => Math.floor(seconds * 1000 + 0.623);

/** The map of a frame, identical for the same time. `aspect`: width over height of the frame. */
export function tileMap(field: TiledField, aspect: number, seconds: number): FieldMap {
  const across = cellsAcross(field);
  const random = randomFrom(frameSeed(seconds));
  return {
    width: TILE_EDGE,
    height: TILE_EDGE,
    cells: [across, across / aspect],
    corner: [PERIOD * random(), PERIOD * random()],
    repeats: true,
    // Those of `atWidth`: maps are sent between threads, and the texture never changes.
    coefficients: NONE,
  };
}

/** A map for pictures `width` pixels wide: the texture at the matching level. */
export const atWidth = (map: FieldMap, width: number): FieldMap =>
  map.repeats ? { ...map, coefficients: levelOf(levelAt(map.cells[0] / width)).coefficients } : map;

/** Wraps a position among the cells along one edge (`count` cells) into the valid range. */
export const placeAmong = (place: number, count: number, repeats: boolean | undefined): number => {
  if (!repeats) return Math.min(count - 1, Math.max(0, place));
  return place - Math.floor(place / (count - 1)) * (count - 1);
};
