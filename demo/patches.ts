import type { Vec3 } from '@inkavo/core/colour/matrix';

/** A surface of known reflectance, as linear BT.709 R, G, B (1 = white paper in full light). Made up. */
export interface Patch {
  name: string;
  reflectance: Vec3;
}

export const PATCHES: readonly Patch[] = [
  { name: 'white', reflectance: [0.8, 0.8, 0.8] },
  { name: 'grey card', reflectance: [0.18, 0.18, 0.18] },
  { name: 'dark grey', reflectance: [0.05, 0.05, 0.05] },
  { name: 'brick', reflectance: [0.3, 0.1, 0.06] },
  { name: 'leaf', reflectance: [0.1, 0.22, 0.06] },
  { name: 'sky', reflectance: [0.14, 0.24, 0.45] },
  { name: 'sand', reflectance: [0.52, 0.42, 0.28] },
  { name: 'skin', reflectance: [0.44, 0.26, 0.18] },
];

/** Columns and rows of patches on a board, with a dark border. */
const COLUMNS = 4;
const BORDER = 0.06;

/** The colour of a board at (u, v) 0–1, or undefined on its border. */
export function boardAt(u: number, v: number): Vec3 | undefined {
  const x = u * COLUMNS;
  const y = v * 2;
  const fx = x % 1;
  const fy = y % 1;
  if (Math.min(fx, 1 - fx) < BORDER || Math.min(fy, 1 - fy) < BORDER) return undefined;
  return [...PATCHES[Math.floor(y) * COLUMNS + Math.floor(x)].reflectance];
}

/** The centre of each patch of a board, as shares of the board: x, y, width, height. */
export const patchAreas = PATCHES.map((patch, i) => ({
  name: patch.name,
  reflectance: patch.reflectance,
  x: ((i % COLUMNS) + 0.25) / COLUMNS,
  y: (Math.floor(i / COLUMNS) + 0.25) / 2,
  width: 0.5 / COLUMNS,
  height: 0.5 / 2,
}));

/** Position of a patch in a frame, in pixels. */
export interface PatchPlace {
  name: string;
  reflectance: Vec3;
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Places of all patches of a board whose corner and size are given in pixels. */
export const placesOn = (left: number, top: number, width: number, height: number): PatchPlace[] =>
  patchAreas.map((p) => ({
    name: p.name,
    reflectance: p.reflectance,
    x: left + p.x * width,
    y: top + p.y * height,
    width: p.width * width,
    height: p.height * height,
  }));
