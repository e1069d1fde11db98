/** Ends and middle of a distribution: 0.5th, 50th and 99.5th percentile, encoded. */
export interface Spread {
  low: number;
  mid: number;
  high: number;
}

/** Mean encoded colour of one band of the tonal range, and its share of the frame (0–1). */
export interface Band {
  red: number;
  green: number;
  blue: number;
  share: number;
}

/** Statistics of one frame. */
export interface Statistics {
  luma: Spread;
  red: Spread;
  green: Spread;
  blue: Spread;
  /** Darkest third, middle and brightest part of the frame's own range. */
  bands: { shadows: Band; midtones: Band; highlights: Band };
  /**
   * Shares of the frame (0–1); each pixel counts once, in this order. Lost in the file: piled up at an end of its code
   * values. Lost by the grade: pushed outside 0–100 %. Out of range: outside already in the file, from where a grade
   * can recover it. Pressed: inside, but compressed into the last code values so that almost all differences vanish, as
   * by strong soft ends.
   */
  lostInFile: number;
  lostByGrade: number;
  outOfRange: number;
  pressed: number;
  /** Mean chroma and its 95th percentile, as shares of the vectorscope's radius (0.5). */
  chroma: { mean: number; high: number };
}

const BINS = 8192;
const LOW = -0.5;
const HIGH = 1.75;
const BIN = (HIGH - LOW) / BINS;

class Histogram {
  private readonly counts = new Uint32Array(BINS);
  private total = 0;
  add(value: number): void {
    const i = ((value - LOW) / BIN) | 0;
    this.counts[i < 0 ? 0 : i >= BINS ? BINS - 1 : i] += 1;
    this.total += 1;
  }
  percentile(share: number): number {
    const rank = share * (this.total - 1);
    let seen = 0;
    for (let i = 0; i < BINS; i += 1) {
      const n = this.counts[i];
      if (seen + n > rank) return LOW + (i + (rank - seen + 0.5) / n) * BIN;
      seen += n;
    }
    return HIGH;
  }
  spread = (): Spread => ({ low: this.percentile(0.005), mid: this.percentile(0.5), high: this.percentile(0.995) });
}

/** Excess over 0 or 1 below which nothing counts as lost: half a 10-bit code value. */
export const TOLERANCE = 0.0006;
const OVER = 1 + TOLERANCE;

/** Width of the ends in which values can be pressed flat: four of the 219 code values of 8 bits. */
const LAST = 4 / 219;
/** They are if they span this many times as much in the file: three of four steps vanish. */
const PRESSED = 4;

/** Luma in the file of values at one end of the graded range. */
class End {
  private readonly code = new Histogram();
  private count = 0;
  add(luma: number): void {
    this.code.add(luma);
    this.count += 1;
  }
  /** Number of pixels in this end if they are pressed flat; otherwise 0. */
  pressed(): number {
    if (this.count === 0) return 0;
    const span = this.code.percentile(0.95) - this.code.percentile(0.05);
    return span > PRESSED * LAST ? this.count : 0;
  }
}

const isOut = (v: number): boolean => v > OVER || v < -TOLERANCE;
/** Out of range on a side where the file's own value is not. */
const isLost = (v: number, code: number): boolean =>
  (v > OVER && code <= OVER) || (v < -TOLERANCE && code >= -TOLERANCE);

/**
 * Statistics of a graded frame. `graded` and `code` hold count × 3 values of the same pixels: encoded output (not
 * clipped) and the file's R'G'B'. `ends`: code values at which the file is clipped (see {@link fileEnds}).
 */
