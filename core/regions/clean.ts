import { encode709 } from '../colour/transferTables';
import type { Vec3 } from '../colour/matrix';
import type { SmoothField } from '../fields/map';
import { matteFunction } from './matte';
import type { Region } from './region';

/**
 * Standard deviation of the Gaussian neighbourhood relative to the size of specks: a round speck of that size then
 * fills 1 − exp(−1/18) = 5 % of its neighbourhood.
 */
const SPREAD = 1.5;

/**
 * A 90° corner fills a quarter of the neighbourhood of its tip and gets rounded. Anything that fills less is removed.
 */
export const SPECK = 0.15;

const clamp01 = (t: number): number => Math.min(1, Math.max(0, t));

/**
 * Cleans a selection (`a`, 0–1) of specks and holes by clamping it to limits from its neighbourhood. `p`: selected
 * share of the neighbourhood. Beside a straight edge that is at least half, on either side of the limit, so edges keep
 * their position and sharpness; where `a` equals `p`, nothing changes.
 */
export function cleaned(a: number, p: number): number {
  const most = p + (1 - p) * clamp01((p - SPECK) / (0.5 - SPECK));
  const least = p - p * clamp01((1 - p - SPECK) / (0.5 - SPECK));
  return Math.min(most, Math.max(least, a));
}

/** The same in GLSL. */
export const CLEANED = `
float cleaned(float a, float p) {
  float most = p + (1.0 - p) * clamp((p - ${SPECK}) / ${0.5 - SPECK}, 0.0, 1.0);
  float least = p - p * clamp((${1 - SPECK} - p) / ${0.5 - SPECK}, 0.0, 1.0);
  return min(most, max(least, a));
}`;

/** Whether a region's selection depends on its neighbourhood. */
export const cleans = ({ matte, clean }: Region): boolean => matte !== undefined && clean > 0;

/** The selected share of each cell's neighbourhood, from the frame as it enters the step. */
export function neighbourhood({ matte, clean }: Region): SmoothField {
  const chooses = matteFunction(matte!);
  return {
    estimate({ width, height, rgb }) {
      const colour: Vec3 = [0, 0, 0];
      return Float32Array.from({ length: width * height }, (_, i) => {
        for (let c = 0; c < 3; c += 1) colour[c] = encode709(rgb[3 * i + c]);
        return chooses(colour);
      });
    },
    spread: SPREAD * clean,
  };
}
