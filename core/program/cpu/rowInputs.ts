import { rowsAt, type FieldMap } from '../../fields/map';
import { atWidth } from '../../fields/tile';
import { columnsIn, rowIn, type MaskPlane, type MaskShape } from '../../regions/mask';
import { formulaData } from '../../steps';
import type { BakedPoint, BakedStencil } from '../baked';
import { isMask, type Plane, type Planes } from '../planes';
import { DATA_BYTES, lineBytes, MAP_BYTES, MASK_BYTES, type RowExports, type RowKernelCapacity } from './rowCapacity';

/**
 * Lines of floats in the kernel's memory: the file's luma is read from one; masks and maps are written to the others.
 */
export interface InputLines {
  luma: number;
  mask: number;
  map: number;
}

/** Cells in a kernel's memory, and the two most recently upsampled rows: an even and an odd one. */
interface Cells {
  at: number;
  stretchedAt: number;
  rows: [even: number, odd: number];
  /** The map or shape that they belong to, and its parameters. */
  of?: FieldMap | MaskShape;
  numbers?: Float32Array;
}

/** Inputs of ops other than pixels, in a kernel's memory: maps and shapes row by row, parameters of spatial steps. */
export class RowInputs {
  private planes: Planes = [];
  /** Each plane's map, or its shapes. */
  private cells: Cells[][] = [];
  private readonly mapsAt: Cells[];
  private readonly shapesAt: Cells[];
  private readonly pointsAt: number;
  /** Bytes from one upsampled row to the next. */
  private readonly step: number;
  private readonly params: (object | undefined)[] = [];
  private frame = { width: 0, rows: 0 };
  /** The mask currently in the mask's line, and its row. */
  private masked: { plane: number; y: number; span: readonly [number, number] } | undefined;

  /** `at`: address with `inputBytes(capacity)` bytes free, a multiple of 16. */
  constructor(
    private readonly code: RowExports,
    private readonly memory: WebAssembly.Memory,
    private readonly lines: InputLines,
    at: number,
    capacity: RowKernelCapacity,
  ) {
    const step = lineBytes(capacity.width);
    this.step = step;
    const shapesAt = at + capacity.maps * MAP_BYTES;
    this.pointsAt = shapesAt + capacity.shapes * MASK_BYTES;
    const stretched = this.pointsAt + capacity.points * DATA_BYTES;
    // Of a map both coefficients, contiguously; of a shape distances and their bounds.
    this.mapsAt = Array.from({ length: capacity.maps }, (_, i) => ({
      at: at + i * MAP_BYTES,
      stretchedAt: stretched + i * 4 * step,
      rows: [-1, -1],
    }));
    this.shapesAt = Array.from({ length: capacity.shapes }, (_, i) => ({
      at: shapesAt + i * MASK_BYTES,
      stretchedAt: stretched + (capacity.maps + i) * 4 * step,
      rows: [-1, -1],
    }));
  }

  /** Sets the planes of a frame. */
  setPlanes(planes: Planes): void {
    let [maps, shapes] = [0, 0];
    this.masked = undefined;
    this.planes = planes;
    this.cells = planes.map((plane) => {
      if (!plane) return [];
      return isMask(plane)
        ? plane.shapes.map((s) => this.put(this.take(this.shapesAt[shapes++], s), s.distances))
        : [this.take(this.mapsAt[maps++], plane)];
    });
  }

  /** Sets the size of the pictures. */
  begin(width: number, rows: number): void {
    if (this.frame.width !== width) for (const cells of [...this.mapsAt, ...this.shapesAt]) cells.rows = [-1, -1];
    this.frame = { width, rows };
    this.masked = undefined;
  }

  private floats(at: number, count: number): Float32Array {
    return new Float32Array(this.memory.buffer, at, count);
  }

  /** Invalidates the cached rows: cells now belong to another map or shape. */
  private take(cells: Cells, of: FieldMap | MaskShape): Cells {
    if (cells.of !== of) cells.rows = [-1, -1];
    cells.of = of;
    return cells;
  }

