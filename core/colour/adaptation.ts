import { diagonal, invert, multiply, transform, type Mat3 } from './matrix';
import {
  rgbToXyz,
  WORKING_TO_XYZ,
  WHITES,
  XYZ_TO_WORKING,
  xyToXyz,
  type Chromaticity,
  type Primaries,
} from './primaries';

/** Cone response matrices for chromatic adaptation. */
export const CONE_RESPONSES = {
  /** Bradford, as in ICC.1 Annex E */
  bradford: [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296],
  /** CAT16, Li et al. 2017 */
  cat16: [0.401288, 0.650173, -0.051461, -0.250268, 1.204414, 0.045854, -0.002079, 0.048952, 0.953127],
} as const satisfies Record<string, Mat3>;

export type AdaptationName = keyof typeof CONE_RESPONSES;

/**
 * Smallest cone response of a white (relative to a luminance of 1) that adaptation divides by: no cone response is
 * scaled more than fiftyfold.
 */
const LEAST_RESPONSE = 0.02;

/**
 * The XYZ matrix that adapts colours from white `from` to white `to` (von Kries in the named cone space). Whites have Y
 * = 1, so the luminance of a neutral is kept. Where a cone response of a white is not positive, adaptation is
 * undefined: throws a RangeError, or, with `excessOf` set to `clamp`, limits the response to {@link LEAST_RESPONSE}.
 */
export function adaptXyz(
  from: Chromaticity,
  to: Chromaticity,
  name: AdaptationName = 'bradford',
  beyond: 'refuse' | 'clamp' = 'refuse',
): Mat3 {
  const cone: Mat3 = CONE_RESPONSES[name];
  const responses = [from, to].map((white) => transform(cone, xyToXyz(white)));
  if (beyond === 'refuse' && Math.min(...responses.flat()) <= LEAST_RESPONSE)
    throw new RangeError('This white is too far from daylight for chromatic adaptation.');
  const [a, b] = responses.map((response) => response.map((v) => Math.max(LEAST_RESPONSE, v)));
  return multiply(invert(cone), multiply(diagonal([b[0] / a[0], b[1] / a[1], b[2] / a[2]]), cone));
}

/** The same in linear working RGB (BT.709 primaries). Never throws: extreme whites are clamped. */
export const adaptWorking = (from: Chromaticity, to: Chromaticity, name: AdaptationName = 'bradford'): Mat3 =>
  multiply(XYZ_TO_WORKING, multiply(adaptXyz(from, to, name, 'clamp'), WORKING_TO_XYZ));

/** Linear RGB of any primaries to the working space; a white other than D65 is adapted (Bradford). */
export const toWorking = (p: Primaries): Mat3 =>
  multiply(XYZ_TO_WORKING, multiply(adaptXyz(p.white, WHITES.D65), rgbToXyz(p)));
