import type { Vec3 } from '@inkavo/core/colour/matrix';

/** A picture in camera code values from which frames are cropped: full-size luma, chroma half as wide and high. */
export interface Plate {
  width: number;
  height: number;
  y: Float32Array;
  cb: Float32Array;
  cr: Float32Array;
  /** Opacity 0–1, for overlays. */
  alpha?: Float32Array;
}

/** Renders a plate: `shade` returns linear light of a pixel (and its opacity), `encode` converts it to code values. */
export function paintPlate(
  width: number,
  height: number,
  shade: (x: number, y: number, out: Vec3) => number | void,
  encode: (rgb: Vec3) => Vec3,
): Plate {
  const cw = width >> 1;
  const plate: Plate = {
    width,
    height,
    y: new Float32Array(width * height),
    cb: new Float32Array(cw * (height >> 1)),
    cr: new Float32Array(cw * (height >> 1)),
    alpha: new Float32Array(width * height),
  };
  const rgb: Vec3 = [0, 0, 0];
  for (let y = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1) {
      const opacity = shade(x, y, rgb);
      plate.alpha![y * width + x] = opacity ?? 1;
      const code = encode(rgb);
      plate.y[y * width + x] = code[0];
      if ((x & 1) === 0 && (y & 1) === 0) {
        plate.cb[(y >> 1) * cw + (x >> 1)] = code[1];
        plate.cr[(y >> 1) * cw + (x >> 1)] = code[2];
      }
    }
  }
  return plate;
}

/** One frame as planes of code values, before noise. */
export interface Frame {
  width: number;
  height: number;
  y: Float32Array;
  cb: Float32Array;
  cr: Float32Array;
}

export const makeFrame = (width: number, height: number): Frame => ({
  width,
  height,
  y: new Float32Array(width * height),
  cb: new Float32Array((width >> 1) * (height >> 1)),
  cr: new Float32Array((width >> 1) * (height >> 1)),
});

function copyRow(
  from: Float32Array,
  fromWidth: number,
  row: number,
  shift: number,
  to: Float32Array,
  at: number,
  count: number,
): void {
  const whole = Math.floor(shift);
  const f = shift - whole;
  const g = 1 - f;
  const base = row * fromWidth;
  const last = fromWidth - 1;
  if (whole >= 0 && whole + count < fromWidth) {
    for (let x = 0, p = base + whole; x < count; x += 1, p += 1) to[at + x] = g * from[p] + f * from[p + 1];
    return;
  }
  for (let x = 0; x < count; x += 1) {
    const a = Math.min(last, Math.max(0, whole + x));
    const b = Math.min(last, Math.max(0, whole + x + 1));
    to[at + x] = g * from[base + a] + f * from[base + b];
  }
}

/** Fills a frame from a plate, each row moved by `shiftOf(row)` pixels and all by `dy` rows. */
export function cutFrame(plate: Plate, frame: Frame, shiftOf: (row: number) => number, dy = 0): void {
  const { width, height } = frame;
  for (let y = 0; y < height; y += 1) {
    const row = Math.min(plate.height - 1, Math.max(0, y + dy));
    const shift = shiftOf(y);
    copyRow(plate.y, plate.width, row, shift, frame.y, y * width, width);
    if ((y & 1) === 0) {
      const cRow = Math.min((plate.height >> 1) - 1, row >> 1);
      const at = (y >> 1) * (width >> 1);
      copyRow(plate.cb, plate.width >> 1, cRow, shift / 2, frame.cb, at, width >> 1);
      copyRow(plate.cr, plate.width >> 1, cRow, shift / 2, frame.cr, at, width >> 1);
    }
  }
}

/** Composites a plate over a frame with its top left corner at even (left, top). */
export function layOver(
  plate: Plate,
  frame: Frame,
  left: number,
  top: number,
  shiftOf: (row: number) => number = () => 0,
): void {
  const alpha = plate.alpha!;
  for (let y = 0; y < plate.height; y += 1) {
    const fy = y + top;
    if (fy < 0 || fy >= frame.height) continue;
    const move = Math.round(shiftOf(y) / 2) * 2;
    for (let x = 0; x < plate.width; x += 1) {
      const a = alpha[y * plate.width + x];
      const fx = x + left + move;
      if (a <= 0 || fx < 0 || fx >= frame.width) continue;
      const p = fy * frame.width + fx;
      frame.y[p] += a * (plate.y[y * plate.width + x] - frame.y[p]);
      if ((x & 1) === 0 && (y & 1) === 0) {
        const c = (fy >> 1) * (frame.width >> 1) + (fx >> 1);
        const q = (y >> 1) * (plate.width >> 1) + (x >> 1);
        frame.cb[c] += a * (plate.cb[q] - frame.cb[c]);
        frame.cr[c] += a * (plate.cr[q] - frame.cr[c]);
      }
    }
  }
}
