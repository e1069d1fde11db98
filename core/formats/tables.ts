import type { Vec3 } from '../colour/matrix';
import { lookUp, type Table } from '../program/table';
import type { PointFn } from '../steps/types';
import type { Lut } from './cube';

const held = (x: number): number => (x > 0 ? (x < 1 ? x : 1) : 0);

/** A curve a channel over 0–1 (`data`: size × 3), linear between entries, held at its ends. */
export function curveFunction(data: ArrayLike<number>, size: number): PointFn {
  const top = size - 1;
  return (rgb) => {
    for (let c = 0; c < 3; c += 1) {
      const x = held(rgb[c]) * top;
      const i = Math.min(top - 1, Math.floor(x));
      const a = data[3 * i + c];
      rgb[c] = a + (x - i) * (data[3 * i + 3 + c] - a);
    }
  };
}

function trilinear(data: ArrayLike<number>, size: number): PointFn {
  const top = size - 1;
  const out: Vec3 = [0, 0, 0];
  return (rgb) => {
    const cell: number[] = [];
    const part: number[] = [];
    for (let c = 0; c < 3; c += 1) {
      const x = held(rgb[c]) * top;
      cell[c] = Math.min(top - 1, Math.floor(x));
      part[c] = x - cell[c];
    }
    out.fill(0);
    for (let k = 0; k < 8; k += 1) {
      const [r, g, b] = [k & 1, (k >> 1) & 1, k >> 2];
      const w = (r ? part[0] : 1 - part[0]) * (g ? part[1] : 1 - part[1]) * (b ? part[2] : 1 - part[2]);
      const at = 3 * (((cell[2] + b) * size + cell[1] + g) * size + cell[0] + r);
      for (let c = 0; c < 3; c += 1) out[c] += w * data[at + c];
    }
    for (let c = 0; c < 3; c += 1) rgb[c] = out[c];
  };
}

/** A cube over 0–1 (`data`: size³ × 3, red fastest), held at its sides. */
export function cubeFunction(
  data: ArrayLike<number>,
  size: number,
  interpolation: 'trilinear' | 'tetrahedral',
): PointFn {
  if (interpolation === 'trilinear') return trilinear(data, size);
  const table: Table = { size, domain: [0, 1], data: new Float32Array(size ** 3 * 4) };
  for (let i = 0; i < size ** 3; i += 1) for (let c = 0; c < 3; c += 1) table.data[4 * i + c] = data[3 * i + c];
  return (rgb) => lookUp(table, rgb[0], rgb[1], rgb[2], rgb);
}

/** A `.cube` table as a function: a curve a channel, or a cube with tetrahedral interpolation; held to its domain. */
export function lutFunction({ dimensions, size, domainMin, domainMax, data }: Lut): PointFn {
  const f = dimensions === 1 ? curveFunction(data, size) : cubeFunction(data, size, 'tetrahedral');
  return (rgb) => {
    for (let c = 0; c < 3; c += 1) rgb[c] = (rgb[c] - domainMin[c]) / (domainMax[c] - domainMin[c]);
    f(rgb);
  };
}
