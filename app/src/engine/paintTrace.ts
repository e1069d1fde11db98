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

/** Share of a pixel count that counts as dense on the vectorscope, where one place gathers what a column does not. */
const DENSE = 0.0012;
/** Colours on the vectorscope are told by their place; the trace itself is drawn in their own hue, but light. */
const HUE_INK = 0.8;

/** A vectorscope trace as RGBA: each place in its own hue, brighter where more pixels are. */
export function paintVectorscope(counts: Uint32Array, size: number, pixels: number): PaintedTrace {
  const out = blank(size, size);
  const middle = size / 2;
  for (let y = 0; y < size; y += 1) {
    for (let x = 0; x < size; x += 1) {
      const count = counts[y * size + x];
      if (count === 0) continue;
      const s = Math.min(1, 0.45 + 0.55 * Math.sqrt(count / (pixels * DENSE)));
      const [cb, cr] = [((x - middle) / middle) * HUE_INK, ((middle - y) / middle) * HUE_INK];
      const o = (y * size + x) * 4;
      const l = 0.78 * s;
      out.pixels[o] = 255 * Math.min(1, Math.max(0, l + 1.5748 * cr * s));
      out.pixels[o + 1] =
        255 * Math.min(1, Math.max(0, l - (0.2126 * 1.5748 * cr * s + 0.0722 * 1.8556 * cb * s) / 0.7152));
      out.pixels[o + 2] = 255 * Math.min(1, Math.max(0, l + 1.8556 * cb * s));
      out.pixels[o + 3] = 255;
    }
  }
  return out;
}
