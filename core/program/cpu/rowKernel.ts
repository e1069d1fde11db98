import { LUMA } from '../../colour/ycbcr';
import type { Vec3 } from '../../colour/matrix';
import { SPECK } from '../../regions/clean';
import {
  readsColours,
  stagesOf,
  type Baked,
  type BakedPoint,
  type BakedStencil,
  type BakedTable,
  type Stage,
} from '../baked';
import type { Mix } from '../compile';
import { isMask } from '../planes';
import { radiusOf, type Taps } from '../stencil';
import type { Table } from '../table';
import { RowBuffer, type BufferedRow } from './rowBuffer';
import { PlanarRows } from './planarRows';
import { RowInputs } from './rowInputs';
import {
  DITHER_BYTES,
  rowBufferBytes,
  inputBytes,
  LINES,
  lineBytes,
  needsOf,
  padBytes,
  tableBytes,
  type Line,
  type RowExports,
  type RowKernelCapacity,
} from './rowCapacity';
import type { PlanarPicture } from './planar';

/** How much of an op each pixel of a picture gets (width × height), 0–1. */
export interface Chosen {
  op: number;
  amounts: Float32Array;
}

/** Lines passed with a row from one stage to the next. */
const PASSED_LINES = ['r', 'g', 'b', 'luma', 'share'] as const;
/** A row blurred horizontally, then vertically: the first line only, if the stencil reads luma alone. */
const BLURRED_LINES = [
  ['across', 'base'],
  ['acrossG', 'baseG'],
  ['acrossB', 'baseB'],
] as const;

/**
 * The CPU backend for any program and any format, in WebAssembly, row by row. Equivalent to `RowGrader` with
 * `RowReader` and `RowWriter`, which are its reference implementation. One instance per thread.
 */
export class RowKernel {
  private readonly code: RowExports;
  private readonly lines: Record<Line, number>;
  private readonly interleaved: number;
  private readonly added: number;
  private readonly tablesAt: number;
  private readonly inputs: RowInputs;
  private readonly planar: PlanarRows;
  private readonly heldAt: number;
  private readonly padAt: number;
  private baked: Baked = { ops: [], planes: [] };
  /** Addresses of each op's table, or of a spatial step's parameters. */
  private places: number[] = [];
  private readonly tables: (Table | undefined)[] = [];
  /** The ops between stencils, the buffered rows that enter each stage, and the source of the file's pixels. */
  private stages: Stage[] = [{ from: 0, to: 0 }];
  private held: (RowBuffer | undefined)[] = [];
  private frame: { width: number; rows: number; weights: Readonly<Vec3> } = { width: 0, rows: 0, weights: LUMA.bt709 };
  private source: (y: number) => void = () => undefined;
  private chosen: Chosen | undefined;

  /** `module`: the compiled kernel. `memory`: shared, with {@link rowKernelBytes} free at `at`, a multiple of 16. */
  constructor(
    module: WebAssembly.Module,
    private readonly memory: WebAssembly.Memory,
    at: number,
    private readonly capacity: RowKernelCapacity,
  ) {
    this.code = new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as RowExports;
    const step = lineBytes(capacity.width);
    this.lines = Object.fromEntries(LINES.map((name, i) => [name, at + i * step + 16])) as Record<Line, number>;
    this.interleaved = at + LINES.length * step;
    this.added = this.interleaved + 3 * step;
    this.tablesAt = this.added + DITHER_BYTES;
    const inputsAt = this.tablesAt + capacity.tables * tableBytes(capacity);
    this.inputs = new RowInputs(this.code, memory, this.lines, inputsAt, capacity);
    this.planar = new PlanarRows(this.code, this.lines, this.added);
    this.padAt = inputsAt + inputBytes(capacity);
    this.heldAt = this.padAt + padBytes(radiusOf(capacity.spread * capacity.width), capacity.width);
  }

  /** Whether a program fits. */
  takes(baked: Baked, width: number): boolean {
    const needs = { ...needsOf(baked), width };
    return (Object.keys(needs) as (keyof RowKernelCapacity)[]).every((key) => needs[key] <= this.capacity[key]);
  }

  /** Sets the ops and planes of a frame. Throws a RangeError for a program beyond the capacity. */
  setGrade(baked: Baked): void {
    if (!this.takes(baked, 0)) throw new RangeError('The kernel has no room for this program.');
    this.baked = baked;
    let [tables, points] = [0, 0];
    this.places = baked.ops.map((op) =>
      op.kind === 'table' ? this.putTable(op.table, tables++) : this.inputs.putNumbers(op, points++),
    );
    this.inputs.setPlanes(baked.planes);
  }

  private floats(at: number, count: number): Float32Array {
    return new Float32Array(this.memory.buffer, at, count);
  }

  private putTable(table: Table, i: number): number {
    const at = this.tablesAt + i * tableBytes(this.capacity);
    if (this.tables[i] !== table) {
      this.floats(at, table.data.length).set(table.data);
      // Each channel's entries in a separate row.
      const { size, data } = table.shaper ?? { size: 0, data: [] };
      this.floats(at + 4 * table.data.length, 3 * size).set(
        Float32Array.from({ length: 3 * size }, (_, k) => data[3 * (k % size) + Math.floor(k / size)]),
      );
    }
    this.tables[i] = table;
    return at;
  }

