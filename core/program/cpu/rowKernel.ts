import { codeScale, inverseMatrix, LUMA } from '../../colour/ycbcr';
import type { Vec3 } from '../../colour/matrix';
import { MAP_EDGE, rowsAt, type FieldMap } from '../../fields/map';
import { stepKind } from '../../steps';
import { fieldRow, type Baked, type BakedPass } from '../baked';
import type { Table } from '../table';
import { roundings } from './dither';
import { chromaHeight, chromaWidth, type PlanarFormat, type PlanarPicture } from './planar';

/** What the compiled module exports for rows, see `wasm/rows.ts`; and a function for each spatial step that has one. */
type RowExports = Record<
  | 'chromaLine'
  | 'toRgb'
  | 'split'
  | 'join'
  | 'lumaLine'
  | 'fill'
  | 'mapLine'
  | 'lookLine'
  | 'fromRgb'
  | 'chromaOut'
  | (string & {}),
  (...args: number[]) => void
>;

/** The largest program that a kernel has room for. */
export interface RowKernelRoom {
  /** Pixels a row. */
  width: number;
  /** Tables, and nodes an edge of the largest. */
  tables: number;
  size: number;
  /** Spatial steps. */
  fields: number;
}

const LINES = ['r', 'g', 'b', 'luma', 'share', 'map', 'u', 'v', 'outU', 'outV'] as const;
type Line = (typeof LINES)[number];
const SPARE = 64;
const DATA_BYTES = 16384;
const MAP_BYTES = MAP_EDGE ** 2 * 8 + SPARE;
const CELLS_BYTES = (MAP_EDGE + 4) * 8 + SPARE;
const DITHER_BYTES = 64 * 4;

const align = (n: number): number => Math.ceil(n / 16) * 16;
const lineBytes = (width: number): number => align(width * 4) + SPARE;
const tableBytes = (size: number): number => size ** 3 * 16;

/** Bytes of memory that a kernel with this room takes. */
export const rowKernelBytes = ({ width, tables, size, fields }: RowKernelRoom): number =>
  (LINES.length + 3) * lineBytes(width) +
  DITHER_BYTES +
  CELLS_BYTES +
  tables * tableBytes(size) +
  fields * (MAP_BYTES + DATA_BYTES);

/** How chroma samples lie along a row: each pixel has its own, on even columns, between two. */
const acrossOf = (f: PlanarFormat): number => (f.chroma === '444' ? 0 : f.chromaSite === 'left' ? 1 : 2);

/**
 * The CPU backend for any program and any format, in WebAssembly, a row at a time. The same as `RowGrader` with
 * `RowReader` and `RowWriter`, which are its oracle; one thread uses one of these.
 */
export class RowKernel {
  private readonly code: RowExports;
  private readonly lines: Record<Line, number>;
  private readonly interleaved: number;
  private readonly added: number;
  private readonly cells: number;
  private readonly tablesAt: number;
  private readonly fieldsAt: number;
  private readonly dithers: readonly [rounded: Float32Array, dithered: Float32Array];
  private baked: Baked = { passes: [], maps: [] };
  /** Where each pass's table, or its map, lies. */
  private places: number[] = [];
  private readonly tables: (Table | undefined)[] = [];
  private readonly maps: (FieldMap | null | undefined)[] = [];
  private readonly params: (object | undefined)[] = [];

  /** `module`: the compiled kernel. `memory`: shared, with {@link rowKernelBytes} to spare at `at`, a multiple of 16. */
  constructor(
    module: WebAssembly.Module,
    private readonly memory: WebAssembly.Memory,
    at: number,
    private readonly room: RowKernelRoom,
  ) {
    this.code = new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as RowExports;
    const step = lineBytes(room.width);
    this.lines = Object.fromEntries(LINES.map((name, i) => [name, at + i * step + 16])) as Record<Line, number>;
    this.interleaved = at + LINES.length * step;
    this.added = this.interleaved + 3 * step;
    this.cells = this.added + DITHER_BYTES;
    this.tablesAt = this.cells + CELLS_BYTES;
    this.fieldsAt = this.tablesAt + room.tables * tableBytes(room.size);
    this.dithers = [roundings(false), roundings(true)];
  }

