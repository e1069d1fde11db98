import { chromaHeight, chromaWidth, pictureBytes, type PlanarFormat } from '../program/cpu/planar';
import { measuredBlocks, noiseLevel, type NoiseLevel } from './level';
import { BLOCK, blocksOf, SMALL_BLOCK, topLevel } from './motion';
import { besideOf, NOISE_REACH, takesNoise, type NoiseAmounts } from './reduce';

interface Functions {
  setNoiseFormat(w: number, h: number, cw: number, ch: number, depth: number, capacity: number): void;
  toBytes(from: number, count: number, to: number): void;
  halve(from: number, w: number, h: number, to: number): void;
  searchLevel(
    a: number,
    b: number,
    w: number,
    h: number,
    size: number,
    coarse: number,
    coarseColumns: number,
    coarseRows: number,
    ratio: number,
    out: number,
  ): void;
  refine(a: number, b: number, whole: number, out: number): void;
  fineNoise(frame: number, step: number, count: number, out: number): void;
  residuals(
    frame: number,
    other: number,
    vectors: number,
    step: number,
    count: number,
    out: number,
    less: boolean,
  ): void;
  average(
    frame: number,
    count: number,
    others: number,
    motions: number,
    lumaVariance: number,
    chromaVariance: number,
    out: number,
  ): void;
}

/** Number of squares per block that the kernel processes. */
const SCRATCH_BYTES = 15 * 24 * 96;
/** Maximum number of frames per result, plus one whose pyramid is kept for the next. */
const STACK = 2 * NOISE_REACH + 1;
const PYRAMIDS = STACK + 1;
const OTHERS = 2 * NOISE_REACH;
const up = (bytes: number): number => 64 * Math.ceil(bytes / 64);

interface Size {
  width: number;
  height: number;
  /** Offset in bytes from the start of the pyramid. */
  at: number;
}

/** Level sizes of a pyramid and its total bytes; rows read eight at a time may overrun the last level. */
function sizesOf({ width, height }: PlanarFormat): { levels: Size[]; bytes: number } {
  const levels: Size[] = [];
  let at = 0;
  for (let l = 0; l <= topLevel(width, height); l += 1) {
    const size = { width: width >> l, height: height >> l };
    levels.push({ ...size, at });
    at += up(size.width * size.height + 16);
  }
  return { levels, bytes: at };
}

const blockCount = ({ width, height }: PlanarFormat): number => blocksOf(width) * blocksOf(height);

/** Bytes that the kernel needs in addition to the pictures. */
export function noiseKernelBytes(format: PlanarFormat): number {
  const blocks = blockCount(format);
  return (
    up(SCRATCH_BYTES) +
    PYRAMIDS * sizesOf(format).bytes +
    // Vectors of two alternating levels, then subpixel vectors per frame; noise measurements; addresses; variances.
    2 * up(4 * blocks) +
    OTHERS * up(8 * blocks) +
    up(20 * measuredBlocks(blocks).count) +
    2 * up(4 * OTHERS) +
    2 * up(4 * 256)
  );
}

/** A frame in the kernel's memory; its number distinguishes it from others at the same address. */
export interface NoiseFrame {
  address: number;
  number: number;
}

/** Temporal noise reduction in a WebAssembly module; `reduceNoise` is its reference implementation. */
export class NoiseKernel {
  private readonly run: Functions;
  private readonly levels: Size[];
  private readonly pyramids: { at: number; number: number }[] = [];
  private readonly whole: [number, number];
  private readonly vectors: number[];
  private readonly measured: number;
  private readonly others: number;
  private readonly motions: number;
  private readonly variances: [luma: number, chroma: number];
  private readonly blocks: number;

  /**
   * `memory` holds the pictures, all of one format, and from `at`, a multiple of 64, {@link noiseKernelBytes} of
   * working space.
   */
  constructor(
    module: WebAssembly.Module,
    private readonly memory: WebAssembly.Memory,
    private readonly format: PlanarFormat,
    at: number,
  ) {
    this.run = new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as Functions;
    const { width, height, depth } = format;
    let end = at;
    const take = (bytes: number): number => {
      const from = end;
      end += up(bytes);
      return from;
    };
    this.run.setNoiseFormat(width, height, chromaWidth(format), chromaHeight(format), depth, take(SCRATCH_BYTES));
    const { levels, bytes } = sizesOf(format);
    this.levels = levels;
    this.blocks = blockCount(format);
    for (let k = 0; k < PYRAMIDS; k += 1) this.pyramids.push({ at: take(bytes), number: -1 });
    this.whole = [take(4 * this.blocks), take(4 * this.blocks)];
    this.vectors = Array.from({ length: OTHERS }, () => take(8 * this.blocks));
    this.measured = take(20 * measuredBlocks(this.blocks).count);
    this.others = take(4 * OTHERS);
    this.motions = take(4 * OTHERS);
    this.variances = [take(4 * 256), take(4 * 256)];
  }

