import { toWorking } from '@inkavo/core/colour/adaptation';
import { invert, transformInPlace, type Vec3 } from '@inkavo/core/colour/matrix';
import { srgb } from '@inkavo/core/colour/transfer';
import { PROFILES, resolvePrimaries, STANDARD, type Profile } from '@inkavo/core/model/profile';
import { logProfile } from '@inkavo/core/reading/unknownCurves';
import { linearToSignal } from '@inkavo/core/steps/convert/transfer';
import { drawCamera, type Curve } from '../camera';
import { PHOTOGRAPH_HEIGHT, PHOTOGRAPH_WIDTH, photographPixels, PHOTOGRAPHS, type Part } from '../photographs';
import type { Random } from '../random';

/** Candidate profiles for every clip. */
export const ASKED = PROFILES.filter((p) => !['srgb', 'gamma', 'bt1886'].includes(p.transfer.kind));

const WIDE = ['bt709', 'bt2020', 'p3d65', 'ap1'] as const;

/** A random plausible log curve. */
export function drawProfile(rng: Random): Profile {
  const grey = rng.between(0.28, 0.5);
  const black = rng.between(0.02, Math.min(0.2, grey - 0.18));
  const white = rng.between(grey + 0.14, Math.min(0.88, grey + 0.4));
  return logProfile('Drawn', [black, grey, white], rng.of(WIDE));
}

/** Light of a scene at the sensor: width × height × 3, 1 = white. */
export interface Scene {
  width: number;
  height: number;
  light: Float32Array;
}

/** A scene from a photograph: with random exposure, highlights beyond white, sometimes a wrong white, haze or water. */
export function drawScene(rng: Random, part: Part, width: number, height: number): Scene {
  const pixels = photographPixels(rng.of(PHOTOGRAPHS.filter((p) => p.part === part)).id);
  const scale = rng.between(0.6, 1);
  const [w, h] = [PHOTOGRAPH_WIDTH * scale, PHOTOGRAPH_HEIGHT * scale];
  const [left, top] = [rng.between(0, PHOTOGRAPH_WIDTH - w), rng.between(0, PHOTOGRAPH_HEIGHT - h)];
  const mirrored = rng.chance(0.5);
  const gain = 2 ** rng.normal(0.55);
  const beyond = rng.chance(0.7) ? rng.between(0, 3) : 0;
  const off = rng.chance(0.5) ? 0.18 : 0.03;
  const white: Vec3 = [Math.exp(rng.normal(off)), 1, Math.exp(rng.normal(off))];
  const haze = rng.chance(0.25) ? rng.between(0.1, 0.7) : 0;
  const air = rng.between(0.4, 0.9);
  const water: Vec3 | null = rng.chance(0.15)
    ? [rng.between(0.02, 0.4), rng.between(0.4, 0.9), rng.between(0.3, 0.9)]
    : null;
  const colour = rng.between(0.75, 1.25);
  const flare = rng.chance(0.5) ? rng.between(0, 0.008) : 0;
  const light = new Float32Array(3 * width * height);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1) {
      const across = mirrored ? width - 1 - x : x;
      const px = Math.min(PHOTOGRAPH_WIDTH - 1, Math.floor(left + ((across + 0.5) / width) * w));
      const py = Math.min(PHOTOGRAPH_HEIGHT - 1, Math.floor(top + ((y + 0.5) / height) * h));
      const from = 3 * (py * PHOTOGRAPH_WIDTH + px);
      const rgb = [0, 1, 2].map((c) => srgb.decode(pixels[from + c] / 255)) as Vec3;
      const high = Math.max(...rgb);
      const lifted = high > 0.5 ? 1 + beyond * ((high - 0.5) / 0.5) ** 2 : 1;
      const grey = (rgb[0] + rgb[1] + rgb[2]) / 3;
      // The background, at the top of most pictures, is hazier.
      const veil = haze * (1 - (0.8 * y) / height);
      for (let c = 0; c < 3; c += 1) {
        let v = lifted * Math.max(0, grey + colour * (rgb[c] - grey));
        v = v * (1 - veil) + air * veil;
        if (water) v = v * water[c] + 0.25 * water[c] * (1 - 0.5 * (y / height));
        light[3 * (y * width + x) + c] = gain * white[c] * v + flare;
      }
    }
  return { width, height, light };
}

/** Code values of R'G'B' with a profile, not clipped. */
export function recorder(profile: Profile, rng: Random): (rgb: Vec3) => void {
  if (profile === STANDARD) {
    // Standard video includes a camera's own rendering.
    const camera = drawCamera(rng);
    return (rgb) => {
      const [r, g, b] = rgb;
      camera.matrix.forEach((row, c) => (rgb[c] = camera.curve(row[0] * r + row[1] * g + row[2] * b)));
    };
  }
  const encode: Curve = linearToSignal(profile.transfer);
  const matrix = invert(toWorking(resolvePrimaries(profile.primaries)));
  return (rgb) => {
    transformInPlace(matrix, rgb);
    for (let c = 0; c < 3; c += 1) rgb[c] = encode(rgb[c]);
  };
}
