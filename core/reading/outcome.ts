import type { Vec3 } from '../colour/matrix';
import { luma709 } from '../colour/ycbcr';
import { ciede2000 } from '../colour/difference';
import { encodedToLab } from '../colour/lab';
import type { Step } from '../model/grade';
import { compile } from '../program/compile';
import { through } from '../program/evaluate';
import { planesOf, smallValues } from '../program/planes';
import type { ClipFrame } from './firstPass';
import { percentile, percentiles, spread } from './readFrames';

/** Cells of some frames after steps, encoded, three numbers each; and before. */
export interface Outcome {
  encoded: Float64Array;
  /** Shares of the cells with a channel clipped at white, and at black. */
  over: number;
  under: number;
  /** Encoded luma: its 0.5 and 99.5 percentiles. */
  readonly black: number;
  readonly white: number;
  /** 95th percentile of chroma, as a share of the vectorscope's radius. */
  readonly chroma: number;
}

/** Number of frames, and stride over their cells. */
const FEW = 4;
const STRIDE = 3;
/** Values beyond black or white by more than this are clipped (half an 8-bit code value). */
const TOLERANCE = 0.5 / 219;

function once<T>(compute: () => T): () => T {
  let value: T | undefined;
  return () => (value ??= compute());
}

/** Measures frames of a clip after steps, as the hold check does. */
export function outcomeOf(all: readonly ClipFrame[], steps: readonly Step[]): Outcome {
  const frames = spread(all, FEW);
  const count = frames.reduce((n, f) => n + Math.ceil(f.small.luma.length / STRIDE), 0);
  const encoded = new Float64Array(3 * count);
  const [luma, chroma] = [new Float64Array(count), new Float64Array(count)];
  let [at, over, under] = [0, 0, 0];
  const rgb: Vec3 = [0, 0, 0];
  const values: number[] = [];
  for (const { small, seconds } of frames) {
    const program = compile(steps, seconds);
    const planes = planesOf(program, small).map((m) => (m ? smallValues(m, small) : null));
    const run = through(program.ops);
    const { code } = small;
    for (let i = 0; i < small.luma.length; i += STRIDE, at += 1) {
      for (let c = 0; c < 3; c += 1) rgb[c] = code[3 * i + c];
      for (let p = 0; p < planes.length; p += 1) values[p] = planes[p]?.[i] ?? 0;
      run(rgb, values);
      const [r, g, b] = rgb;
      encoded[3 * at] = r;
      encoded[3 * at + 1] = g;
      encoded[3 * at + 2] = b;
      if (Math.max(r, g, b) > 1 + TOLERANCE) over += 1;
      if (Math.min(r, g, b) < -TOLERANCE) under += 1;
      luma[at] = luma709(r, g, b);
      chroma[at] = 2 * Math.hypot((b - luma[at]) / 1.8556, (r - luma[at]) / 1.5748);
    }
  }
  // Trials need some of this only, and sorting takes a seventh of the time.
  const ends = once(() => percentiles(luma, [0.005, 0.995]));
  const largest = once(() => percentile(chroma, 0.95));
  return {
    encoded,
    over: over / count,
    under: under / count,
    get black() {
      return ends()[0];
    },
    get white() {
      return ends()[1];
    },
    get chroma() {
      return largest();
    },
  };
}

const clip = (v: number): number => Math.min(1, Math.max(0, v));
const APART_STRIDE = 11;

/** Mean CIEDE2000 between two outcomes of the same frames. */
export function apart(a: Outcome, b: Outcome): number {
  let [sum, count] = [0, 0];
  const lab = (e: Float64Array, o: number): Vec3 => encodedToLab([clip(e[o]), clip(e[o + 1]), clip(e[o + 2])]);
  for (let o = 0; o + 2 < a.encoded.length; o += 3 * APART_STRIDE, count += 1)
    sum += ciede2000(lab(a.encoded, o), lab(b.encoded, o));
  return sum / Math.max(1, count);
}