  /** Denoises `frames[at]` using the others, at most {@link NOISE_REACH} on either side, into another address. */
  reduce(frames: readonly NoiseFrame[], at: number, amounts: NoiseAmounts, to: number): void {
    const frame = frames[at];
    const others = frames.filter((_, k) => k !== at);
    if (others.length === 0 || !takesNoise(this.format)) {
      const bytes = new Uint8Array(this.memory.buffer);
      bytes.copyWithin(to, frame.address, frame.address + pictureBytes(this.format));
      return;
    }
    const [lumaAt, chromaAt] = this.putVariances(this.measure(frames, at, others), amounts);
    const ints = new Int32Array(this.memory.buffer);
    others.forEach(({ address }, k) => {
      ints[this.others / 4 + k] = address;
      ints[this.motions / 4 + k] = this.vectors[k];
    });
    this.run.average(frame.address, others.length, this.others, this.motions, lumaAt, chromaAt, to);
  }

  /** The noise level of `frames[at]`, using the others; null where it cannot be measured. */
  level(frames: readonly NoiseFrame[], at: number): NoiseLevel | null {
    const others = frames.filter((_, k) => k !== at);
    return others.length === 0 || !takesNoise(this.format) ? null : this.measure(frames, at, others);
  }

  /** A frame's pyramid: cached while later frames may need it. */
  private pyramid(frame: NoiseFrame, needed: readonly NoiseFrame[]): number {
    const known = this.pyramids.find((p) => p.number === frame.number);
    if (known) return known.at;
    const free = this.pyramids.find((p) => !needed.some((f) => f.number === p.number))!;
    free.number = frame.number;
    const [first, ...rest] = this.levels;
    this.run.toBytes(frame.address, first.width * first.height, free.at);
    rest.forEach((size, k) => {
      const { width, height, at } = this.levels[k];
      this.run.halve(free.at + at, width, height, free.at + size.at);
    });
    return free.at;
  }

  /** Motion vectors between two pictures. */
  private motion(a: number, b: number, out: number): void {
    let [next, last] = this.whole;
    let coarse = { at: 0, columns: 0, rows: 0 };
    for (let l = this.levels.length - 1; l >= 0; l -= 1) {
      const { width, height, at } = this.levels[l];
      const size = l === 0 ? BLOCK : SMALL_BLOCK;
      const ratio = l === 0 ? 1 : 2;
      this.run.searchLevel(a + at, b + at, width, height, size, coarse.at, coarse.columns, coarse.rows, ratio, next);
      coarse = { at: next, columns: Math.ceil(width / size), rows: Math.ceil(height / size) };
      [next, last] = [last, next];
    }
    this.run.refine(a, b, coarse.at, out);
  }

  /** Computes a frame's motion vectors to the others, and measures its noise with the adjacent ones. */
  private measure(frames: readonly NoiseFrame[], at: number, others: readonly NoiseFrame[]): NoiseLevel {
    const own = this.pyramid(frames[at], frames);
    others.forEach((other, k) => this.motion(own, this.pyramid(other, frames), this.vectors[k]));
    const beside = besideOf(
      others.map(({ address }, k) => ({ address, vectors: this.vectors[k] })),
      at,
    );
    const { address: frame } = frames[at];
    const { step, count } = measuredBlocks(this.blocks);
    this.run.fineNoise(frame, step, count, this.measured);
    const over = this.measured + 4 * 3 * count;
    beside.forEach(({ address, vectors }, k) => this.run.residuals(frame, address, vectors, step, count, over, k > 0));
    const part = (k: number): Float32Array =>
      new Float32Array(this.memory.buffer, this.measured + 4 * k * count, count).slice();
    const [brightness, fineLuma, fineChroma, luma, chroma] = [0, 1, 2, 3, 4].map(part);
    return noiseLevel({ brightness, luma, chroma, fineLuma, fineChroma });
  }

  /** Writes 1 / variance by luma for the kernel; returns the addresses, 0 for planes that stay unchanged. */
  private putVariances(level: NoiseLevel, amounts: NoiseAmounts): [luma: number, chroma: number] {
    const put = (name: 'luma' | 'chroma', at: number): number => {
      const amount = amounts[name];
      if (!(amount > 0)) return 0;
      const to = new Float32Array(this.memory.buffer, at, 256);
      to.set(level[name].map((v) => 1 / Math.max(1e-6, v * amount * amount)));
      return at;
    };
    return [put('luma', this.variances[0]), put('chroma', this.variances[1])];
  }
}
