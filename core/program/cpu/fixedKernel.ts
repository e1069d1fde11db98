import { bt709 } from '../../colour/transfer';
import { codeScale } from '../../colour/ycbcr';
import { BARE } from '../../formula/formula';
import { stepKind } from '../../steps';
import type { Baked, BakedOp, BakedPoint, BakedTable } from '../baked';
import { domainAt, type Mix } from '../compile';
import { isMask } from '../planes';
import type { Table } from '../table';
import {
  kernelTableBytes,
  LANES_BYTES,
  NODE_BITS,
  ONE,
  PATTERN_BYTES,
  planesAt,
  setFormats,
  writeKernelTable,
  type KernelExports,
} from './kernel';
import type { PlanarFormat } from './planar';
import { RowInputs } from './rowInputs';
import { inputBytes, lineBytes, needsOf, type RowExports, type RowKernelCapacity } from './rowCapacity';

/** Exports of the compiled module for rows in 16-bit lanes, see `wasm/fixed.ts`. */
type FixedExports = KernelExports &
  RowExports &
  Record<
    | 'readFixed'
    | 'lookFixed'
    | 'mixFixed'
    | 'sharesFixed'
    | 'floatsFrom'
    | 'fixedFrom'
    | 'writeFixed'
    | 'lumaSamples'
    | 'lightFrom'
    | 'encodedFrom'
    | 'blendFixed',
    (...args: number[]) => void
  >;

/** Numbers of lines of 16-bit values and of floats. */
const FIXED_LINES = [
  'r',
  'g',
  'b',
  'share',
  'shape',
  'all',
  'u',
  'v',
  'sumU',
  'sumV',
  'otherU',
  'otherV',
  'after',
] as const;
const FLOAT_LINES = ['red', 'green', 'blue', 'luma', 'map', 'mask', 'chosen', 'amount'] as const;
type Lines<T extends string> = Record<T, number>;

/**
 * Sizes of two lookup tables: linear light for every Q13 value; and encoded values for linear light from 2⁻¹⁷ (which
 * rounds to 0) to 32, by octave.
 */
const LIGHTS = 65536;
const [OCTAVES, LOWEST, PER_OCTAVE] = [22, -17, 2048];
const LIGHT_BYTES = 4 * LIGHTS;
const ENCODED_BYTES = 2 * OCTAVES * PER_OCTAVE;

/** 1 in Q14, and the largest Q15 value. */
const Q14 = 16384;
const WHOLE = 32767;

/** Writes both tables contiguously, as `lightFrom` and `encodedFrom` of `wasm/fixedFloats.ts` read them. */
function writeLights({ buffer }: WebAssembly.Memory, at: number): void {
  const lights = new Float32Array(buffer, at, LIGHTS);
  for (let i = 0; i < LIGHTS; i += 1) lights[i] = bt709.decode((i - LIGHTS / 2) / ONE);
  const values = new Int16Array(buffer, at + LIGHT_BYTES, OCTAVES * PER_OCTAVE);
  for (let i = 0; i < values.length; i += 1) {
    const light = 2 ** (LOWEST + Math.floor(i / PER_OCTAVE)) * (1 + ((i % PER_OCTAVE) + 0.5) / PER_OCTAVE);
    values[i] = Math.min(WHOLE, Math.round(ONE * bt709.encode(light)));
  }
}

/** Bytes of a line of 16-bit values, padded by one block. */
const fixedBytes = (width: number): number => Math.ceil((2 * width) / 16) * 16 + 64;

/** Bytes of memory that a kernel of this capacity needs. */
export const fixedKernelBytes = (capacity: RowKernelCapacity): number =>
  PATTERN_BYTES +
  LANES_BYTES +
  LIGHT_BYTES +
  ENCODED_BYTES +
  FIXED_LINES.length * fixedBytes(capacity.width) +
  FLOAT_LINES.length * lineBytes(capacity.width) +
  inputBytes(capacity) +
  capacity.tables * Math.ceil(kernelTableBytes(capacity.size) / 16) * 16;

const onGrid = ({ table, own }: BakedTable, index: number): boolean =>
  !own && !table.shaper && table.size in NODE_BITS && table.domain.every((v, i) => v === domainAt(index)[i]);

