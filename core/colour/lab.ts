import type { Vec3 } from './matrix';
import { transform } from './matrix';
import { WORKING_TO_XYZ, WHITES, xyToXyz } from './primaries';
import { decode709 } from './transferTables';

const EPSILON = 216 / 24389;
const KAPPA = 24389 / 27;
const f = (t: number): number => (t > EPSILON ? Math.cbrt(t) : (KAPPA * t + 16) / 116);
const D65_XYZ = xyToXyz(WHITES.D65);

/** CIE 1976 L*a*b* (CIE 15) of an XYZ value (white Y = 1), by default relative to D65. */
export function xyzToLab(xyz: Readonly<Vec3>, white: Readonly<Vec3> = D65_XYZ): Vec3 {
  const [fx, fy, fz] = [f(xyz[0] / white[0]), f(xyz[1] / white[1]), f(xyz[2] / white[2])];
  return [116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)];
}

/** L*a*b* of a linear working colour. */
export const linearToLab = (rgb: Readonly<Vec3>): Vec3 => xyzToLab(transform(WORKING_TO_XYZ, rgb));

/** L*a*b* of an encoded (BT.709 R'G'B') colour. */
export const encodedToLab = (rgb: Readonly<Vec3>): Vec3 =>
  linearToLab([decode709(rgb[0]), decode709(rgb[1]), decode709(rgb[2])]);