  /** Whether a program fits. */
  takes(passes: readonly BakedPass[], width: number): boolean {
    const tables = passes.flatMap((p) => (p.kind === 'lut' ? [p.table.size] : []));
    const { room } = this;
    return (
      width <= room.width &&
      tables.length <= room.tables &&
      passes.length - tables.length <= room.fields &&
      tables.every((size) => size <= room.size)
    );
  }

  /** Takes the passes and maps of a frame. Throws a RangeError for what there is no room for. */
  setGrade(baked: Baked): void {
    if (!this.takes(baked.passes, 0)) throw new RangeError('The kernel has no room for this program.');
    this.baked = baked;
    let [tables, fields] = [0, 0];
    this.places = baked.passes.map((pass, k) =>
      pass.kind === 'lut' ? this.putTable(pass.table, tables++) : this.putField(pass, baked.maps[k], fields++),
    );
  }

  private floats(at: number, count: number): Float32Array {
    return new Float32Array(this.memory.buffer, at, count);
  }

  private putTable(table: Table, i: number): number {
    const at = this.tablesAt + i * tableBytes(this.room.size);
    if (this.tables[i] !== table) this.floats(at, table.data.length).set(table.data);
    this.tables[i] = table;
    return at;
  }

  private putField({ step, params }: BakedPass & { kind: 'field' }, map: FieldMap | null, i: number): number {
    const at = this.fieldsAt + i * (MAP_BYTES + DATA_BYTES);
    if (map && this.maps[i] !== map) this.floats(at, map.coefficients.length).set(map.coefficients);
    this.maps[i] = map;
    if (this.params[i] !== params && step in this.code) {
      const data = stepKind(step).shader!.data(params as Record<string, unknown>);
      this.floats(at + MAP_BYTES, data.length).set(data);
    }
    this.params[i] = params;
    return at;
  }

  /** A row of a picture with `rows` rows: the file's R'G'B', width × 3, becomes encoded output. As of `RowGrader`. */
  grade(y: number, line: Float32Array, rows: number, weights: Readonly<Vec3>): void {
    const { code, lines, interleaved } = this;
    const width = line.length / 3;
    this.floats(interleaved, line.length).set(line);
    code.split(interleaved, width, lines.r, lines.g, lines.b);
    this.run(y, width, rows, weights);
    code.join(interleaved, width, lines.r, lines.g, lines.b);
    line.set(this.floats(interleaved, line.length));
  }

  /**
   * A picture into another one of the same size, both in the kernel's memory, through the grade that was set. Rows from
   * `from` (even) up to, not with, `to`. Clipped once, to 0–1; dithered where the depth is lowered.
   */
  picture(input: PlanarPicture, output: PlanarPicture, from = 0, to = input.format.height): void {
    const { width, height, matrix, depth } = input.format;
    if (output.format.width !== width || output.format.height !== height)
      throw new RangeError('The graded picture must be as large as the picture it comes from.');
    if (input.y.buffer !== this.memory.buffer || output.y.buffer !== this.memory.buffer)
      throw new RangeError('Pictures must lie in the memory of the kernel.');
    this.floats(this.added, 64).set(this.dithers[output.format.depth < depth ? 1 : 0]);
    for (let y = from; y < to; y += 1) {
      this.read(input, y);
      this.run(y, width, height, LUMA[matrix]);
      this.write(output, y);
    }
  }