export function measure(graded: Float32Array, code: Float32Array, ends: FileEnds): Statistics {
  const [luma, red, green, blue, chroma] = Array.from({ length: 5 }, () => new Histogram());
  let chromaSum = 0;
  let lostInFile = 0;
  let lostByGrade = 0;
  let outOfRange = 0;
  const [dark, bright] = [new End(), new End()];
  const count = graded.length / 3;
  const { low, high } = ends;
  // An inner loop over every pixel during a drag: plain numbers only.
  for (let o = 0; o < graded.length; o += 3) {
    const r = graded[o];
    const g = graded[o + 1];
    const b = graded[o + 2];
    const y = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    luma.add(y);
    red.add(r);
    green.add(g);
    blue.add(b);
    const cb = (b - y) * (1 / 1.8556);
    const cr = (r - y) * (1 / 1.5748);
    const c = 2 * Math.sqrt(cb * cb + cr * cr);
    chroma.add(c);
    chromaSum += c;
    const cR = code[o];
    const cG = code[o + 1];
    const cB = code[o + 2];
    if (cR >= high || cG >= high || cB >= high || cR <= low || cG <= low || cB <= low) lostInFile += 1;
    else if (isLost(r, cR) || isLost(g, cG) || isLost(b, cB)) lostByGrade += 1;
    else if (isOut(r) || isOut(g) || isOut(b)) outOfRange += 1;
    else if (y > 1 - LAST) bright.add(0.2126 * cR + 0.7152 * cG + 0.0722 * cB);
    else if (y < LAST) dark.add(0.2126 * cR + 0.7152 * cG + 0.0722 * cB);
  }
  const spread = luma.spread();
  return {
    luma: spread,
    red: red.spread(),
    green: green.spread(),
    blue: blue.spread(),
    bands: measureBands(graded, spread),
    lostInFile: lostInFile / count,
    lostByGrade: lostByGrade / count,
    outOfRange: outOfRange / count,
    pressed: (dark.pressed() + bright.pressed()) / count,
    chroma: { mean: chromaSum / count, high: chroma.percentile(0.95) },
  };
}

function measureBands(graded: Float32Array, { low, high }: Spread): Statistics['bands'] {
  // Sums of red, green and blue and the number of pixels, per band.
  const sums = new Float64Array(12);
  const scale = 1 / Math.max(1e-6, high - low);
  for (let o = 0; o < graded.length; o += 3) {
    const r = graded[o];
    const g = graded[o + 1];
    const b = graded[o + 2];
    const t = (0.2126 * r + 0.7152 * g + 0.0722 * b - low) * scale;
    const k = t < 1 / 3 ? 0 : t < 0.8 ? 4 : 8;
    sums[k] += r;
    sums[k + 1] += g;
    sums[k + 2] += b;
    sums[k + 3] += 1;
  }
  const count = graded.length / 3;
  const of = (k: number): Band => {
    const n = Math.max(1, sums[k + 3]);
    return { red: sums[k] / n, green: sums[k + 1] / n, blue: sums[k + 2] / n, share: sums[k + 3] / count };
  };
  return { shadows: of(0), midtones: of(4), highlights: of(8) };
}

/** Code values at and beyond which a file is clipped. */
export interface FileEnds {
  low: number;
  high: number;
}

/**
 * Finds the code values at which a frame is clipped by the camera: values pile up so that the last 8-bit step holds at
 * least 0.3 % of them and twice as many as the one before. `code`: R'G'B' × count.
 */
export function fileEnds(code: Float32Array): FileEnds {
  const bins = new Uint32Array(512);
  const bin = (v: number): number => Math.min(511, Math.max(0, Math.round(v * 255) + 64));
  for (let i = 0; i < code.length; i += 1) bins[bin(code[i])] += 1;
  const need = code.length * 0.003;
  const piled = (i: number, inward: number): boolean => bins[i] >= need && bins[i] > 2 * bins[i + inward];
  const high = bins.findLastIndex((n) => n > 0);
  const low = bins.findIndex((n) => n > 0);
  return {
    high: high - 64 > 150 && piled(high, -1) ? (high - 64.5) / 255 : Infinity,
    low: low - 64 < 40 && piled(low, 1) ? (low - 63.5) / 255 : -Infinity,
  };
}
