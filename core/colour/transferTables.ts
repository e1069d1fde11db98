import { bt709 } from './transfer';

// The BT.709 transfer function by tables, for whole pictures: to 2e-6, many times as fast. Beyond their ends, exactly.
const STEPS = 8192;

const [LOW, HIGH] = [-0.5, 2];
const DECODED = Float32Array.from({ length: STEPS + 2 }, (_, i) => bt709.decode(LOW + (i / STEPS) * (HIGH - LOW)));

/** BT.709 signal to linear light. */
export function decode709(v: number): number {
  if (!(v > LOW && v < HIGH)) return bt709.decode(v);
  const at = ((v - LOW) / (HIGH - LOW)) * STEPS;
  const i = at | 0;
  return DECODED[i] + (at - i) * (DECODED[i + 1] - DECODED[i]);
}

// Encoding is steep near black: the table lies over the square root of light, up to this root.
const ROOT = 2;
const ENCODED = Float32Array.from({ length: STEPS + 2 }, (_, i) => bt709.encode(((i / STEPS) * ROOT) ** 2));

/** Linear light to BT.709 signal. */
export function encode709(v: number): number {
  const size = v < 0 ? -v : v;
  const at = (Math.sqrt(size) / ROOT) * STEPS;
  if (!(at < STEPS)) return bt709.encode(v);
  const i = at | 0;
  const e = ENCODED[i] + (at - i) * (ENCODED[i + 1] - ENCODED[i]);
  return v < 0 ? -e : e;
}