  private read({ format, y: luma, cb, cr }: PlanarPicture, y: number): void {
    const { code, lines } = this;
    const { yOffset, yScale, cOffset, cScale } = codeScale(format.depth, format.range);
    const { rv, gu, gv, bu } = inverseMatrix(format.matrix);
    const bytes = luma.BYTES_PER_ELEMENT;
    const wide = bytes - 1;
    const cw = chromaWidth(format);
    const halved = format.chroma === '420';
    const near = halved ? y >> 1 : y;
    const wanted = !halved ? y : (y & 1) === 0 ? near - 1 : near + 1;
    const far = Math.min(chromaHeight(format) - 1, Math.max(0, wanted));
    const row = (plane: typeof cb, k: number): number => plane.byteOffset + k * cw * bytes;
    for (const [plane, line] of [
      [cb, lines.u],
      [cr, lines.v],
    ] as const)
      code.chromaLine(row(plane, near), row(plane, far), wide, cw, halved ? 0.75 : 1, cOffset, 1 / cScale, line);
    const at = luma.byteOffset + y * format.width * bytes;
    const { u, v, r, g, b } = lines;
    const across = acrossOf(format);
    code.toRgb(at, wide, format.width, yOffset, 1 / yScale, u, v, across, rv, gu, gv, bu, r, g, b);
  }

  private run(y: number, width: number, rows: number, weights: Readonly<Vec3>): void {
    const { code, lines, baked, places } = this;
    const { r, g, b, luma, share } = lines;
    if (baked.maps.some(Boolean)) code.lumaLine(r, g, b, width, ...weights, luma);
    baked.passes.forEach((pass, k) => {
      if (pass.kind === 'field') return this.field(pass, k, y, width, rows);
      const { size, domain } = pass.table;
      code.lookLine(places[k], size, domain[0], (size - 1) / (domain[1] - domain[0]), r, g, b, share, width);
    });
  }

  private field(pass: BakedPass & { kind: 'field' }, k: number, y: number, width: number, rows: number): void {
    const { code, lines, cells, places, interleaved } = this;
    const { r, g, b, luma, share, map: values } = lines;
    const map = this.baked.maps[k];
    if (map) {
      const { top, low, down } = rowsAt(map, y, rows);
      const at = (row: number): number => places[k] + row * map.width * 8;
      code.mapLine(at(top), at(low), map.width, down, map.cells[0] / width, luma, width, cells, values);
    } else code.fill(values, width, 0);
    if (this.baked.passes[k - 1]?.kind !== 'lut') code.fill(share, width, 1);
    if (pass.step in code) return code[pass.step](places[k] + MAP_BYTES, values, share, r, g, b, width);
    // A step that has no function in the kernel runs as it is.
    code.join(interleaved, width, r, g, b);
    fieldRow(pass, this.floats(interleaved, 3 * width), this.floats(values, width), this.floats(share, width));
    code.split(interleaved, width, r, g, b);
  }

  private write({ format, y: luma, cb, cr }: PlanarPicture, y: number): void {
    const { code, lines } = this;
    const { r, g, b, outU, outV } = lines;
    const { width, height, chroma } = format;
    const { yOffset, yScale, cOffset, cScale, max } = codeScale(format.depth, format.range);
    const [kr, kg, kb] = LUMA[format.matrix];
    const bytes = luma.BYTES_PER_ELEMENT;
    const wide = bytes - 1;
    const halved = chroma === '420';
    const second = halved && (y & 1) === 1;
    const at = luma.byteOffset + y * width * bytes;
    const added = this.added + 32 * (y & 7);
    const [ku, kv] = [0.5 / (1 - kb), 0.5 / (1 - kr)];
    code.fromRgb(r, g, b, width, kr, kg, kb, yScale, yOffset, added, at, wide, outU, outV, ku, kv, second ? 1 : 0);
    if (halved && !second && y < height - 1) return;
    const row = (halved ? y >> 1 : y) * chromaWidth(format) * bytes;
    for (const [line, plane] of [
      [outU, cb],
      [outV, cr],
    ] as const)
      code.chromaOut(line, width, acrossOf(format), cScale, cOffset, max, plane.byteOffset + row, wide);
  }
}
