/** A transfer function between a non-linear signal (1 = reference white) and linear light. */
export interface Transfer {
  /** Linear light to signal. */
  encode(linear: number): number;
  /** Signal to linear light; the inverse of `encode`. */
  decode(signal: number): number;
}

/** Extends a function of non-negative numbers to all numbers, odd-symmetrically. */
const odd = (f: (x: number) => number) => (x: number) => (x < 0 ? -f(-x) : f(x));

// BT.709 gives its constants to three digits; these solve continuity of value and slope, as BT.2020-2 prints for its
// 12-bit form (α = 1.0993, β = 0.0181), so that the curve has no step at the break. They agree with BT.709 to 1e-4.
export const ALPHA = 1.09929682680944;
export const BETA = 0.018053968510807;

/** ITU-R BT.709-6 opto-electronic transfer function, odd-symmetric below 0 and continued above 1. */
export const bt709: Transfer = {
  encode: odd((l) => (l < BETA ? 4.5 * l : ALPHA * Math.pow(l, 0.45) - (ALPHA - 1))),
  decode: odd((v) => (v < 4.5 * BETA ? v / 4.5 : Math.pow((v + (ALPHA - 1)) / ALPHA, 1 / 0.45))),
};

/** IEC 61966-2-1 (sRGB). */
export const srgb: Transfer = {
  encode: odd((l) => (l <= 0.0031308 ? 12.92 * l : 1.055 * Math.pow(l, 1 / 2.4) - 0.055)),
  decode: odd((v) => (v <= 0.04045 ? v / 12.92 : Math.pow((v + 0.055) / 1.055, 2.4))),
};

/** A plain power function: linear = signal^exponent. */
export const gamma = (exponent: number): Transfer => ({
  encode: odd((l) => Math.pow(l, 1 / exponent)),
  decode: odd((v) => Math.pow(v, exponent)),
});

/** ITU-R BT.1886 display with black at 0: gamma 2.4. */
export const bt1886 = gamma(2.4);

const HLG_A = 0.17883277;
const HLG_B = 1 - 4 * HLG_A;
const HLG_C = 0.5 - HLG_A * Math.log(4 * HLG_A);

/** ITU-R BT.2100 hybrid log-gamma OETF; linear is scene light 0–1. */
export const hlg: Transfer = {
  encode: odd((l) => (l <= 1 / 12 ? Math.sqrt(3 * l) : HLG_A * Math.log(12 * l - HLG_B) + HLG_C)),
  decode: odd((v) => (v <= 0.5 ? (v * v) / 3 : (Math.exp((v - HLG_C) / HLG_A) + HLG_B) / 12)),
};

const M1 = 2610 / 16384;
const M2 = (128 * 2523) / 4096;
const C1 = 3424 / 4096;
const C2 = (32 * 2413) / 4096;
const C3 = (32 * 2392) / 4096;

/** ITU-R BT.2100 PQ; linear is display light, 1 = 10 000 cd/m². */
export const pq: Transfer = {
  encode: odd((l) => {
    const p = Math.pow(l, M1);
    return Math.pow((C1 + C2 * p) / (1 + C3 * p), M2);
  }),
  decode: odd((v) => {
    const p = Math.pow(v, 1 / M2);
    return Math.pow(Math.max(p - C1, 0) / (C2 - C3 * p), 1 / M1);
  }),
};

/** Parameters of the log-camera form of the Common LUT Format (SMPTE ST 2136-1, style cameraLinToLog). */
export interface LogCamera {
  /** Base of the logarithm, above 0 and not 1. */
  base: number;
  logSideSlope: number;
  logSideOffset: number;
  linSideSlope: number;
  linSideOffset: number;
  /** Linear value below which the curve is a straight line. */
  linSideBreak: number;
  /** Slope of that line; left out, it continues the slope of the curve. */
  linearSlope?: number;
}

/** The log-camera form. Throws a RangeError when the parameters give no increasing curve. */
export function logCamera(p: LogCamera): Transfer {
  const lnBase = Math.log(p.base);
  const atBreak = p.linSideSlope * p.linSideBreak + p.linSideOffset;
  if (!(lnBase !== 0 && Number.isFinite(lnBase)) || !(atBreak > 0)) {
    throw new RangeError('The log curve has no value at its break: check base, linear side slope, offset and break.');
  }
  const slope = p.linearSlope ?? (p.logSideSlope * p.linSideSlope) / (atBreak * lnBase);
  if (!(slope > 0) || !(p.logSideSlope * p.linSideSlope * lnBase > 0)) {
    throw new RangeError('The log curve does not rise: check its slopes.');
  }
  const valueAtBreak = (p.logSideSlope * Math.log(atBreak)) / lnBase + p.logSideOffset;
  const linearOffset = valueAtBreak - slope * p.linSideBreak;
  return {
    encode: (l) =>
      l <= p.linSideBreak
        ? slope * l + linearOffset
        : (p.logSideSlope * Math.log(p.linSideSlope * l + p.linSideOffset)) / lnBase + p.logSideOffset,
    decode: (v) =>
      v <= valueAtBreak
        ? (v - linearOffset) / slope
        : (Math.exp(((v - p.logSideOffset) / p.logSideSlope) * lnBase) - p.linSideOffset) / p.linSideSlope,
  };
}

/** ACEScct (Academy S-2016-001) as parameters of the log-camera form. */
export const ACESCCT: LogCamera = {
  base: 2,
  logSideSlope: 1 / 17.52,
  logSideOffset: 9.72 / 17.52,
  linSideSlope: 1,
  linSideOffset: 0,
  linSideBreak: 0.0078125,
};
