import type { Chromaticity } from './primaries';

// CIE 1931 2° colour-matching functions, 380–780 nm every 5 nm (CIE 15; from memory, checked by their published sums).
const X_BAR = [
  0.001368, 0.002236, 0.004243, 0.00765, 0.01431, 0.02319, 0.04351, 0.07763, 0.13438, 0.21477, 0.2839, 0.3285, 0.34828,
  0.34806, 0.3362, 0.3187, 0.2908, 0.2511, 0.19536, 0.1421, 0.09564, 0.05795, 0.03201, 0.0147, 0.0049, 0.0024, 0.0093,
  0.0291, 0.06327, 0.1096, 0.1655, 0.22575, 0.2904, 0.3597, 0.43345, 0.51205, 0.5945, 0.6784, 0.7621, 0.8425, 0.9163,
  0.9786, 1.0263, 1.0567, 1.0622, 1.0456, 1.0026, 0.9384, 0.85445, 0.7514, 0.6424, 0.5419, 0.4479, 0.3608, 0.2835,
  0.2187, 0.1649, 0.1212, 0.0874, 0.0636, 0.04677, 0.0329, 0.0227, 0.01584, 0.011359, 0.008111, 0.00579, 0.004109,
  0.002899, 0.002049, 0.00144, 0.001, 0.00069, 0.000476, 0.000332, 0.000235, 0.000166, 0.000117, 0.000083, 0.000059,
  0.000042,
];
const Y_BAR = [
  0.000039, 0.000064, 0.00012, 0.000217, 0.000396, 0.00064, 0.00121, 0.00218, 0.004, 0.0073, 0.0116, 0.01684, 0.023,
  0.0298, 0.038, 0.048, 0.06, 0.0739, 0.09098, 0.1126, 0.13902, 0.1693, 0.20802, 0.2586, 0.323, 0.4073, 0.503, 0.6082,
  0.71, 0.7932, 0.862, 0.91485, 0.954, 0.9803, 0.99495, 1, 0.995, 0.9786, 0.952, 0.9154, 0.87, 0.8163, 0.757, 0.6949,
  0.631, 0.5668, 0.503, 0.4412, 0.381, 0.321, 0.265, 0.217, 0.175, 0.1382, 0.107, 0.0816, 0.061, 0.04458, 0.032, 0.0232,
  0.017, 0.01192, 0.00821, 0.005723, 0.004102, 0.002929, 0.002091, 0.001484, 0.001047, 0.00074, 0.00052, 0.000361,
  0.000249, 0.000172, 0.00012, 0.000085, 0.00006, 0.000042, 0.00003, 0.000021, 0.000015,
];
const Z_BAR = [
  0.00645, 0.01055, 0.02005, 0.03621, 0.06785, 0.1102, 0.2074, 0.3713, 0.6456, 1.03905, 1.3856, 1.62296, 1.74706,
  1.7826, 1.77211, 1.7441, 1.6692, 1.5281, 1.28764, 1.0419, 0.81295, 0.6162, 0.46518, 0.3533, 0.272, 0.2123, 0.1582,
  0.1117, 0.07825, 0.05725, 0.04216, 0.02984, 0.0203, 0.0134, 0.00875, 0.00575, 0.0039, 0.00275, 0.0021, 0.0018,
  0.00165, 0.0014, 0.0011, 0.001, 0.0008, 0.0006, 0.00034, 0.00024, 0.00019, 0.0001, 0.00005, 0.00003, 0.00002, 0.00001,
];
const STEP_NM = 5;
/** Second radiation constant, m·K (CODATA). */
const C2 = 1.438776877e-2;

/** A white as correlated colour temperature and distance from the Planckian locus. */
export interface KelvinDuv {
  /** Correlated colour temperature, K. */
  kelvin: number;
  /** Signed distance in CIE 1960 uv; above 0 is on the green side (ANSI C78.377). */
  duv: number;
}

interface Uv {
  u: number;
  v: number;
}

/** Valid range of kelvin and Duv. */
export const KELVIN_MIN = 1667;
export const KELVIN_MAX = 25000;
export const DUV_MAX = 0.05;

function planckianUv(kelvin: number): Uv {
  let X = 0;
  let Y = 0;
  let Z = 0;
  for (let i = 0; i < X_BAR.length; i += 1) {
    const metres = (380 + STEP_NM * i) * 1e-9;
    const m = 1e-36 / (metres ** 5 * Math.expm1(C2 / (metres * kelvin)));
    X += m * X_BAR[i];
    Y += m * Y_BAR[i];
    Z += m * (Z_BAR[i] ?? 0);
  }
  const d = X + 15 * Y + 3 * Z;
  return { u: (4 * X) / d, v: (6 * Y) / d };
}

/** Unit normal of the locus at a temperature, pointing to the green side. */
function normalAt(kelvin: number): Uv {
  const step = kelvin * 1e-4;
  const a = planckianUv(kelvin - step);
  const b = planckianUv(kelvin + step);
  const [du, dv] = [b.u - a.u, b.v - a.v];
  const length = Math.hypot(du, dv);
  return { u: dv / length, v: -du / length };
}

/**
 * Chromaticity of a white given by kelvin (1667–25 000) and Duv (±0.05), along the normal of the Planckian locus as
 * Ohno (2014) defines Duv. Throws a RangeError outside those limits.
 */
export function kelvinToXy({ kelvin, duv }: KelvinDuv): Chromaticity {
  if (!(kelvin >= KELVIN_MIN && kelvin <= KELVIN_MAX) || !(Math.abs(duv) <= DUV_MAX)) {
    throw new RangeError(`A white needs ${KELVIN_MIN}–${KELVIN_MAX} K and a Duv within ±${DUV_MAX}.`);
  }
  const p = planckianUv(kelvin);
  const n = normalAt(kelvin);
  // Positive is towards green: larger v on this locus.
  const sign = n.v > 0 ? 1 : -1;
  const u = p.u + sign * duv * n.u;
  const v = p.v + sign * duv * n.v;
  const d = 2 * u - 8 * v + 4;
  return { x: (3 * u) / d, y: (2 * v) / d };
}

/**
 * Correlated colour temperature and Duv of a chromaticity: the nearest point of the Planckian locus in CIE 1960 uv
 * (definition of Ohno 2014, found by a golden-section search over reciprocal megakelvin instead of his table).
 * The answer is clamped to 1667–25 000 K; Duv is not limited.
 */
export function xyToKelvin({ x, y }: Chromaticity): KelvinDuv {
  const d = -2 * x + 12 * y + 3;
  const [u, v] = [(4 * x) / d, (6 * y) / d];
  const distance = (mired: number): number => {
    const p = planckianUv(1e6 / mired);
    return Math.hypot(u - p.u, v - p.v);
  };
  const golden = (Math.sqrt(5) - 1) / 2;
  let lo = 1e6 / KELVIN_MAX;
  let hi = 1e6 / KELVIN_MIN;
  for (let i = 0; i < 48; i += 1) {
    const a = hi - golden * (hi - lo);
    const b = lo + golden * (hi - lo);
    if (distance(a) < distance(b)) hi = b;
    else lo = a;
  }
  const kelvin = 2e6 / (lo + hi);
  const p = planckianUv(kelvin);
  const side = v - p.v >= 0 ? 1 : -1;
  return { kelvin, duv: side * Math.hypot(u - p.u, v - p.v) };
}
