import type { Vec3 } from '../colour/matrix';
import type { Profile } from '../model/profile';

/**
 * A log curve by the code values of black, of 18 % grey and of white: code = offset + slope · log10(light + lift). If
 * no logarithmic curve passes through all three, the nearest grey value that allows one is used.
 */
export function logProfile(
  name: string,
  [black, grey, white]: Readonly<Vec3>,
  primaries: Profile['primaries'],
): Profile {
  const slopeFor = (lift: number): number => (white - grey) / (Math.log10(1 + lift) - Math.log10(0.18 + lift));
  let [low, high] = [1e-5, 1];
  for (let i = 0; i < 60; i += 1) {
    const lift = Math.sqrt(low * high);
    const dark = white - slopeFor(lift) * (Math.log10(1 + lift) - Math.log10(lift));
    if (dark > black) high = lift;
    else low = lift;
  }
  const lift = low;
  const slope = slopeFor(lift);
  return {
    name,
    transfer: {
      kind: 'logCamera',
      base: 10,
      logSideSlope: slope,
      logSideOffset: white - slope * Math.log10(1 + lift),
      linSideSlope: 1,
      linSideOffset: lift,
      linSideBreak: 0,
    },
    primaries,
  };
}

/** Range of black, grey and white in flat recordings of typical cameras (common practice). */
const BLACKS = [0.05, 0.12, 0.2];
const GREYS = [0.2, 0.3];
const WHITES = [0.4, 0.56, 0.72];

/** Representative curves for those without a known profile. */
export const UNKNOWN_CURVES: readonly Profile[] = BLACKS.flatMap((black) =>
  GREYS.flatMap((grey) =>
    WHITES.filter((white) => white > grey + 0.12 && black + white < 0.9).map((white) =>
      logProfile('Unknown', [black, black + grey, black + white], 'bt709'),
    ),
  ),
);
