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

/** Share of a column's pixels on one level that is drawn at full opacity. */
const FULL = 0.06;

/** Opacity of a count, 0–1: thin traces stay visible, dense ones do not saturate. */
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

/** The luma trace as RGBA, transparent where empty. */
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

/** Share of pixels at full opacity on the vectorscope, where pixels are more concentrated than in a column. */
const DENSE = 0.0012;
/** Positions on the vectorscope indicate colour; the trace itself is drawn in the corresponding hue, but light. */
const HUE_INK = 0.8;

/** A vectorscope trace as RGBA: each position in its own hue, brighter where more pixels are. */
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

/** Draws the columns `from` to `to` of a trace, scaled, into a part of another one, keeping the brighter value. */
function squeeze(out: PaintedTrace, left: number, width: number, trace: PaintedTrace, from: number, to: number): void {
  const across = width / (to - from);
  const down = out.rows / trace.rows;
  const place = (v: number, end: number): number => Math.min(end - 1, Math.floor(v));
  // As many iterations as the larger of both: thin traces are not lost, and there are no gaps.
  const rows = Math.max(out.rows, trace.rows);
  const columns = Math.max(width, to - from);
  for (let j = 0; j < rows; j += 1) {
    const below = ((j + 0.5) / rows) * trace.rows;
    const y = place(below, trace.rows);
    const outY = place(below * down, out.rows);
    for (let i = 0; i < columns; i += 1) {
      const at = ((i + 0.5) / columns) * (to - from);
      const a = 4 * (y * trace.columns + from + place(at, to - from));
      if (trace.pixels[a + 3] === 0) continue;
      const b = 4 * (outY * out.columns + left + place(at * across, width));
      for (let c = 0; c < 4; c += 1) out.pixels[b + c] = Math.max(out.pixels[b + c], trace.pixels[a + c]);
    }
  }
}

/** Two traces side by side in each of `lanes`, as large as the second one: the first on the left. */
export function besideEachOther(first: PaintedTrace, second: PaintedTrace, lanes: number): PaintedTrace {
  const out = blank(second.columns, second.rows);
  for (let lane = 0; lane < lanes; lane += 1) {
    const edge = (of: PaintedTrace, share: number): number => Math.round((of.columns * (lane + share)) / lanes);
    const [left, middle, right] = [0, 0.5, 1].map((share) => edge(out, share));
    squeeze(out, left, middle - left, first, edge(first, 0), edge(first, 1));
    squeeze(out, middle, right - middle, second, edge(second, 0), edge(second, 1));
  }
  return out;
}

/** Opacity of the trace underneath. */
const UNDER = 0.5;

/** One trace over another, dimmed one; as large as the first. */
export function overEachOther(top: PaintedTrace, under: PaintedTrace): PaintedTrace {
  const out = blank(top.columns, top.rows);
  squeeze(out, 0, out.columns, under, 0, under.columns);
  for (let o = 0; o < out.pixels.length; o += 4) {
    const there = top.pixels[o + 3] > 0;
    for (let c = 0; c < 3; c += 1) out.pixels[o + c] = there ? top.pixels[o + c] : UNDER * out.pixels[o + c];
    if (there) out.pixels[o + 3] = 255;
  }
  return out;
}
