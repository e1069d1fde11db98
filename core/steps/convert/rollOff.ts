import { decode709, encode709 } from '../../colour/transferTables';

/**
 * A highlight shoulder on encoded values: unchanged below `start`; above, values approach 1 asymptotically with
 * continuous slope. `start` 0–1 encoded; 1 is off. Takes and returns linear light.
 */
export function rollOff(start: number): (linear: number) => number {
  if (start >= 1) return (l) => l;
  const room = 1 - start;
  const startLinear = decode709(start);
  return (l) => {
    if (l <= startLinear) return l;
    const u = (encode709(l) - start) / room;
    return decode709(start + (room * u) / (1 + u));
  };
}