/** Whether an op can run in 16-bit lanes: no stencil, no file table, no cleaned selection. */
const holds = (op: BakedOp, index: number): boolean =>
  op.mix?.clean === undefined && (op.kind === 'table' ? onGrid(op, index) : op.kind === 'point');

/**
 * The CPU backend for programs of several tables and spatial steps, in 16-bit lanes: for the formats of `kernelTakes`,
 * row by row, within one 10-bit code value of the plain backend. `RowKernel` handles everything else. One instance per
 * thread.
 */
export class FixedKernel {
  private readonly code: FixedExports;
  private readonly pattern: number;
  private readonly lanes: number;
  private readonly lines: Lines<(typeof FIXED_LINES)[number]>;
  private readonly floats: Lines<(typeof FLOAT_LINES)[number]>;
  /** Address of the light of value 0, and of the value of the least light. */
  private readonly lightAt: number;
  private readonly encodedAt: number;
  private readonly tablesAt: number;
  private readonly tables: (Table | undefined)[] = [];
  private readonly inputs: RowInputs;
  private baked: Baked = { ops: [], planes: [] };
  /** Addresses of each op's table, or of a spatial step's numbers. */
  private places: number[] = [];

  /**
   * `memory`: shared, with {@link fixedKernelBytes} free at `at`, a multiple of 16. Formats must satisfy `kernelTakes`.
   */
  constructor(
    module: WebAssembly.Module,
    private readonly memory: WebAssembly.Memory,
    at: number,
    private readonly capacity: RowKernelCapacity,
    private readonly input: PlanarFormat,
    private readonly output: PlanarFormat,
  ) {
    this.code = new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as FixedExports;
    this.pattern = at;
    setFormats(this.code, memory, at, input, output);
    this.lanes = at + PATTERN_BYTES;
    const lightAt = this.lanes + LANES_BYTES;
    this.lightAt = lightAt + LIGHT_BYTES / 2;
    this.encodedAt = lightAt + LIGHT_BYTES;
    writeLights(memory, lightAt);
    const fixedAt = this.encodedAt + ENCODED_BYTES;
    const step = fixedBytes(capacity.width);
    this.lines = Object.fromEntries(FIXED_LINES.map((name, i) => [name, fixedAt + i * step])) as typeof this.lines;
    const floatsAt = fixedAt + FIXED_LINES.length * step;
    this.floats = Object.fromEntries(
      FLOAT_LINES.map((name, i) => [name, floatsAt + i * lineBytes(capacity.width) + 16]),
    ) as typeof this.floats;
    const inputsAt = floatsAt + FLOAT_LINES.length * lineBytes(capacity.width);
    this.inputs = new RowInputs(this.code, memory, this.floats, inputsAt, capacity);
    this.tablesAt = inputsAt + inputBytes(capacity);
    new Int16Array(memory.buffer, this.lines.all, step / 2).fill(WHOLE);
  }

  /** Whether it supports a program. */
  takes(baked: Baked): boolean {
    const needs = needsOf(baked);
    return (
      baked.ops.length > 0 &&
      baked.ops.every(holds) &&
      (Object.keys(needs) as (keyof typeof needs)[]).every((key) => needs[key] <= this.capacity[key])
    );
  }

  /** Sets the ops and planes of a frame. Throws a RangeError for unsupported ones. */
  setGrade(baked: Baked): void {
    if (!this.takes(baked)) throw new RangeError('This program is not one for 16-bit lanes.');
    this.baked = baked;
    let [tables, points] = [0, 0];
    this.places = baked.ops.map((op) => {
      if (op.kind === 'table') return this.putTable(op.table, tables++);
      return this.inputs.putNumbers(op, points++);
    });
    this.inputs.setPlanes(baked.planes);
  }

  private putTable(table: Table, i: number): number {
    const at = this.tablesAt + i * Math.ceil(kernelTableBytes(this.capacity.size) / 16) * 16;
    if (this.tables[i] !== table)
      writeKernelTable(table, new Int16Array(this.memory.buffer, at, kernelTableBytes(table.size) / 2));
    this.tables[i] = table;
    return at;
  }

