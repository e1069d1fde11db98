import { encode709 } from '../colour/transferTables';
import type { Vec3 } from '../colour/matrix';
import type { SmoothField } from '../fields/map';
import { matteFunction } from './matte';
import type { Region } from './region';

/**
 * Standard deviation of the Gaussian that a neighbourhood is weighted with, over the size of specks: a round speck of that
 * size then fills 1 − exp(−1/18) = 5 % of its neighbourhood.
 */
const SPREAD = 1.5;

/** A corner of 90° fills a quarter of the neighbourhood of its tip: it is rounded. What fills less than this goes. */
export const SPECK = 0.15;

const clamp01 = (t: number): number => Math.min(1, Math.max(0, t));

/**
 * What a colour chooses (`a`, 0–1), without specks and holes: clamped between limits that its neighbourhood gives. `p`: how
 * much of the neighbourhood is chosen. Beside a straight edge at least half of it is, on either side of the limit, so that
 * edges stay where and as sharp as they are; where `a` is as `p`, nothing changes.
 */
export function cleaned(a: number, p: number): number {
  const most = p + (1 - p) * clamp01((p - SPECK) / (0.5 - SPECK));
  const least = p - p * clamp01((1 - p - SPECK) / (0.5 - SPECK));
  return Math.min(most, Math.max(least, a));
}

/** The same in the shading language. */
export const CLEANED = `
float cleaned(float a, float p) {
  float most = p + (1.0 - p) * clamp((p - ${SPECK}) / ${0.5 - SPECK}, 0.0, 1.0);
  float least = p - p * clamp((${1 - SPECK} - p) / ${0.5 - SPECK}, 0.0, 1.0);
  return min(most, max(least, a));
}`;

/** Whether a region looks at the neighbourhood of what its colours choose. */
export const cleans = ({ matte, clean }: Region): boolean => matte !== undefined && clean > 0;

/** How much of each cell's neighbourhood a region's colours choose, from the frame as it enters the step. */
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
