/** Deterministic noise for the made-up scenes. */

/** A number 0–1 from two integers and a seed. */
export function hash(x: number, y: number, seed = 0): number {
  let h = (Math.imul(x | 0, 374761393) + Math.imul(y | 0, 668265263) + Math.imul(seed | 0, 2246822519)) | 0;
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

/** Smooth noise 0–1 on a unit lattice. */
export function smoothNoise(x: number, y: number, seed = 0): number {
  const ix = Math.floor(x);
  const iy = Math.floor(y);
  const fx = x - ix;
  const fy = y - iy;
  const u = fx * fx * (3 - 2 * fx);
  const v = fy * fy * (3 - 2 * fy);
  const a = hash(ix, iy, seed);
  const b = hash(ix + 1, iy, seed);
  const c = hash(ix, iy + 1, seed);
  const d = hash(ix + 1, iy + 1, seed);
  return a + (b - a) * u + (c - a) * v + (a - b - c + d) * u * v;
}

/** Sum of octaves of smooth noise, 0–1. */
export function fractal(x: number, y: number, octaves: number, seed = 0): number {
  let sum = 0;
  let weight = 0.5;
  let total = 0;
  for (let i = 0; i < octaves; i += 1) {
    sum += weight * smoothNoise(x, y, seed + i * 17);
    total += weight;
    weight *= 0.5;
    x = x * 2.03 + 5.1;
    y = y * 2.03 + 1.7;
  }
  return sum / total;
}

/** A tile of Gaussian noise with standard deviation 1. */
export function noiseTile(size: number, seed: number): Float32Array {
  const out = new Float32Array(size);
  for (let i = 0; i < size; i += 2) {
    const r = Math.sqrt(-2 * Math.log(1 - hash(i, 1, seed) * 0.999999));
    const a = 2 * Math.PI * hash(i, 2, seed);
    out[i] = r * Math.cos(a);
    if (i + 1 < size) out[i + 1] = r * Math.sin(a);
  }
  return out;
}

export const clamp01 = (x: number): number => (x < 0 ? 0 : x > 1 ? 1 : x);
/** Smoothstep: 0 below a, 1 above b. */
export function smoothstep(a: number, b: number, x: number): number {
  const t = clamp01((x - a) / (b - a));
  return t * t * (3 - 2 * t);
}
export const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