  /** Grades one picture into another, at addresses that are multiples of 16. */
  picture(from: number, to: number): void {
    const { code, lines, input, output, pattern } = this;
    const { width, height } = input;
    const { r, g, b } = lines;
    const source = planesAt(from, input);
    const target = planesAt(to, output);
    this.inputs.begin(width, height);
    for (let y = 0; y < height; y += 1) {
      this.run(y, source);
      code.writeFixed(y, r, g, b, ...target, width, height, lines.sumU, lines.sumV - lines.sumU, pattern);
    }
  }

  private run(y: number, source: readonly [number, number, number]): void {
    const { code, lines, baked, lanes, places } = this;
    const { width, height } = this.input;
    const { r, g, b, share, u, v } = lines;
    if (baked.planes.some((p) => p && !isMask(p))) this.readLuma(y, source[0]);
    const [first] = baked.ops;
    const whole = first.kind === 'table' && !first.mix;
    const size = [width, height] as const;
    if (whole) {
      const bits = NODE_BITS[first.table.size];
      code.readThrough(bits, places[0], y, ...source, ...size, u, v, r, g, b, share, lanes);
    } else code.readFixed(y, ...source, ...size, u, v, r, g, b);
    for (let i = whole ? 1 : 0; i < baked.ops.length; i += 1) {
      const op = baked.ops[i];
      if (op.kind !== 'table') this.point(op as BakedPoint, i, y);
      else if (op.mix) this.mixed(op, op.mix, i, y);
      else code.lookFixed(NODE_BITS[op.table.size], places[i], r, g, b, share, width, lanes);
    }
  }

  /** The file's luma of a row, the guide of the maps. */
  private readLuma(y: number, plane: number): void {
    const { depth, range, width } = this.input;
    const { yOffset, yScale } = codeScale(depth, range);
    const wide = depth > 8 ? 1 : 0;
    this.code.lumaSamples(plane + ((y * width) << wide), wide, width, yOffset, 1 / yScale, this.floats.luma);
  }

  /** A table limited to a region: spans where nothing is selected are skipped. */
  private mixed({ table }: BakedTable, { join, mask }: Mix, k: number, y: number): void {
    const { code, lines, lanes, places } = this;
    const { width } = this.input;
    const { r, g, b } = lines;
    let [from, to] = [0, width];
    if (mask !== undefined) {
      const span = this.inputs.maskOf(mask, y);
      // Blocks of eight.
      if (join[0] === 0 && join[2] === 0) [from, to] = [span[0] & ~7, span[1]];
      code.sharesFixed(this.floats.mask, lines.shape, from, to);
    }
    const numbers = join.map((j) => Math.round(j * Q14)) as [number, number, number, number];
    const bits = NODE_BITS[table.size];
    const shape = mask === undefined ? lines.all : lines.shape;
    code.mixFixed(bits, places[k], r, g, b, shape, ...numbers, k === 0 ? 1 : 0, from, to, lanes);
  }

  /** A spatial step, in floats. */
  private point({ step, plane, mix }: BakedPoint, k: number, y: number): void {
    const { code, lines, floats, lanes, places } = this;
    const { width } = this.input;
    const { red, green, blue, mask, chosen, amount, map } = floats;
    if (mix) {
      if (mix.mask !== undefined) {
        const [from, to] = this.inputs.maskOf(mix.mask, y);
        if (from === to && mix.join[0] === 0 && mix.join[2] === 0) return;
      }
      // Without a previous table there is no selection by colour.
      if (k > 0) code.floatsFrom(lines.share, chosen, width);
      else code.fill(chosen, width, 1);
      code.amountLine(mix.mask === undefined ? chosen : mask, chosen, ...mix.join, width, amount);
      code.sharesFixed(amount, lines.shape, 0, width);
    }
    const linear = stepKind(step).formula!.light === 'linear';
    const channels = [
      [lines.r, red],
      [lines.g, green],
      [lines.b, blue],
    ] as const;
    for (const [fixed, float] of channels)
      if (linear) code.lightFrom(fixed, this.lightAt, float, width);
      else code.floatsFrom(fixed, float, width);
    this.inputs.valuesOf(plane, y);
    code[`${step}${BARE}`](places[k], map, red, green, blue, width);
    for (const [fixed, float] of channels) {
      const out = mix ? lines.after : fixed;
      if (linear) code.encodedFrom(float, this.encodedAt, out, width, lanes);
      else code.fixedFrom(float, out, width);
      if (mix) code.blendFixed(fixed, out, lines.shape, width);
    }
  }
}
