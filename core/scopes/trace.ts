/** Lowest and highest encoded value a waveform shows: room below 0 % and above 100 %. */
export const TRACE_LOW = -0.1;
export const TRACE_HIGH = 1.12;

/** How many pixels of each column fall on each level; row 0 is {@link TRACE_HIGH}. */
export interface Trace {
  columns: number;
  rows: number;
  /** columns × rows counts for luma, then red, green, blue. */
  counts: { luma: Uint32Array; red: Uint32Array; green: Uint32Array; blue: Uint32Array };
  /** Pixels that fell into each column. */
  perColumn: number;
}

/** The row (0 at the top) of an encoded value on a trace with `rows` rows, held to the trace. */
export function rowOf(value: number, rows: number): number {
  const t = (TRACE_HIGH - value) / (TRACE_HIGH - TRACE_LOW);
  return Math.min(rows - 1, Math.max(0, Math.floor(t * rows)));
}

/** The encoded value at a height of the trace, `t` 0 (top) to 1. */
export const valueOfHeight = (t: number): number => TRACE_HIGH - t * (TRACE_HIGH - TRACE_LOW);

/**
 * Waveform of luma and the three channels in one pass, column under column of the picture.
 * `rgb` holds width × height × 3 encoded values; columns are at most as many as the picture has.
 */
export function traceWaveform(rgb: Float32Array, width: number, height: number, columns: number, rows: number): Trace {
  const cols = Math.min(columns, width);
  const make = () => new Uint32Array(cols * rows);
  const counts = { luma: make(), red: make(), green: make(), blue: make() };
  const scale = rows / (TRACE_HIGH - TRACE_LOW);
  const top = rows - 1;
  const column = new Uint32Array(width);
  for (let x = 0; x < width; x += 1) column[x] = Math.floor((x * cols) / width);
  const at = (value: number): number => {
    const row = ((TRACE_HIGH - value) * scale) | 0;
    return row < 0 ? 0 : row > top ? top : row;
  };
  for (let y = 0, o = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1, o += 3) {
      const [r, g, b] = [rgb[o], rgb[o + 1], rgb[o + 2]];
      const c = column[x];
      counts.luma[at(0.2126 * r + 0.7152 * g + 0.0722 * b) * cols + c] += 1;
      counts.red[at(r) * cols + c] += 1;
      counts.green[at(g) * cols + c] += 1;
      counts.blue[at(b) * cols + c] += 1;
    }
  }
  return { columns: cols, rows, counts, perColumn: (width * height) / cols };
}
