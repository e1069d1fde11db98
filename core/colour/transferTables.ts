import { ALPHA, BETA, bt709 } from './transfer';

/*
 * The BT.709 transfer function as piecewise cubic Hermite polynomials (continuous in value and slope), for whole
 * pictures and tables: within 1e-11 of the exact function at a fraction of the cost of its power. The linear segment
 * and values beyond the table are computed exactly.
 */
const PIECES = 1024;

/** Cubic coefficients of a function with this slope between two abscissae: four per piece, highest degree first. */
function pieces(f: (x: number) => number, slope: (x: number) => number, low: number, high: number): Float64Array {
  const width = (high - low) / PIECES;
  const out = new Float64Array(4 * PIECES);
  for (let i = 0; i < PIECES; i += 1) {
    const [x, next] = [low + i * width, low + (i + 1) * width];
    const [v, w, m, n] = [f(x), f(next), width * slope(x), width * slope(next)];
    out.set([2 * (v - w) + m + n, 3 * (w - v) - 2 * m - n, m, v], 4 * i);
  }
  return out;
}

/** The end of the straight part, as a signal, and the end of the pieces. */
const [SIGNAL_LOW, SIGNAL_HIGH] = [4.5 * BETA, 4];
const TO_DECODED = PIECES / (SIGNAL_HIGH - SIGNAL_LOW);
const POWER = 1 / 0.45;
const DECODED = pieces(
  bt709.decode,
  (v) => (POWER / ALPHA) * Math.pow((v + (ALPHA - 1)) / ALPHA, POWER - 1),
  SIGNAL_LOW,
  SIGNAL_HIGH,
);

/** BT.709 signal to linear light. */
export function decode709(v: number): number {
  const size = v < 0 ? -v : v;
  if (size < SIGNAL_LOW) return v / 4.5;
  const at = (size - SIGNAL_LOW) * TO_DECODED;
  if (!(at < PIECES)) return bt709.decode(v);
  const i = at | 0;
  const t = at - i;
  const k = 4 * i;
  const l = ((DECODED[k] * t + DECODED[k + 1]) * t + DECODED[k + 2]) * t + DECODED[k + 3];
  return v < 0 ? -l : l;
}

// Encoding is steep near black, so its pieces are spaced evenly over the square root of light.
const [ROOT_LOW, ROOT_HIGH] = [Math.sqrt(BETA), 4];
const TO_ENCODED = PIECES / (ROOT_HIGH - ROOT_LOW);
const ENCODED = pieces(
  (root) => bt709.encode(root * root),
  (root) => 0.9 * ALPHA * Math.pow(root, -0.1),
  ROOT_LOW,
  ROOT_HIGH,
);

/** Linear light to BT.709 signal. */
export function encode709(l: number): number {
  const size = l < 0 ? -l : l;
  if (size < BETA) return 4.5 * l;
  const at = (Math.sqrt(size) - ROOT_LOW) * TO_ENCODED;
  if (!(at < PIECES)) return bt709.encode(l);
  // The root may round to just below the first piece at the end of the linear segment.
  const i = at > 0 ? at | 0 : 0;
  const t = at - i;
  const k = 4 * i;
  const v = ((ENCODED[k] * t + ENCODED[k + 1]) * t + ENCODED[k + 2]) * t + ENCODED[k + 3];
  return l < 0 ? -v : v;
}