  private put(cells: Cells, numbers: Float32Array): Cells {
    if (cells.numbers === numbers) return cells;
    this.floats(cells.at, numbers.length).set(numbers);
    cells.numbers = numbers;
    cells.rows = [-1, -1];
    return cells;
  }

  /** Writes the parameters of the i-th spatial step; returns their address. */
  putNumbers({ step, params }: BakedPoint | BakedStencil, i: number): number {
    const at = this.pointsAt + i * DATA_BYTES;
    if (this.params[i] !== params) {
      const data = formulaData(step, params as Record<string, unknown>);
      this.floats(at, data.length).set(data);
    }
    this.params[i] = params;
    return at;
  }

  /**
   * The address of a row of cells, upsampled to pixels. Consecutive rows of a picture mostly lie between the same two,
   * so horizontal interpolation is shared by several rows.
   */
  private stretched(cells: Cells, row: number, stretch: (row: number, to: number) => void): number {
    const to = cells.stretchedAt + (row & 1) * 2 * this.step;
    if (cells.rows[row & 1] !== row) stretch(row, to);
    cells.rows[row & 1] = row;
    return to;
  }

  /** Computes the mask line of a region's shapes; returns the span where it may be above zero. */
  maskOf(plane: number, y: number): readonly [from: number, to: number] {
    if (this.masked?.plane === plane && this.masked.y === y) return this.masked.span;
    const { code, lines, step } = this;
    const { width, rows } = this.frame;
    const mask = this.planes[plane] as MaskPlane | null;
    const shapes = mask?.shapes ?? [];
    const all = shapes.length > 0 && shapes[0].mode !== 'add';
    code.fill(lines.mask, width, all ? 1 : 0);
    // The span where the mask may be above zero.
    let [least, most] = all ? [0, width] : [width, 0];
    shapes.forEach((shape, i) => {
      const adds = shape.mode === 'add';
      const flip = shape.inverted !== (shape.mode === 'subtract');
      // Additive shapes have no effect outside their grid.
      const [from, to] = adds && !flip ? columnsIn(shape, mask!.aspect, y, rows, width) : [0, width];
      if (from >= to) return;
      [least, most] = [Math.min(least, from), Math.max(most, to)];
      const { top, low, down, first, scale } = rowIn(shape, mask!.aspect, y, rows, width);
      const cells = this.cells[plane][i];
      const stretch = (row: number, out: number): void =>
        code.stretchLine(
          ...([cells.at + row * shape.width * 4, shape.width, first + from * scale, scale, to - from] as const),
          ...([out, out + step] as const),
        );
      const [upper, lower] = [top, low].map((row) => this.stretched(cells, row, stretch));
      const line = lines.mask + 4 * from;
      code.maskLine(upper, lower, step, down, shape.slope, flip ? 1 : 0, adds ? 1 : 0, to - from, line);
    });
    const packed = code.spanOf(lines.mask, least, most);
    this.masked = { plane, y, span: [packed & 0xffff, packed >>> 16] };
    return this.masked.span;
  }

  /** A row of a map. */
  valuesOf(index: number, y: number): void {
    const { code, lines, step } = this;
    const { width, rows } = this.frame;
    const plane: Plane | null = this.planes[index];
    if (!plane || isMask(plane)) return code.fill(lines.map, width, 0);
    const { top, low, down } = rowsAt(plane, y, rows);
    const [cells] = this.cells[index];
    // The level of a texture depends on the width.
    this.put(cells, atWidth(plane, width).coefficients);
    const scale = plane.cells[0] / width;
    const first = (plane.corner?.[0] ?? 0) - 0.5 + 0.5 * scale;
    const [across, period] = [plane.width, plane.repeats ? plane.width - 1 : 0];
    const stretch = (row: number, out: number): void =>
      code.stretchPairs(cells.at + row * across * 8, across, period, first, scale, width, out, out + step);
    const [upper, lower] = [top, low].map((row) => this.stretched(cells, row, stretch));
    code.mapLine(upper, lower, step, down, lines.luma, width, lines.map);
  }
}
