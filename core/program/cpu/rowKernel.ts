import { codeScale, inverseMatrix, LUMA } from '../../colour/ycbcr';
import type { Vec3 } from '../../colour/matrix';
import { rowsAt, type FieldMap } from '../../fields/map';
import { SPECK } from '../../regions/clean';
import { columnsIn, rowIn, type MaskPlane, type MaskShape } from '../../regions/mask';
import { formulaData } from '../../steps';
import type { Baked, BakedPoint, BakedTable } from '../baked';
import type { Mix } from '../compile';
import { isMask, type Plane } from '../planes';
import type { Table } from '../table';
import { roundings } from './dither';
import {
  CELLS_BYTES,
  DATA_BYTES,
  DITHER_BYTES,
  LINES,
  lineBytes,
  MAP_BYTES,
  MARGIN,
  MASK_BYTES,
  needsOf,
  tableBytes,
  type Line,
  type RowExports,
  type RowKernelRoom,
} from './rowRoom';
import { chromaHeight, chromaWidth, type PlanarFormat, type PlanarPicture } from './planar';

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
  private readonly mapsAt: number;
  private readonly pointsAt: number;
  private readonly shapesAt: number;
  private readonly dithers: readonly [rounded: Float32Array, dithered: Float32Array];
  private baked: Baked = { ops: [], planes: [] };
  /** Where each op's table, or a spatial step's numbers, lie. */
  private places: number[] = [];
  /** Where each plane's map lies, or the distances of its shapes. */
  private planesAt: number[][] = [];
  private readonly tables: (Table | undefined)[] = [];
  private readonly maps: (FieldMap | undefined)[] = [];
  private readonly shapes: (MaskShape | undefined)[] = [];
  private readonly params: (object | undefined)[] = [];
  /** The columns that are graded, the first a multiple of eight. */
  private left = 0;
  private right = 0;
  /** The mask that the mask's line holds, and of which row. */
  private masked: { plane: number; y: number; span: readonly [number, number] } | undefined;

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
    this.mapsAt = this.tablesAt + room.tables * tableBytes(room);
    this.pointsAt = this.mapsAt + room.maps * MAP_BYTES;
    this.shapesAt = this.pointsAt + room.points * DATA_BYTES;
    this.dithers = [roundings(false), roundings(true)];
  }

  /** Whether a program fits. */
  takes(baked: Baked, width: number): boolean {
    const needs = { ...needsOf(baked), width };
    return (Object.keys(needs) as (keyof RowKernelRoom)[]).every((key) => needs[key] <= this.room[key]);
  }

  /** Takes the ops and planes of a frame. Throws a RangeError for what there is no room for. */
  setGrade(baked: Baked): void {
    if (!this.takes(baked, 0)) throw new RangeError('The kernel has no room for this program.');
    this.baked = baked;
    this.masked = undefined;
    let [tables, points, maps, shapes] = [0, 0, 0, 0];
    this.places = baked.ops.map((op) =>
      op.kind === 'table' ? this.putTable(op.table, tables++) : this.putNumbers(op, points++),
    );
    this.planesAt = baked.planes.map((plane) => {
      if (!plane) return [];
      return isMask(plane) ? plane.shapes.map((s) => this.putShape(s, shapes++)) : [this.putMap(plane, maps++)];
    });
  }

  private floats(at: number, count: number): Float32Array {
    return new Float32Array(this.memory.buffer, at, count);
  }

  private putTable(table: Table, i: number): number {
    const at = this.tablesAt + i * tableBytes(this.room);
    if (this.tables[i] !== table) {
      this.floats(at, table.data.length).set(table.data);
      // Each channel's entries in a row of their own.
      const { size, data } = table.shaper ?? { size: 0, data: [] };
      this.floats(at + 4 * table.data.length, 3 * size).set(
        Float32Array.from({ length: 3 * size }, (_, k) => data[3 * (k % size) + Math.floor(k / size)]),
      );
    }
    this.tables[i] = table;
    return at;
  }

  private putMap(map: FieldMap, i: number): number {
    const at = this.mapsAt + i * MAP_BYTES;
    if (this.maps[i] !== map) this.floats(at, map.coefficients.length).set(map.coefficients);
    this.maps[i] = map;
    return at;
  }

  private putNumbers({ step, params }: BakedPoint, i: number): number {
    const at = this.pointsAt + i * DATA_BYTES;
    if (this.params[i] !== params) {
      const data = formulaData(step, params as Record<string, unknown>);
      this.floats(at, data.length).set(data);
    }
    this.params[i] = params;
    return at;
  }

  private putShape(shape: MaskShape, i: number): number {
    const at = this.shapesAt + i * MASK_BYTES;
    if (this.shapes[i] !== shape) this.floats(at, shape.distances.length).set(shape.distances);
    this.shapes[i] = shape;
    return at;
  }

  /** A row of a picture with `rows` rows: the file's R'G'B', width × 3, becomes encoded output. As of `RowGrader`. */
  grade(y: number, line: Float32Array, rows: number, weights: Readonly<Vec3>): void {
    const { code, lines, interleaved } = this;
    const width = line.length / 3;
    [this.left, this.right] = [0, width];
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
    const { width, height, matrix } = input.format;
    this.begin(input, output);
    for (let y = from; y < to; y += 1) {
      this.read(input, y);
      this.run(y, width, height, LUMA[matrix]);
      this.write(output, y);
    }
  }

  /**
   * Grades only where regions choose something, and leaves the rest of the output as it is: the first op alone has been
   * done there. For programs of which every later op acts within shapes alone, see {@link leavesTheRest}.
   */
  regions(input: PlanarPicture, output: PlanarPicture): void {
    const { width, height, matrix } = input.format;
    this.begin(input, output);
    const masks = [...new Set(this.baked.ops.flatMap((op) => op.mix?.mask ?? []))];
    // Rows two by two: they share their chroma.
    for (let y = 0; y < height; y += 2) {
      const rows = y + 1 < height ? [y, y + 1] : [y];
      const spans = rows.flatMap((row) => masks.map((mask) => this.maskOf(mask, row, width, height)));
      const chosen = spans.filter(([a, b]) => b > a);
      if (chosen.length === 0) continue;
      this.left = Math.max(0, Math.min(...chosen.map(([a]) => a)) - 2 * MARGIN) & ~7;
      this.right = Math.min(width, Math.max(...chosen.map(([, b]) => b)) + 2 * MARGIN);
      for (const row of rows) {
        this.read(input, row);
        this.run(row, width, height, LUMA[matrix]);
        this.write(output, row);
      }
    }
  }

  private begin(input: PlanarPicture, output: PlanarPicture): void {
    const { width, height, depth } = input.format;
    if (output.format.width !== width || output.format.height !== height)
      throw new RangeError('The graded picture must be as large as the picture it comes from.');
    if (input.y.buffer !== this.memory.buffer || output.y.buffer !== this.memory.buffer)
      throw new RangeError('Pictures must lie in the memory of the kernel.');
    this.floats(this.added, 64).set(this.dithers[output.format.depth < depth ? 1 : 0]);
    [this.left, this.right] = [0, width];
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
    const { left, right } = this;
    const at = luma.byteOffset + (y * format.width + left) * bytes;
    const across = acrossOf(format);
    const [u, v] = [lines.u, lines.v].map((line) => line + 4 * (across === 0 ? left : left >> 1));
    const [r, g, b] = [lines.r, lines.g, lines.b].map((line) => line + 4 * left);
    code.toRgb(at, wide, right - left, yOffset, 1 / yScale, u, v, across, rv, gu, gv, bu, r, g, b);
  }

  private run(y: number, width: number, rows: number, weights: Readonly<Vec3>): void {
    const { code, lines, baked } = this;
    const { r, g, b, luma } = lines;
    if (baked.planes.some((p) => p && !isMask(p))) code.lumaLine(r, g, b, width, ...weights, luma);
    baked.ops.forEach((op, k) => {
      if (op.kind === 'point') this.point(op, k, y, width, rows);
      else if (op.mix) this.mixed(op, op.mix, k, y, width, rows);
      else this.look(op, k, this.left, this.right - this.left);
    });
  }

  /** Pixels from `from` on through a table. */
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

  /** A table that acts in a region, or in parts: where nothing is chosen, nothing is looked up. */
  private mixed(op: BakedTable, mix: Mix, k: number, y: number, width: number, rows: number): void {
    const { code, lines } = this;
    const { r, g, b, r0, g0, b0, share, amount } = lines;
    const { join, mask } = mix;
    const span = mask === undefined ? ([0, width] as const) : this.maskOf(mask, y, width, rows);
    const [first, last] = join[0] === 0 && join[2] === 0 ? span : [0, width];
    const [from, to] = [Math.max(first, this.left), Math.min(last, this.right)];
    const skip = 4 * from;
    const count = to - from;
    if (count <= 0) return;
    for (const [line, before] of [
      [r, r0],
      [g, g0],
      [b, b0],
    ])
      code.copyLine(line + skip, before + skip, count);
    this.look(op, k, from, count);
    this.clean(mix, y, width, rows);
    code.amountLine((mask === undefined ? share : lines.mask) + skip, share + skip, ...join, count, amount + skip);
    for (const [line, before] of [
      [r, r0],
      [g, g0],
      [b, b0],
    ])
      code.mixLine(before + skip, line + skip, amount + skip, count);
  }

  /** What the colours choose, without specks and holes. */
  private clean({ clean }: Mix, y: number, width: number, rows: number): void {
    const { share, map } = this.lines;
    if (clean === undefined) return;
    this.valuesOf(clean, y, width, rows);
    this.code.cleanLine(share, map, SPECK, width);
  }

  /** Makes the line of a region's shapes; gives where it is more than nothing. */
  private maskOf(plane: number, y: number, width: number, rows: number): readonly [from: number, to: number] {
    if (this.masked?.plane === plane && this.masked.y === y) return this.masked.span;
    const { code, lines, cells } = this;
    const mask = this.baked.planes[plane] as MaskPlane | null;
    const shapes = mask?.shapes ?? [];
    code.fill(lines.mask, width, shapes.length > 0 && shapes[0].mode !== 'add' ? 1 : 0);
    shapes.forEach((shape, i) => {
      const adds = shape.mode === 'add';
      const flip = shape.inverted !== (shape.mode === 'subtract');
      // What only adds changes nothing beyond its grid.
      const [from, to] = adds && !flip ? columnsIn(shape, mask!.aspect, y, rows, width) : [0, width];
      if (from >= to) return;
      const { top, low, down, first, scale } = rowIn(shape, mask!.aspect, y, rows, width);
      const at = (row: number): number => this.planesAt[plane][i] + row * shape.width * 4;
      code.maskLine(
        ...([at(top), at(low), shape.width, down, first + from * scale, scale, shape.slope] as const),
        ...([flip ? 1 : 0, adds ? 1 : 0, to - from, cells, lines.mask + 4 * from] as const),
      );
    });
    const packed = code.spanOf(lines.mask, width);
    this.masked = { plane, y, span: [packed & 0xffff, packed >>> 16] };
    return this.masked.span;
  }

  /** A row of a plane that is a map. */
  private valuesOf(index: number, y: number, width: number, rows: number): void {
    const { code, lines, cells } = this;
    const plane: Plane | null = this.baked.planes[index];
    if (!plane || isMask(plane)) return code.fill(lines.map, width, 0);
    const { top, low, down } = rowsAt(plane, y, rows);
    const at = (row: number): number => this.planesAt[index][0] + row * plane.width * 8;
    code.mapLine(at(top), at(low), plane.width, down, plane.cells[0] / width, lines.luma, width, cells, lines.map);
  }

  private point(op: BakedPoint, k: number, y: number, width: number, rows: number): void {
    const { code, lines, places } = this;
    const { r, g, b, share, amount, map, mask } = lines;
    const { mix } = op;
    if (!mix) code.fill(amount, width, 1);
    else {
      if (mix.mask !== undefined) {
        const [from, to] = this.maskOf(mix.mask, y, width, rows);
        if (from === to && mix.join[0] === 0 && mix.join[2] === 0) return;
      }
      this.clean(mix, y, width, rows);
      code.amountLine(mix.mask === undefined ? share : mask, share, ...mix.join, width, amount);
    }
    this.valuesOf(op.plane, y, width, rows);
    code[op.step](places[k], map, amount, r, g, b, width);
  }

  private write({ format, y: luma, cb, cr }: PlanarPicture, y: number): void {
    const { code, lines } = this;
    const { width, height, chroma } = format;
    const { yOffset, yScale, cOffset, cScale, max } = codeScale(format.depth, format.range);
    const [kr, kg, kb] = LUMA[format.matrix];
    const bytes = luma.BYTES_PER_ELEMENT;
    const wide = bytes - 1;
    const halved = chroma === '420';
    const second = halved && (y & 1) === 1;
    const { left, right } = this;
    const at = luma.byteOffset + (y * width + left) * bytes;
    const added = this.added + 32 * (y & 7);
    const [ku, kv] = [0.5 / (1 - kb), 0.5 / (1 - kr)];
    const [r, g, b, outU, outV] = (['r', 'g', 'b', 'outU', 'outV'] as const).map((name) => lines[name] + 4 * left);
    code.fromRgb(
      ...([r, g, b, right - left, kr, kg, kb, yScale, yOffset, added, at, wide] as const),
      ...([outU, outV, ku, kv, second ? 1 : 0] as const),
    );
    if (halved && !second && y < height - 1) return;
    const across = acrossOf(format);
    // Within a row the outermost pixels are there for their neighbours' chroma alone.
    const [begins, ends] = [left === 0, right === width];
    const first = begins ? 0 : MARGIN;
    const count = right - left - first - (ends ? 0 : MARGIN);
    const samples = across === 0 ? left + first : (left + first) >> 1;
    const row = ((halved ? y >> 1 : y) * chromaWidth(format) + samples) * bytes;
    for (const [line, plane] of [
      [outU, cb],
      [outV, cr],
    ] as const)
      code.chromaOut(
        ...([line + 4 * first, count, across, cScale, cOffset, max, plane.byteOffset + row, wide] as const),
        ...([begins ? 1 : 0, ends ? 1 : 0] as const),
      );
  }
}
