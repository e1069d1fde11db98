import type { Vec3 } from '../colour/matrix';
import { lookUp, type Shaper, type Table } from '../program/table';
import type { PointFn } from '../steps/types';
import type { ProcessList } from './clf/types';
import type { Lut } from './cube';

const clamp01 = (x: number): number => (x > 0 ? (x < 1 ? x : 1) : 0);

/** One curve per channel over 0–1 (`data`: size × 3), linearly interpolated, clamped at its ends. */
export function curveFunction(data: ArrayLike<number>, size: number): PointFn {
  const top = size - 1;
  return (rgb) => {
    for (let c = 0; c < 3; c += 1) {
      const x = clamp01(rgb[c]) * top;
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
      const x = clamp01(rgb[c]) * top;
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

/** A cube over 0–1 (`data`: size³ × 3, red fastest), clamped at its sides. */
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

/**
 * A `.cube` table as a function: curves, a cube with tetrahedral interpolation, or one after the other; clamped to its
 * domain.
 */
export function lutFunction({ dimensions, size, domainMin, domainMax, data, curves }: Lut): PointFn {
  const before = curves && lutFunction({ title: '', dimensions: 1, ...curves });
  const f = dimensions === 1 ? curveFunction(data, size) : cubeFunction(data, size, 'tetrahedral');
  return (rgb) => {
    before?.(rgb);
    for (let c = 0; c < 3; c += 1) rgb[c] = (rgb[c] - domainMin[c]) / (domainMax[c] - domainMin[c]);
    f(rgb);
  };
}

const ZERO: Vec3 = [0, 0, 0];
const ONE: Vec3 = [1, 1, 1];

const withAlpha = (data: ArrayLike<number>): Float32Array =>
  Float32Array.from({ length: (data.length / 3) * 4 }, (_, i) => (i % 4 === 3 ? 1 : data[(i >> 2) * 3 + (i % 4)]));

/** The eight corners of an identity table between two values. */
function unchanged(low: number, high: number): Pick<Table, 'size' | 'domain' | 'data'> {
  const data = new Float32Array(32).fill(1);
  for (let i = 0; i < 8; i += 1) for (let c = 0; c < 3; c += 1) data[4 * i + c] = (i >> c) & 1 ? high : low;
  return { size: 2, domain: [low, high], data };
}

/** Curves alone, as a table with its own grid. */
function curvesTable(shaper: Shaper): Table {
  const low = shaper.data.reduce((a, b) => Math.min(a, b), Infinity);
  const high = shaper.data.reduce((a, b) => Math.max(a, b), -Infinity);
  return { ...unchanged(low, high > low ? high : low + 1), shaper };
}

/** A `.cube` table as backends look it up: with its own grid, without resampling. */
export function tableOfLut({ dimensions, size, domainMin: low, domainMax: high, data, curves }: Lut): Table {
  if (curves) {
    // Behind curves, a file's cube has one domain for all channels.
    const shaper = { size: curves.size, low: curves.domainMin, high: curves.domainMax, data: curves.data };
    return { size, domain: [low[0], high[0]], data: withAlpha(data), shaper };
  }
  if (dimensions === 1) return curvesTable({ size, low, high, data });
  const same = low.every((v, c) => v === low[0] && high[c] === high[0]);
  if (same) return { size, domain: [low[0], high[0]], data: withAlpha(data) };
  const shaper = { size: 2, low, high, data: Float32Array.of(0, 0, 0, 1, 1, 1) };
  return { size, domain: [0, 1], data: withAlpha(data), shaper };
}

/**
 * A Common LUT Format list as one table with its own grid, if it is curves, a tetrahedral cube, or one after the other.
 */
export function tableOfClf({ nodes }: ProcessList): Table | undefined {
  const [first, second] = nodes;
  const shaper =
    first?.kind === 'lut1d'
      ? { size: first.size, low: ZERO, high: ONE, data: Float32Array.from(first.data) }
      : undefined;
  if (shaper && nodes.length === 1) return curvesTable(shaper);
  const cube = shaper ? second : first;
  if (cube?.kind !== 'lut3d' || cube.interpolation !== 'tetrahedral' || nodes.length > (shaper ? 2 : 1))
    return undefined;
  return { size: cube.size, domain: [0, 1], data: withAlpha(cube.data), ...(shaper ? { shaper } : {}) };
}
