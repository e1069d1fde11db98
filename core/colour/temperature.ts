import type { Chromaticity } from './primaries';

// CIE 1931 2° colour-matching functions, 380–780 nm every 10 nm (CIE 15, rounded to four places).
const X_BAR = [
  0.0014, 0.0042, 0.0143, 0.0435, 0.1344, 0.2839, 0.3483, 0.3362, 0.2908, 0.1954, 0.0956, 0.032, 0.0049, 0.0093, 0.0633,
  0.1655, 0.2904, 0.4334, 0.5945, 0.7621, 0.9163, 1.0263, 1.0622, 1.0026, 0.8544, 0.6424, 0.4479, 0.2835, 0.1649,
  0.0874, 0.0468, 0.0227, 0.0114, 0.0058, 0.0029, 0.0014, 0.0007, 0.0003, 0.0002, 0.0001, 0,
];
const Y_BAR = [
  0, 0.0001, 0.0004, 0.0012, 0.004, 0.0116, 0.023, 0.038, 0.06, 0.091, 0.139, 0.208, 0.323, 0.503, 0.71, 0.862, 0.954,
  0.995, 0.995, 0.952, 0.87, 0.757, 0.631, 0.503, 0.381, 0.265, 0.175, 0.107, 0.061, 0.032, 0.017, 0.0082, 0.0041,
  0.0021, 0.001, 0.0005, 0.0003, 0.0001, 0.0001, 0, 0,
];
const Z_BAR = [
  0.0065, 0.0201, 0.0679, 0.2074, 0.6456, 1.3856, 1.7471, 1.7721, 1.6692, 1.2876, 0.813, 0.4652, 0.272, 0.1582, 0.0782,
  0.0422, 0.0203, 0.0087, 0.0039, 0.0021, 0.0017, 0.0011, 0.0008, 0.0003, 0.0002, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0,
  0, 0, 0,
];
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

/** Limits within which kelvin and Duv mean something. */
export const KELVIN_MIN = 1667;
export const KELVIN_MAX = 25000;
export const DUV_MAX = 0.05;

function planckianUv(kelvin: number): Uv {
  let X = 0;
  let Y = 0;
  let Z = 0;
  for (let i = 0; i < X_BAR.length; i += 1) {
    const metres = (380 + 10 * i) * 1e-9;
    const m = 1e-36 / (metres ** 5 * Math.expm1(C2 / (metres * kelvin)));
    X += m * X_BAR[i];
    Y += m * Y_BAR[i];
    Z += m * Z_BAR[i];
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
 * Chromaticity of a white given by kelvin (1667–25 000) and Duv (±0.05), on the normal of the Planckian locus
 * as Ohno (2014) defines Duv. Throws a RangeError outside of those limits.
 */
export function kelvinToXy({ kelvin, duv }: KelvinDuv): Chromaticity {
  if (!(kelvin >= KELVIN_MIN && kelvin <= KELVIN_MAX) || !(Math.abs(duv) <= DUV_MAX)) {
    throw new RangeError(`A white needs ${KELVIN_MIN}–${KELVIN_MAX} K and a Duv within ±${DUV_MAX}.`);
  }
  const p = planckianUv(kelvin);
  const n = normalAt(kelvin);
  // Above 0 is towards green: larger v on this locus.
  const sign = n.v > 0 ? 1 : -1;
  const u = p.u + sign * duv * n.u;
  const v = p.v + sign * duv * n.v;
  const d = 2 * u - 8 * v + 4;
  return { x: (3 * u) / d, y: (2 * v) / d };
}

/**
 * Correlated colour temperature and Duv of a chromaticity: the nearest point of the Planckian locus in CIE 1960 uv
 * (definition of Ohno 2014, found by a golden-section search over reciprocal megakelvin instead of his table).
 * The answer is held to 1667–25 000 K; Duv is not limited.
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
