/** A picture of luma, 0–1, at one level of a pyramid. */
export interface Grey {
  width: number;
  height: number;
  /** width × height. */
  data: Float32Array;
}

/** Halves a picture: each pixel is the mean of four. */
function half({ width, height, data }: Grey): Grey {
  const [w, h] = [width >> 1, height >> 1];
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y += 1)
    for (let x = 0; x < w; x += 1) {
      const o = 2 * y * width + 2 * x;
      out[y * w + x] = 0.25 * (data[o] + data[o + 1] + data[o + width] + data[o + width + 1]);
    }
  return { width: w, height: h, data: out };
}

/** Levels of a pyramid, the whole picture first. */
export const LEVELS = 4;

/** Binomial filter 1, 2, 1 in both directions: reduces sensor noise to three eighths. */
function smoothed({ width, height, data }: Grey): Grey {
  const across = new Float32Array(data.length);
  const out = new Float32Array(data.length);
  for (let i = 0; i < data.length; i += 1) {
    const x = i % width;
    across[i] = 0.5 * data[i] + 0.25 * (data[x > 0 ? i - 1 : i] + data[x < width - 1 ? i + 1 : i]);
  }
  for (let i = 0; i < data.length; i += 1)
    out[i] =
      0.5 * across[i] + 0.25 * (across[i >= width ? i - width : i] + across[i < data.length - width ? i + width : i]);
  return { width, height, data: out };
}

export function pyramid(grey: Grey): Grey[] {
  const levels = [smoothed(grey)];
  while (levels.length < LEVELS && Math.min(levels.at(-1)!.width, levels.at(-1)!.height) >= 32)
    levels.push(half(levels.at(-1)!));
  return levels;
}

/** Bilinear interpolation; clamped at the edges. */
export function sample({ width, height, data }: Grey, x: number, y: number): number {
  const u = x < 0 ? 0 : x > width - 1.001 ? width - 1.001 : x;
  const v = y < 0 ? 0 : y > height - 1.001 ? height - 1.001 : y;
  const [x0, y0] = [u | 0, v | 0];
  const [fx, fy] = [u - x0, v - y0];
  const o = y0 * width + x0;
  const top = data[o] + fx * (data[o + 1] - data[o]);
  const low = data[o + width] + fx * (data[o + width + 1] - data[o + width]);
  return top + fy * (low - top);
}
