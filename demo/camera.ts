import { adaptWorking, toWorking } from '@inkavo/core/colour/adaptation';
import { invert, multiply, transform, type Mat3, type Vec3 } from '@inkavo/core/colour/matrix';
import { WHITES, type Chromaticity } from '@inkavo/core/colour/primaries';
import { codeScale, rgbToYcbcr } from '@inkavo/core/colour/ycbcr';
import { resolvePrimaries, type Profile } from '@inkavo/core/model/profile';
import { linearToSignal, signalToLinear } from '@inkavo/core/steps/convert/transfer';
import type { Frame } from './plate';

/** A made-up camera: how it records light. */
export interface CameraModel {
  profile: Profile;
  depth: 8 | 10;
  /** The illuminant as seen by a wrongly set camera: D65 is correct. */
  sees: Chromaticity;
  /** Standard deviation of its noise, in code values. */
  noise: number;
  /** Vignetting: loss of light in the corners, 0–1. */
  corners: number;
  exposure: number;
}

/** Linear scene light to Y'CbCr code values of this camera, without noise and vignetting. */
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

/** Transmission at a position (x, y as shares of the picture) due to vignetting. */
export function cornerGain(camera: CameraModel, x: number, y: number, aspect: number): number {
  const dx = (x - 0.5) * aspect;
  const dy = y - 0.5;
  const r2 = (dx * dx + dy * dy) / (0.25 * (aspect * aspect + 1));
  return 1 - camera.corners * r2 * r2;
}

/** Size of the table by signal and by gain. */
const SIGNALS = 1024;
const GAINS = 96;

/**
 * Applies vignetting to a recorded frame. Exact for greys to the table's precision; for colours by the curve's
 * derivative at their luma, within a hundredth of their light.
 */
export function cornerDarkener(camera: CameraModel, width: number, height: number): (frame: Frame) => void {
  const toLight = signalToLinear(camera.profile.transfer);
  const toSignal = linearToSignal(camera.profile.transfer);
  const { yScale, yOffset, cOffset } = codeScale(camera.depth, 'limited');
  const least = 1 - camera.corners;
  const table = new Float32Array(GAINS * SIGNALS);
  for (let g = 0; g < GAINS; g += 1) {
    const gain = least + ((1 - least) * g) / (GAINS - 1);
    for (let i = 0; i < SIGNALS; i += 1) table[g * SIGNALS + i] = toSignal(gain * toLight(i / (SIGNALS - 1)));
  }
  const rows = new Float32Array(width * height);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1)
      rows[y * width + x] =
        ((cornerGain(camera, x / width, y / height, width / height) - least) / (1 - least)) * (GAINS - 1);
  /** The signal with a gain (an index into the table), and its derivative. */
  const through = (signal: number, gain: number): [value: number, slope: number] => {
    const at = Math.min(SIGNALS - 1.001, Math.max(0, signal * (SIGNALS - 1)));
    const i = Math.floor(at);
    const g = Math.min(GAINS - 2, Math.floor(gain));
    const [f, h] = [at - i, gain - g];
    const o = g * SIGNALS + i;
    const low = table[o] + h * (table[o + SIGNALS] - table[o]);
    const high = table[o + 1] + h * (table[o + SIGNALS + 1] - table[o + 1]);
    return [low + f * (high - low), (high - low) * (SIGNALS - 1)];
  };
  return (frame) => {
    const across = width >> 1;
    for (let y = 0; y < height; y += 1)
      for (let x = 0; x < width; x += 1) {
        const i = y * width + x;
        const [value, slope] = through((frame.y[i] - yOffset) / yScale, rows[i]);
        frame.y[i] = value * yScale + yOffset;
        if ((x | y) & 1) continue;
        const c = (y >> 1) * across + (x >> 1);
        frame.cb[c] = cOffset + slope * (frame.cb[c] - cOffset);
        frame.cr[c] = cOffset + slope * (frame.cr[c] - cOffset);
      }
  };
}
