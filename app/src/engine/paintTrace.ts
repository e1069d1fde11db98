import type { Trace } from '@inkavo/core/scopes/trace';

export interface PaintedTrace {
  pixels: Uint8ClampedArray<ArrayBuffer>;
  columns: number;
  rows: number;
}

type Ink = readonly [number, number, number];
const WHITE: Ink = [232, 232, 232];
const INKS = { red: [255, 92, 84], green: [84, 232, 110], blue: [104, 152, 255] } as const satisfies Record<
  string,
  Ink
>;

/** Share of a column's pixels on one level that is drawn at full strength. */
const FULL = 0.06;

/** How strongly a count is drawn, 0–1: thin traces stay visible, dense ones do not flood. */
const strength = (count: number, perColumn: number): number =>
  Math.min(1, 0.16 + 0.84 * Math.sqrt(count / (perColumn * FULL)));

function paintInto(
  out: PaintedTrace,
  counts: Uint32Array,
  columns: number,
  perColumn: number,
  ink: Ink,
  left: number,
): void {
  for (let y = 0; y < out.rows; y += 1) {
    for (let x = 0; x < columns; x += 1) {
      const count = counts[y * columns + x];
      if (count === 0) continue;
      const s = strength(count, perColumn);
      const o = (y * out.columns + left + x) * 4;
      for (let c = 0; c < 3; c += 1) out.pixels[o + c] = ink[c] * s;
      out.pixels[o + 3] = 255;
    }
  }
}

const blank = (columns: number, rows: number): PaintedTrace => ({
  pixels: new Uint8ClampedArray(columns * rows * 4),
  columns,
  rows,
});

/** The luma trace as RGBA, transparent where nothing is. */
export function paintLuma({ counts, columns, rows, perColumn }: Trace): PaintedTrace {
  const out = blank(columns, rows);
  paintInto(out, counts.luma, columns, perColumn, WHITE, 0);
  return out;
}

/** Red, green and blue side by side as RGBA. */
export function paintParade({ counts, columns, rows, perColumn }: Trace): PaintedTrace {
  const out = blank(columns * 3, rows);
  (['red', 'green', 'blue'] as const).forEach((channel, i) =>
    paintInto(out, counts[channel], columns, perColumn, INKS[channel], i * columns),
  );
  return out;
}
