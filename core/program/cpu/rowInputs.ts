import { rowsAt, type FieldMap } from '../../fields/map';
import { columnsIn, rowIn, type MaskPlane, type MaskShape } from '../../regions/mask';
import { formulaData } from '../../steps';
import type { BakedPoint, BakedStencil } from '../baked';
import { isMask, type Plane, type Planes } from '../planes';
import { DATA_BYTES, MAP_BYTES, MASK_BYTES, type RowExports } from './rowRoom';

/** Where in the kernel's memory things lie, in bytes. */
export interface InputPlaces {
  /** Lines of floats: the file's luma is read from one, masks and maps are made in the others. */
  luma: number;
  mask: number;
  map: number;
  /** Room for a row of cells, for maps, numbers of spatial steps, and shapes. */
  cells: number;
  maps: number;
  points: number;
  shapes: number;
}

/** What ops read beside pixels, in the memory of a kernel: maps and shapes row by row, numbers of spatial steps. */
export class RowInputs {
  private planes: Planes = [];
  /** Where each plane's map lies, or the distances of its shapes. */
  private planesAt: number[][] = [];
  private readonly maps: (FieldMap | undefined)[] = [];
  private readonly shapes: (MaskShape | undefined)[] = [];
  private readonly params: (object | undefined)[] = [];
  private frame = { width: 0, rows: 0 };
  /** The mask that the mask's line holds, and of which row. */
  private masked: { plane: number; y: number; span: readonly [number, number] } | undefined;

  constructor(
    private readonly code: RowExports,
    private readonly memory: WebAssembly.Memory,
    private readonly at: InputPlaces,
  ) {}

  /** Takes the planes of a frame. */
  setPlanes(planes: Planes): void {
    let [maps, shapes] = [0, 0];
    this.masked = undefined;
    this.planes = planes;
    this.planesAt = planes.map((plane) => {
      if (!plane) return [];
      return isMask(plane) ? plane.shapes.map((s) => this.putShape(s, shapes++)) : [this.putMap(plane, maps++)];
    });
  }

  /** The size of the pictures that rows are asked for of. */
  begin(width: number, rows: number): void {
    this.frame = { width, rows };
    this.masked = undefined;
  }

  private floats(at: number, count: number): Float32Array {
    return new Float32Array(this.memory.buffer, at, count);
  }

  private putMap(map: FieldMap, i: number): number {
    const at = this.at.maps + i * MAP_BYTES;
    if (this.maps[i] !== map) this.floats(at, map.coefficients.length).set(map.coefficients);
    this.maps[i] = map;
    return at;
  }

  /** Numbers of a spatial step, as the i-th; gives where they lie. */
  putNumbers({ step, params }: BakedPoint | BakedStencil, i: number): number {
    const at = this.at.points + i * DATA_BYTES;
    if (this.params[i] !== params) {
      const data = formulaData(step, params as Record<string, unknown>);
      this.floats(at, data.length).set(data);
    }
    this.params[i] = params;
    return at;
  }

  private putShape(shape: MaskShape, i: number): number {
    const at = this.at.shapes + i * MASK_BYTES;
    if (this.shapes[i] !== shape) this.floats(at, shape.distances.length).set(shape.distances);
    this.shapes[i] = shape;
    return at;
  }

  /** Makes the line of a region's shapes; gives where it is more than nothing. */
  maskOf(plane: number, y: number): readonly [from: number, to: number] {
    if (this.masked?.plane === plane && this.masked.y === y) return this.masked.span;
    const { code, at: places } = this;
    const { width, rows } = this.frame;
    const mask = this.planes[plane] as MaskPlane | null;
    const shapes = mask?.shapes ?? [];
    code.fill(places.mask, width, shapes.length > 0 && shapes[0].mode !== 'add' ? 1 : 0);
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
        ...([flip ? 1 : 0, adds ? 1 : 0, to - from, places.cells, places.mask + 4 * from] as const),
      );
    });
    const packed = code.spanOf(places.mask, width);
    this.masked = { plane, y, span: [packed & 0xffff, packed >>> 16] };
    return this.masked.span;
  }

  /** A row of a plane that is a map. */
  valuesOf(index: number, y: number): void {
    const { code, at: places } = this;
    const { width, rows } = this.frame;
    const plane: Plane | null = this.planes[index];
    if (!plane || isMask(plane)) return code.fill(places.map, width, 0);
    const { top, low, down } = rowsAt(plane, y, rows);
    const at = (row: number): number => this.planesAt[index][0] + row * plane.width * 8;
    code.mapLine(
      at(top),
      at(low),
      plane.width,
      down,
      (plane.corner?.[0] ?? 0) - 0.5,
      plane.cells[0] / width,
      places.luma,
      width,
      places.cells,
      places.map,
    );
  }
}