  /**
   * Grades a whole picture of R'G'B' code values (width × height × 3) into `out`: unclipped (width × height × 3), or
   * clipped to 0–1 as bytes of red, green, blue, 255 (width × height × 4). `weights`: luma weights of the file.
   * `chosen`: reports how much of that op each pixel gets. `file`: the file's code values, if the input has already
   * passed earlier ops; the first op set must then not depend on a selection by colour. Equivalent to `RowGrader`.
   */
  rgb(
    input: Float32Array,
    out: Float32Array | Uint8ClampedArray,
    width: number,
    height: number,
    weights: Readonly<Vec3>,
    chosen?: Chosen,
    file?: Float32Array,
  ): void {
    const { code, lines, interleaved } = this;
    this.chosen = chosen;
    const take = (from: Float32Array, y: number): void => {
      this.floats(interleaved, 3 * width).set(from.subarray(3 * y * width, 3 * (y + 1) * width));
      code.split(interleaved, width, lines.r, lines.g, lines.b);
    };
    this.begin(width, height, weights, (y) => {
      take(file ?? input, y);
      this.readLuma();
      if (file) take(input, y);
    });
    for (let y = 0; y < height; y += 1) {
      this.run(this.stages.length - 1, y);
      if (out instanceof Float32Array) {
        code.join(interleaved, width, lines.r, lines.g, lines.b);
        out.set(this.floats(interleaved, 3 * width), 3 * y * width);
      } else {
        code.bytes(lines.r, lines.g, lines.b, width, interleaved);
        out.set(new Uint8Array(this.memory.buffer, interleaved, 4 * width), 4 * y * width);
      }
    }
    this.chosen = undefined;
  }

  /** Reports how much of an op the pixels of a row get: from pixel `from` on by the line of amounts, zero before. */
  private note(k: number, y: number, from = 0, count = 0): void {
    const { chosen, frame } = this;
    if (chosen?.op !== k) return;
    const row = chosen.amounts.subarray(y * frame.width, (y + 1) * frame.width);
    row.fill(0);
    row.set(this.floats(this.lines.amount + 4 * from, count), from);
  }

  /**
   * Grades one picture into another of the same size, both in the kernel's memory. Clipped once, to 0–1; dithered where
   * the depth is reduced.
   */
  picture(input: PlanarPicture, output: PlanarPicture): void {
    const { width, height, matrix } = input.format;
    if (output.format.width !== width || output.format.height !== height)
      throw new RangeError('The graded picture must be as large as the picture it comes from.');
    if (input.y.buffer !== this.memory.buffer || output.y.buffer !== this.memory.buffer)
      throw new RangeError('Pictures must lie in the memory of the kernel.');
    this.floats(this.added, 64).set(this.planar.roundingsFor(input.format, output.format));
    this.begin(width, height, LUMA[matrix], (y) => {
      this.planar.read(input, y);
      this.readLuma();
    });
    for (let y = 0; y < height; y += 1) {
      this.run(this.stages.length - 1, y);
      this.planar.write(output, y);
    }
  }

  /** The luma of the file's row, the guide of the maps. */
  private readLuma(): void {
    const { code, lines, baked, frame } = this;
    if (baked.planes.some((p) => p && !isMask(p)))
      code.lumaLine(lines.r, lines.g, lines.b, frame.width, ...frame.weights, lines.luma);
  }

  /** `source` fills the lines of red, green and blue, and that of luma, with a row of the file. */
  private begin(width: number, rows: number, weights: Readonly<Vec3>, source: (y: number) => void): void {
    this.frame = { width, rows, weights };
    this.source = source;
    this.inputs.begin(width, rows);
    this.stages = stagesOf(this.baked.ops, width);
    let at = this.heldAt;
    this.held = this.stages.map(({ taps }) => {
      if (!taps) return undefined;
      const rowsHeld = new RowBuffer(at, 2 * taps.radius + 1, width);
      at += rowBufferBytes(taps.radius, width);
      return rowsHeld;
    });
  }

  /** Applies the ops of a stage to a row, in the lines of red, green and blue. */
  private run(k: number, y: number): void {
    const { baked } = this;
    const { from, to, taps } = this.stages[k];
    const { width } = this.frame;
    if (taps) this.gather(k, taps, readsColours(baked.ops[from]), y);
    else this.source(y);
    for (let i = from; i < to; i += 1) {
      const op = baked.ops[i];
      // Stencils begin a stage; any others have no effect at this size.
      if (op.kind === 'stencil') {
        if (taps && i === from) this.formula(op, i, y);
      } else if (op.kind === 'point') this.formula(op, i, y);
      else if (op.mix) this.mixed(op, op.mix, i, y);
      else this.look(op, i, 0, width);
    }
  }

