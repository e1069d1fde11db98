import type { Vec3 } from '@inkavo/core/colour/matrix';
import { encodedToLab } from '@inkavo/core/colour/lab';

const clamp = (v: number): number => Math.min(1, Math.max(0, v));
const mean = (v: readonly number[]): number => v.reduce((a, b) => a + b, 0) / Math.max(1, v.length);
const deviation = (v: readonly number[]): number => {
  const m = mean(v);
  return Math.sqrt(mean(v.map((x) => (x - m) ** 2)));
};

/**
 * UCIQE (Yang, Sowmya 2015): 0.4680 σ(chroma) + 0.2745 contrast of lightness + 0.2576 mean saturation, in L*a*b* scaled
 * to 0–1. `rgb`: encoded R'G'B', width × height × 3.
 */
export function uciqe(rgb: Float32Array): number {
  const [chroma, light, saturation]: number[][] = [[], [], []];
  for (let i = 0; i < rgb.length; i += 21) {
    const [l, a, b] = encodedToLab([rgb[i], rgb[i + 1], rgb[i + 2]].map(clamp) as Vec3);
    const c = Math.hypot(a, b) / 100;
    chroma.push(c);
    light.push(l / 100);
    saturation.push(c / Math.max(1e-3, Math.hypot(c, l / 100)));
  }
  light.sort((a, b) => a - b);
  const contrast = light[Math.floor(0.99 * light.length)] - light[Math.floor(0.01 * light.length)];
  return 0.468 * deviation(chroma) + 0.2745 * contrast + 0.2576 * mean(saturation);
}

/** Mean of the middle of a list, a tenth cut off at each end, and the variance about it. */
function trimmed(values: number[]): { mean: number; variance: number } {
  const sorted = values.toSorted((a, b) => a - b);
  const cut = Math.floor(0.1 * sorted.length);
  const m = mean(sorted.slice(cut, sorted.length - cut));
  return { mean: m, variance: mean(values.map((v) => (v - m) ** 2)) };
}

const BLOCK = 8;

/** Blocks of a plane, each as its smallest and largest value. */
function blocks(plane: Float32Array, width: number, height: number): [number, number][] {
  const out: [number, number][] = [];
  for (let by = 0; by + BLOCK <= height; by += BLOCK)
    for (let bx = 0; bx + BLOCK <= width; bx += BLOCK) {
      let [low, high] = [Infinity, -Infinity];
      for (let y = by; y < by + BLOCK; y += 1)
        for (let x = bx; x < bx + BLOCK; x += 1) {
          const v = plane[y * width + x];
          if (v < low) low = v;
          if (v > high) high = v;
        }
      out.push([low, high]);
    }
  return out;
}

/** EME: mean of 2 · ln(largest / smallest) over blocks. */
const eme = (plane: Float32Array, width: number, height: number): number =>
  mean(blocks(plane, width, height).map(([low, high]) => (low > 0 && high > 0 ? 2 * Math.log(high / low) : 0)));

/** Michelson contrast by entropy over blocks (logAMEE in its plain form). */
const contrastOf = (plane: Float32Array, width: number, height: number): number =>
  mean(
    blocks(plane, width, height).map(([low, high]) => {
      const m = (high - low) / Math.max(1e-6, high + low);
      return m > 0 ? -m * Math.log(m) : 0;
    }),
  );

/**
 * UIQM (Panetta et al. 2016): 0.0282 colourfulness + 0.2953 sharpness + 3.5753 contrast. `rgb`: encoded R'G'B',
 * width × height × 3; measured on values 0–255.
 */
export function uiqm(rgb: Float32Array, width: number, height: number): number {
  const n = width * height;
  const planes = [0, 1, 2].map((c) => Float32Array.from({ length: n }, (_, i) => 255 * clamp(rgb[3 * i + c])));
  const rg = trimmed(Array.from({ length: n }, (_, i) => planes[0][i] - planes[1][i]));
  const yb = trimmed(Array.from({ length: n }, (_, i) => (planes[0][i] + planes[1][i]) / 2 - planes[2][i]));
  const colourfulness = -0.0268 * Math.hypot(rg.mean, yb.mean) + 0.1586 * Math.sqrt(rg.variance + yb.variance);
  const edges = planes.map((plane) => {
    const out = new Float32Array(n);
    for (let y = 1; y < height - 1; y += 1)
      for (let x = 1; x < width - 1; x += 1) {
        const at = (dx: number, dy: number): number => plane[(y + dy) * width + x + dx];
        const gx = at(1, -1) + 2 * at(1, 0) + at(1, 1) - at(-1, -1) - 2 * at(-1, 0) - at(-1, 1);
        const gy = at(-1, 1) + 2 * at(0, 1) + at(1, 1) - at(-1, -1) - 2 * at(0, -1) - at(1, -1);
        out[y * width + x] = (Math.hypot(gx, gy) * plane[y * width + x]) / 255;
      }
    return eme(out, width, height);
  });
  const sharpness = 0.299 * edges[0] + 0.587 * edges[1] + 0.114 * edges[2];
  const luma = Float32Array.from(
    { length: n },
    (_, i) => 0.299 * planes[0][i] + 0.587 * planes[1][i] + 0.114 * planes[2][i],
  );
  return 0.0282 * colourfulness + 0.2953 * sharpness + 3.5753 * contrastOf(luma, width, height);
}
