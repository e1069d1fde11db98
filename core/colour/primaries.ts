import { diagonal, invert, multiply, transform, type Mat3, type Vec3 } from './matrix';

/** A CIE 1931 chromaticity, x and y. */
export interface Chromaticity {
  x: number;
  y: number;
}

/** The chromaticities of a set of RGB primaries and its white. */
export interface Primaries {
  red: Chromaticity;
  green: Chromaticity;
  blue: Chromaticity;
  white: Chromaticity;
}

const xy = (x: number, y: number): Chromaticity => ({ x, y });

/** White points. D65 as in ITU-R BT.709-6; A, D50, D55 as in CIE 15. */
export const WHITES = {
  D65: xy(0.3127, 0.329),
  D55: xy(0.33242, 0.34743),
  D50: xy(0.34567, 0.3585),
  A: xy(0.44757, 0.40745),
  ACES: xy(0.32168, 0.33767),
} as const;

/** Sets of primaries by name. A profile may also carry its own. */
export const PRIMARIES = {
  /** ITU-R BT.709-6 */
  bt709: { red: xy(0.64, 0.33), green: xy(0.3, 0.6), blue: xy(0.15, 0.06), white: WHITES.D65 },
  /** ITU-R BT.2020-2 */
  bt2020: { red: xy(0.708, 0.292), green: xy(0.17, 0.797), blue: xy(0.131, 0.046), white: WHITES.D65 },
  /** SMPTE EG 432-1 primaries with the D65 white */
  p3d65: { red: xy(0.68, 0.32), green: xy(0.265, 0.69), blue: xy(0.15, 0.06), white: WHITES.D65 },
  /** ACES AP1, Academy S-2014-004 */
  ap1: { red: xy(0.713, 0.293), green: xy(0.165, 0.83), blue: xy(0.128, 0.044), white: WHITES.ACES },
} as const satisfies Record<string, Primaries>;

export type PrimariesName = keyof typeof PRIMARIES;

/** XYZ (Y = 1) of a chromaticity. */
export function xyToXyz({ x, y }: Chromaticity): Vec3 {
  return [x / y, 1, (1 - x - y) / y];
}

/** Chromaticity of an XYZ value; undefined for black. */
export function xyzToXy([X, Y, Z]: Readonly<Vec3>): Chromaticity | undefined {
  const sum = X + Y + Z;
  return sum > 0 ? { x: X / sum, y: Y / sum } : undefined;
}

/** The matrix from linear RGB (white = 1,1,1) to XYZ with Y of white = 1. SMPTE RP 177. */
export function rgbToXyz(p: Primaries): Mat3 {
  const [r, g, b] = [p.red, p.green, p.blue].map(xyToXyz);
  const columns: Mat3 = [r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]];
  const scale = transform(invert(columns), xyToXyz(p.white));
  return multiply(columns, diagonal(scale));
}

export const xyzToRgb = (p: Primaries): Mat3 => invert(rgbToXyz(p));

/** Linear working RGB (BT.709, D65) to XYZ, and back. */
export const WORKING_TO_XYZ = rgbToXyz(PRIMARIES.bt709);
export const XYZ_TO_WORKING = invert(WORKING_TO_XYZ);

/** Luminance weights of the working space, the middle row of its matrix. */
export const LUMINANCE: Vec3 = [WORKING_TO_XYZ[3], WORKING_TO_XYZ[4], WORKING_TO_XYZ[5]];
