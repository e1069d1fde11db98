import { luma709 } from '../colour/ycbcr';

/** Where the dark end, the middle and the bright end of a distribution lie: 0.5, 50 and 99.5 percentile, encoded. */
export interface Spread {
  low: number;
  mid: number;
  high: number;
}

/** Mean encoded colour of one band of the tonal range, and how much of the frame lies in it (0–1). */
export interface Band {
  red: number;
  green: number;
  blue: number;
  share: number;
}

/** What the scopes of one frame say in numbers. */
export interface Statistics {
  luma: Spread;
  red: Spread;
  green: Spread;
  blue: Spread;
  /** Darkest third, middle and brightest part of the frame's own range. */
  bands: { shadows: Band; midtones: Band; highlights: Band };
  /** Shares of the frame (0–1): piled up at an end of the file's code values; pushed out of 0–100 % by the grade. */
  lostInFile: number;
  lostByGrade: number;
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

/** Beyond 0 and 1 by less than this nothing is counted as lost: half a 10-bit code value. */
const TOLERANCE = 0.0006;

/**
 * Numbers of a graded frame. `graded` and `code` hold count × 3 values of the same pixels: encoded output (not
 * clipped) and the file's R'G'B'. `ends` says at which code values the file has lost detail (see {@link fileEnds}).
 */
export function measure(graded: Float32Array, code: Float32Array, ends: FileEnds): Statistics {
  const [luma, red, green, blue, chroma] = Array.from({ length: 5 }, () => new Histogram());
  let chromaSum = 0;
  let lostInFile = 0;
  let lostByGrade = 0;
  const count = graded.length / 3;
  for (let o = 0; o < graded.length; o += 3) {
    const [r, g, b] = [graded[o], graded[o + 1], graded[o + 2]];
    const y = luma709(r, g, b);
    luma.add(y);
    red.add(r);
    green.add(g);
    blue.add(b);
    const c = Math.hypot((b - y) / 1.8556, (r - y) / 1.5748) / 0.5;
    chroma.add(c);
    chromaSum += c;
    const top = Math.max(code[o], code[o + 1], code[o + 2]);
    const bottom = Math.min(code[o], code[o + 1], code[o + 2]);
    if (top >= ends.high || bottom <= ends.low) lostInFile += 1;
    else if (Math.max(r, g, b) > 1 + TOLERANCE || Math.min(r, g, b) < -TOLERANCE) lostByGrade += 1;
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
    chroma: { mean: chromaSum / count, high: chroma.percentile(0.95) },
  };
}

function measureBands(graded: Float32Array, { low, high }: Spread): Statistics['bands'] {
  const sums = [0, 1, 2].map(() => ({ red: 0, green: 0, blue: 0, n: 0 }));
  const span = Math.max(1e-6, high - low);
  for (let o = 0; o < graded.length; o += 3) {
    const t = (luma709(graded[o], graded[o + 1], graded[o + 2]) - low) / span;
    const s = sums[t < 1 / 3 ? 0 : t < 0.8 ? 1 : 2];
    s.red += graded[o];
    s.green += graded[o + 1];
    s.blue += graded[o + 2];
    s.n += 1;
  }
  const count = graded.length / 3;
  const [shadows, midtones, highlights] = sums.map(({ red, green, blue, n }) => {
    const d = Math.max(1, n);
    return { red: red / d, green: green / d, blue: blue / d, share: n / count };
  });
  return { shadows, midtones, highlights };
}

/** Code values at and beyond which a file has lost detail. */
export interface FileEnds {
  low: number;
  high: number;
}

/**
 * Finds the ends of a frame's code values where values pile up, which is what clipping in the camera looks like:
 * the last 8-bit step holds at least 0.3 % of the values and twice as many as the one before. `code`: R'G'B' × count.
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
