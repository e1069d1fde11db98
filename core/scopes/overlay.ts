import { luma709 } from '../colour/ycbcr';
import { TOLERANCE, type FileEnds } from './statistics';

/** A graded picture and its source, pixel by pixel: R'G'B' (width × height × 3), not clipped. */
export interface Drawn {
  code: Float32Array;
  graded: Float32Array;
  /** Code values at which the file is clipped. */
  ends: FileEnds;
  /** A region's selection per pixel, 0–1 (width × height). */
  chosen: Float32Array;
}

/**
 * Computes a pixel's overlay colour, in place: `o` is the index of its red, (x, y) its position on the canvas, y
 * upwards.
 */
type Overlay = (drawn: Drawn, shown: Uint8ClampedArray, o: number, i: number, x: number, y: number) => void;

const grey = (shown: Uint8ClampedArray, o: number, value: number): void => {
  shown[o] = shown[o + 1] = shown[o + 2] = 255 * value;
};
const hold = (v: number): number => Math.min(1, Math.max(0, v));
const modulo = (v: number, by: number): number => v - by * Math.floor(v / by);
const smoothstep = (low: number, high: number, v: number): number => {
  const t = hold((v - low) / (high - low));
  return t * t * (3 - 2 * t);
};
const lightOf = ({ graded }: Drawn, i: number): number =>
  luma709(hold(graded[3 * i]), hold(graded[3 * i + 1]), hold(graded[3 * i + 2]));

/** Eleven grey steps, one for each tenth of luma. */
const zones: Overlay = (drawn, shown, o, i) => grey(shown, o, Math.floor(10 * lightOf(drawn, i) + 0.5) / 10);

/** Stripes where the file is clipped, checks where the grade clips. */
const clipping: Overlay = ({ code, graded, ends }, shown, o, i, x, y) => {
  let lost = false;
  for (let c = 3 * i; c < 3 * i + 3; c += 1) {
    if (code[c] >= ends.high || code[c] <= ends.low) return grey(shown, o, modulo(x + y, 12) < 6 ? 1 : 0);
    lost ||=
      (graded[c] > 1 + TOLERANCE && code[c] <= 1 + TOLERANCE) || (graded[c] < -TOLERANCE && code[c] >= -TOLERANCE);
  }
  if (lost) grey(shown, o, modulo(Math.floor(x / 5) + Math.floor(y / 5), 2) < 1 ? 1 : 0);
};

/** Hatching over unselected areas, a bright line beside a dark one; stronger the less is selected. */
const region: Overlay = (drawn, shown, o, i, x, y) => {
  const at = modulo(x - y, 9);
  const line = (1 - smoothstep(1.2, 1.8, Math.abs(at - 4.5))) * (1 - hold(drawn.chosen[i]));
  if (line <= 0) return;
  const to = lightOf(drawn, i) + (at < 4.5 ? -0.35 : 0.35);
  for (let c = 0; c < 3; c += 1) {
    const v = hold(drawn.graded[3 * i + c]);
    shown[o + c] = 255 * (v + (to - v) * line);
  }
};

const OVERLAYS = { zones, clipping, region };

/**
 * Draws an overlay over the bytes of a graded picture (red, green, blue, 255), like the shaders. (`left`, `top`):
 * position of its first pixel on a canvas `height` pixels high.
 */
export function overlay(
  kind: keyof typeof OVERLAYS,
  drawn: Drawn,
  shown: Uint8ClampedArray,
  width: number,
  { left, top, height }: { left: number; top: number; height: number },
): void {
  const lay = OVERLAYS[kind];
  for (let i = 0; 4 * i < shown.length; i += 1)
    lay(drawn, shown, 4 * i, i, left + (i % width) + 0.5, height - top - Math.floor(i / width) - 0.5);
}
