import { signalToLinear } from '../steps/convert/transfer';
import type { Profile, TransferSpec } from './profile';

/** A neutral patch as filmed: its code value (0–1) and its reflectance (0–1, white paper near 0.9). */
export interface FilmedPatch {
  code: number;
  light: number;
}

export interface FittedCurve {
  transfer: TransferSpec;
  /** Residuals of the curve's code values: root mean square, and maximum. */
  residual: number;
  most: number;
}

/** A curve has three unknowns. */
export const FEWEST_PATCHES = 3;
/** Search range for the offset of a log curve, in light 0–1: from pure log to nearly linear. */
const LIFTS = [1e-4, 1] as const;
const EXPONENTS = [1, 4] as const;
const ROUNDS = 60;
const GOLDEN = (Math.sqrt(5) - 1) / 2;

/** Minimum of a unimodal function between two limits (golden-section search). */
function least(f: (v: number) => number, low: number, high: number): number {
  let [a, b] = [low, high];
  for (let i = 0; i < ROUNDS; i += 1) {
    const [c, d] = [b - GOLDEN * (b - a), a + GOLDEN * (b - a)];
    if (f(c) < f(d)) b = d;
    else a = c;
  }
  return (a + b) / 2;
}

/** Linear regression of y on x. */
function line(points: readonly (readonly [x: number, y: number])[]): { slope: number; offset: number } {
  const n = points.length;
  const [mx, my] = [0, 1].map((k) => points.reduce((s, p) => s + p[k], 0) / n);
  const sxx = points.reduce((s, [x]) => s + (x - mx) ** 2, 0);
  const slope = sxx > 0 ? points.reduce((s, [x, y]) => s + (x - mx) * (y - my), 0) / sxx : 0;
  return { slope, offset: my - slope * mx };
}

/** Code = offset + slope · log10(light + lift): for a given lift, slope and offset follow from linear regression. */
function logCurve(patches: readonly FilmedPatch[], lift: number): { slope: number; offset: number; off: number[] } {
  const { slope, offset } = line(patches.map(({ code, light }) => [Math.log10(light + lift), code] as const));
  return { slope, offset, off: patches.map(({ code, light }) => offset + slope * Math.log10(light + lift) - code) };
}

const squares = (off: readonly number[]): number => off.reduce((s, v) => s + v * v, 0);
const measured = (transfer: TransferSpec, off: readonly number[]): FittedCurve => ({
  transfer,
  residual: Math.sqrt(squares(off) / off.length),
  most: Math.max(...off.map(Math.abs)),
});

/**
 * Fits an increasing curve to a filmed grey ramp or chart: a log curve in the Common LUT Format's camera form, or a
 * plain gamma where that fits better. Throws a RangeError, with a message for the user, where the patches are too few,
 * too similar, or do not increase with their light.
 */
export function fitCurve(patches: readonly FilmedPatch[]): FittedCurve {
  if (patches.length < FEWEST_PATCHES)
    throw new RangeError(`At least ${FEWEST_PATCHES} patches are needed: there are ${patches.length}.`);
  const sorted = patches.toSorted((a, b) => a.light - b.light);
  const [first, last] = [sorted[0], sorted[sorted.length - 1]];
  if (last.light < 4 * first.light)
    throw new RangeError('The patches are too much alike: take darker and lighter ones.');
  const falls = sorted.findIndex((p, i) => i > 0 && p.light > sorted[i - 1].light && p.code <= sorted[i - 1].code);
  if (falls > 0)
    throw new RangeError(
      `A patch of ${(100 * sorted[falls].light).toFixed(0)} % is filmed no brighter than one of ${(100 * sorted[falls - 1].light).toFixed(0)} %.`,
    );
  const lift = Math.exp(
    least((v) => squares(logCurve(sorted, Math.exp(v)).off), Math.log(LIFTS[0]), Math.log(LIFTS[1])),
  );
  const { slope, offset, off } = logCurve(sorted, lift);
  const log = measured(
    {
      kind: 'logCamera',
      base: 10,
      logSideSlope: slope,
      logSideOffset: offset,
      linSideSlope: 1,
      linSideOffset: lift,
      linSideBreak: 0,
    },
    off,
  );
  const gammaOff = (exponent: number): number[] => sorted.map((p) => Math.max(0, p.light) ** (1 / exponent) - p.code);
  const exponent = least((v) => squares(gammaOff(v)), ...EXPONENTS);
  const gamma = measured({ kind: 'gamma', exponent }, gammaOff(exponent));
  return gamma.residual < log.residual ? gamma : log;
}

/** Linear light of filmed code values by a profile's curve, with a single gain fitted to the patches' reflectances. */
export function lightOf(patches: readonly FilmedPatch[], { transfer }: Pick<Profile, 'transfer'>): number[] {
  const decode = signalToLinear(transfer);
  const seen = patches.map((p) => decode(p.code));
  const gain =
    seen.reduce((s, v, i) => s + v * patches[i].light, 0) /
    Math.max(
      1e-9,
      seen.reduce((s, v) => s + v * v, 0),
    );
  return seen.map((v) => gain * v);
}
