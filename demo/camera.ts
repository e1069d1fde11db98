import { adaptWorking, toWorking } from '@inkavo/core/colour/adaptation';
import { invert, multiply, transform, type Mat3, type Vec3 } from '@inkavo/core/colour/matrix';
import { WHITES, type Chromaticity } from '@inkavo/core/colour/primaries';
import { codeScale, rgbToYcbcr } from '@inkavo/core/colour/ycbcr';
import { resolvePrimaries, type Profile } from '@inkavo/core/model/profile';
import { linearToSignal } from '@inkavo/core/steps/convert/transfer';

/** A made-up camera: what it does to light. */
export interface CameraModel {
  profile: Profile;
  depth: 8 | 10;
  /** White that the light has, as the wrongly set camera sees it: D65 is right. */
  sees: Chromaticity;
  /** Deviation of its noise, in code values. */
  noise: number;
  /** Loss of light in the corners, 0–1. */
  corners: number;
  exposure: number;
}

/** Linear scene light to Y'CbCr code values of this camera, without noise and corners. */
export function encoder(camera: CameraModel): (rgb: Vec3) => Vec3 {
  const wrongWhite = adaptWorking(WHITES.D65, camera.sees);
  const toCamera: Mat3 = multiply(invert(toWorking(resolvePrimaries(camera.profile.primaries))), wrongWhite);
  const oetf = linearToSignal(camera.profile.transfer);
  const s = codeScale(camera.depth, 'limited');
  return (rgb) => {
    const light = transform(toCamera, rgb);
    const signal = light.map((c) => oetf(c * camera.exposure)) as Vec3;
    const [y, cb, cr] = rgbToYcbcr(signal, 'bt709');
    return [y * s.yScale + s.yOffset, cb * s.cScale + s.cOffset, cr * s.cScale + s.cOffset];
  };
}

/** Light left at a place (x, y as shares of the picture) by the corners' darkening. */
export function cornerGain(camera: CameraModel, x: number, y: number, aspect: number): number {
  const dx = (x - 0.5) * aspect;
  const dy = y - 0.5;
  const r2 = (dx * dx + dy * dy) / (0.25 * (aspect * aspect + 1));
  return 1 - camera.corners * r2 * r2;
}
