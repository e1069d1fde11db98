import type { Vec3 } from '../colour/matrix';

/** A curve per channel applied before the lookup; clamped at its ends. */
export interface Shaper {
  /** Entries per channel. */
  size: number;
  /** Each channel's value at its first and at its last entry. */
  low: Readonly<Vec3>;
  high: Readonly<Vec3>;
  /** size × 3. */
  data: Float32Array;
}

/**
 * A 3D table: size³ nodes, red fastest, four numbers per node: encoded R'G'B', then the selection by colour: of this op
 * where it acts in a region, else of the next one (1 if there is none).
 */
export interface Table {
  size: number;
  domain: readonly [number, number];
  shaper?: Shaper;
  /** size³ × 4 values, not clipped to 0–1 but clamped to ±TABLE_LIMIT of `bake.ts`. */
  data: Float32Array;
}

function shape({ size, low, high, data }: Shaper, value: number, c: number): number {
  const top = size - 1;
  let x = ((value - low[c]) * top) / (high[c] - low[c]);
  x = x > 0 ? (x < top ? x : top) : 0;
  const i = Math.min(top - 1, x | 0);
  const a = data[3 * i + c];
  return a + (x - i) * (data[3 * i + 3 + c] - a);
}

/**
 * Tetrahedral interpolation (Sakamoto, Itooka 1981; Kasson et al. 1995); values outside the domain are clamped. Writes
 * encoded R'G'B' to out[at…at+2]. With `share`, writes the fourth number to share[pixel].
 */
export function lookUp(
  table: Table,
  r: number,
  g: number,
  b: number,
  out: Float32Array | Float64Array | Vec3,
  at = 0,
  share?: Float32Array,
  pixel = 0,
): void {
  const { size, data, shaper } = table;
  if (shaper) {
    r = shape(shaper, r, 0);
    g = shape(shaper, g, 1);
    b = shape(shaper, b, 2);
  }
  const [lo, hi] = table.domain;
  const scale = (size - 1) / (hi - lo);
  const top = size - 1;
  let x = (r - lo) * scale;
  let y = (g - lo) * scale;
  let z = (b - lo) * scale;
  x = x < 0 ? 0 : x > top ? top : x;
  y = y < 0 ? 0 : y > top ? top : y;
  z = z < 0 ? 0 : z > top ? top : z;
  let ix = x | 0;
  let iy = y | 0;
  let iz = z | 0;
  if (ix === top) ix -= 1;
  if (iy === top) iy -= 1;
  if (iz === top) iz -= 1;
  x -= ix;
  y -= iy;
  z -= iz;
  const dx = 4;
  const dy = 4 * size;
  const dz = dy * size;
  const p0 = ix * dx + iy * dy + iz * dz;
  const p3 = p0 + dx + dy + dz;
  let p1: number;
  let p2: number;
  let w0: number;
  let w1: number;
  let w2: number;
  let w3: number;
  if (x >= y) {
    if (y >= z) {
      p1 = p0 + dx;
      p2 = p1 + dy;
      w0 = 1 - x;
      w1 = x - y;
      w2 = y - z;
      w3 = z;
    } else if (x >= z) {
      p1 = p0 + dx;
      p2 = p1 + dz;
      w0 = 1 - x;
      w1 = x - z;
      w2 = z - y;
      w3 = y;
    } else {
      p1 = p0 + dz;
      p2 = p1 + dx;
      w0 = 1 - z;
      w1 = z - x;
      w2 = x - y;
      w3 = y;
    }
  } else if (z >= y) {
    p1 = p0 + dz;
    p2 = p1 + dy;
    w0 = 1 - z;
    w1 = z - y;
    w2 = y - x;
    w3 = x;
  } else if (z >= x) {
    p1 = p0 + dy;
    p2 = p1 + dz;
    w0 = 1 - y;
    w1 = y - z;
    w2 = z - x;
    w3 = x;
  } else {
    p1 = p0 + dy;
    p2 = p1 + dx;
    w0 = 1 - y;
    w1 = y - x;
    w2 = x - z;
    w3 = z;
  }
  out[at] = w0 * data[p0] + w1 * data[p1] + w2 * data[p2] + w3 * data[p3];
  out[at + 1] = w0 * data[p0 + 1] + w1 * data[p1 + 1] + w2 * data[p2 + 1] + w3 * data[p3 + 1];
  out[at + 2] = w0 * data[p0 + 2] + w1 * data[p1 + 2] + w2 * data[p2 + 2] + w3 * data[p3 + 2];
  if (share) share[pixel] = w0 * data[p0 + 3] + w1 * data[p1 + 3] + w2 * data[p2 + 3] + w3 * data[p3 + 3];
}