  /** The row that enters a stencil, and the blurred values it reads. Edge rows are repeated outside the picture. */
  private gather(k: number, { radius, weights }: Taps, colours: boolean, y: number): void {
    const { code, lines } = this;
    const { width, rows } = this.frame;
    const near = Array.from({ length: 2 * radius + 1 }, (_, i) =>
      this.entering(k, radius, weights, colours, Math.min(rows - 1, Math.max(0, y + i - radius))),
    );
    const here = near[radius];
    for (const [across, base] of BLURRED_LINES.slice(0, colours ? 3 : 1)) {
      code.fill(lines[base], width, 0);
      code.addLines(here[across], here[across], weights[0] / 2, lines[base], width);
      for (let i = 1; i <= radius; i += 1)
        code.addLines(near[radius - i][across], near[radius + i][across], weights[i], lines[base], width);
    }
    for (const name of PASSED_LINES) code.copyLine(here[name], lines[name], width);
  }

  private entering(k: number, radius: number, weights: Float32Array, colours: boolean, y: number): BufferedRow {
    const { code, lines } = this;
    const { width } = this.frame;
    const row = this.held[k]!.at(y);
    if (row.y === y) return row;
    this.run(k - 1, y);
    row.y = y;
    for (const name of PASSED_LINES) code.copyLine(lines[name], row[name], width);
    const padded = this.padAt + 16;
    const weightsAt = this.padAt + lineBytes(width + 2 * radius);
    this.floats(weightsAt, radius + 1).set(weights);
    if (!colours) {
      code.lumaLine(lines.r, lines.g, lines.b, width, ...LUMA.bt709, padded + 4 * radius);
      code.acrossLine(padded, weightsAt, radius, width, row.across);
      return row;
    }
    BLURRED_LINES.forEach(([across], c) => {
      code.copyLine(lines[PASSED_LINES[c]], padded + 4 * radius, width);
      code.acrossLine(padded, weightsAt, radius, width, row[across]);
    });
    return row;
  }

  /** Applies a table to the pixels from `from` on. */
  private look({ table, own }: BakedTable, k: number, from: number, count: number): void {
    const { r, g, b, share, amount } = this.lines;
    const { size, domain, shaper, data } = table;
    const skip = 4 * from;
    if (shaper)
      [r, g, b].forEach((line, c) => {
        const curve = this.places[k] + 4 * (data.length + c * shaper.size);
        const factor = (shaper.size - 1) / (shaper.high[c] - shaper.low[c]);
        this.code.shapeLine(curve, shaper.size, shaper.low[c], factor, line + skip, count);
      });
    const scale = (size - 1) / (domain[1] - domain[0]);
    const alpha = own ? amount : share;
    this.code.lookLine(this.places[k], size, domain[0], scale, r + skip, g + skip, b + skip, alpha + skip, count);
  }

  /** A table limited to a region or a mix: spans where nothing is selected are skipped. */
  private mixed(op: BakedTable, mix: Mix, k: number, y: number): void {
    const { code, lines } = this;
    const { width } = this.frame;
    const { r, g, b, r0, g0, b0, share, amount } = lines;
    const { join, mask } = mix;
    const span = mask === undefined ? ([0, width] as const) : this.inputs.maskOf(mask, y);
    const [from, to] = join[0] === 0 && join[2] === 0 ? span : [0, width];
    const skip = 4 * from;
    const count = to - from;
    if (count <= 0) return this.note(k, y);
    for (const [line, before] of [
      [r, r0],
      [g, g0],
      [b, b0],
    ])
      code.copyLine(line + skip, before + skip, count);
    this.look(op, k, from, count);
    this.clean(mix, y);
    code.amountLine((mask === undefined ? share : lines.mask) + skip, share + skip, ...join, count, amount + skip);
    this.note(k, y, from, count);
    for (const [line, before] of [
      [r, r0],
      [g, g0],
      [b, b0],
    ])
      code.mixLine(before + skip, line + skip, amount + skip, count);
  }

  /** The selection by colour, cleaned of specks and holes. */
  private clean({ clean }: Mix, y: number): void {
    const { share, map } = this.lines;
    if (clean === undefined) return;
    this.inputs.valuesOf(clean, y);
    this.code.cleanLine(share, map, SPECK, this.frame.width);
  }

  /** A spatial step: its formula reads its map, or a stencil's blurred luma. */
  private formula(op: BakedPoint | BakedStencil, k: number, y: number): void {
    const { code, lines, places } = this;
    const { r, g, b, share, amount, map, mask, base } = lines;
    const { width } = this.frame;
    const { mix } = op;
    if (!mix) code.fill(amount, width, 1);
    else {
      if (mix.mask !== undefined) {
        const [from, to] = this.inputs.maskOf(mix.mask, y);
        if (from === to && mix.join[0] === 0 && mix.join[2] === 0) return this.note(k, y);
      }
      this.clean(mix, y);
      code.amountLine(mix.mask === undefined ? share : mask, share, ...mix.join, width, amount);
      this.note(k, y, 0, width);
    }
    if (op.kind === 'point') this.inputs.valuesOf(op.plane, y);
    const plane = op.kind === 'point' ? [map] : readsColours(op) ? [base, lines.baseG - base] : [base];
    code[op.step](places[k], ...plane, amount, r, g, b, width);
  }
}
