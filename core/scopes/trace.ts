/** Range of encoded values on a waveform, with room below 0 % and above 100 %. */
export const TRACE_LOW = -0.1;
export const TRACE_HIGH = 1.12;

export type TraceChannel = 'luma' | 'red' | 'green' | 'blue';

/** Number of pixels of each column at each level; row 0 is {@link TRACE_HIGH}. */
export interface Trace {
  columns: number;
  rows: number;
  /** columns × rows counts for each requested channel; the others are empty. */
  counts: Record<TraceChannel, Uint32Array>;
  /** Number of pixels in each column. */
  perColumn: number;
}

/** The row (0 at the top) of an encoded value on a trace with `rows` rows, clamped. */
export function rowOf(value: number, rows: number): number {
  const t = (TRACE_HIGH - value) / (TRACE_HIGH - TRACE_LOW);
  return Math.min(rows - 1, Math.max(0, Math.floor(t * rows)));
}

/** The encoded value at a height of the trace, `t` 0 (top) to 1. */
export const valueOfHeight = (t: number): number => TRACE_HIGH - t * (TRACE_HIGH - TRACE_LOW);

const WEIGHTS: Record<TraceChannel, readonly [number, number, number]> = {
  luma: [0.2126, 0.7152, 0.0722],
  red: [1, 0, 0],
  green: [0, 1, 0],
  blue: [0, 0, 1],
};

/**
 * Waveforms of luma and the three channels, or of some of them, column by column. `rgb` holds width × height × 3
 * encoded values, NaN for pixels that do not count; there are at most as many columns as the picture has.
 */
export function traceWaveform(
  rgb: Float32Array,
  width: number,
  height: number,
  columns: number,
  rows: number,
  channels: readonly TraceChannel[] = ['luma', 'red', 'green', 'blue'],
): Trace {
  const cols = Math.min(columns, width);
  const column = new Uint32Array(width);
  for (let x = 0; x < width; x += 1) column[x] = Math.floor((x * cols) / width);
  const scale = rows / (TRACE_HIGH - TRACE_LOW);
  const top = rows - 1;
  const count = (channel: TraceChannel): Uint32Array => {
    if (!channels.includes(channel)) return new Uint32Array(0);
    const counts = new Uint32Array(cols * rows);
    const [wr, wg, wb] = WEIGHTS[channel];
    for (let y = 0, o = 0; y < height; y += 1) {
      for (let x = 0; x < width; x += 1, o += 3) {
        const value = wr * rgb[o] + wg * rgb[o + 1] + wb * rgb[o + 2];
        if (Number.isNaN(value)) continue;
        const row = ((TRACE_HIGH - value) * scale) | 0;
        counts[(row < 0 ? 0 : row > top ? top : row) * cols + column[x]] += 1;
      }
    }
    return counts;
  };
  const counts = { luma: count('luma'), red: count('red'), green: count('green'), blue: count('blue') };
  return { columns: cols, rows, counts, perColumn: (width * height) / cols };
}
