import { invert, transformInPlace } from '../../colour/matrix';
import { toWorking } from '../../colour/adaptation';
import { resolvePrimaries } from '../../model/profile';
import { bt709 } from '../../colour/transfer';
import type { Shaper, Table } from '../../program/table';
import { linearToSignal, signalToLinear } from '../convert/transfer';
import type { PointFn } from '../types';

/** Range of encoded values that the HLG signal can hold: its maximum, and BT.709's red for its most saturated green. */
const [LOW, HIGH] = [-1.6, 1.9];
/** Entries of the curve: fine enough that near black, where the signal is a square root, a step is 0.7 %. */
const ENTRIES = 16_384;
/** With this size, the table is within 1.3 of 876 code values for 99 % of the signal's range (measured). */
const NODES = 65;
/** The signal of {@link LOW}, extended below 0 as an odd function. */
const DARKEST = -0.96;

const toWide = invert(toWorking(resolvePrimaries('bt2020')));
const [encode, decode] = [linearToSignal({ kind: 'hlg' }), signalToLinear({ kind: 'hlg' })];
const clamp01 = (v: number): number => (v > 0 ? (v < 1 ? v : 1) : 0);

/**
 * Encoded working values (BT.709, extended above 1) to the HLG signal of ITU-R BT.2100 with its primaries; reference
 * white is at 75 % (ITU-R BT.2408). Values outside the signal's range are clipped.
 */
export const asHlg: PointFn = (rgb) => {
  for (let c = 0; c < 3; c += 1) rgb[c] = bt709.decode(rgb[c]);
  transformInPlace(toWide, rgb);
  for (let c = 0; c < 3; c += 1) rgb[c] = clamp01(encode(rgb[c]));
};

const inRange = (v: number): number => Math.min(1, Math.max(DARKEST, v));

/**
 * The signal of a single channel, over which the table is laid out: over encoded values it would be steep near black.
 */
function curve(): Shaper {
  const data = new Float32Array(ENTRIES * 3);
  for (let i = 0; i < ENTRIES; i += 1)
    data.fill(inRange(encode(bt709.decode(LOW + (i * (HIGH - LOW)) / (ENTRIES - 1)))), 3 * i, 3 * i + 3);
  return { size: ENTRIES, low: [LOW, LOW, LOW], high: [HIGH, HIGH, HIGH], data };
}

let made: Table | undefined;

/** {@link asHlg} as a table with a curve before it, for values from another op. */
export function hlgTable(): Table {
  if (made) return made;
  const shaper = curve();
  const data = new Float32Array(NODES ** 3 * 4).fill(1);
  // The encoded value that the curve maps to each node.
  const encoded = Array.from({ length: NODES }, (_, i) =>
    bt709.encode(decode(DARKEST + (i * (1 - DARKEST)) / (NODES - 1))),
  );
  const rgb: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < NODES ** 3; i += 1) {
    rgb[0] = encoded[i % NODES];
    rgb[1] = encoded[Math.floor(i / NODES) % NODES];
    rgb[2] = encoded[Math.floor(i / NODES ** 2)];
    asHlg(rgb);
    data.set(rgb, 4 * i);
  }
  return (made = { size: NODES, domain: [DARKEST, 1], shaper, data });
}
