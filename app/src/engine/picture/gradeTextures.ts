import { atWidth } from '@inkavo/core/fields/tile';
import type { BakedOp } from '@inkavo/core/program/baked';
import { SHAPER_WIDTH, structureOf, type Structure } from '@inkavo/core/program/gpu/gradeText';
import { isMask, type Planes } from '@inkavo/core/program/planes';
import type { FieldMap } from '@inkavo/core/fields/map';
import { MASK_EDGE, type MaskPlane } from '@inkavo/core/regions/mask';
import type { Shaper } from '@inkavo/core/program/table';
import { formulaData } from '@inkavo/core/steps';
import { texture } from './gl';
import { PASS_UNITS } from './passes';

/** Minimum number of texture units in WebGL2, and the number that the frame uses. */
export const UNITS = 16;
const FIRST_UNIT = 1;

/**
 * Units per op: one for tables, and one for curves before them; two for spatial steps; one for regions with a cleaned
 * selection; two for all regions together.
 */
export function unitsOf(ops: readonly BakedOp[]): number {
  const own = ops.reduce(
    (n, op) => n + (op.kind === 'table' ? (op.table.shaper ? 2 : 1) : op.kind === 'point' ? 2 : 1),
    0,
  );
  const around = ops.filter((op) => op.mix?.clean !== undefined).length;
  const regions = ops.some((op) => op.mix) ? 2 : 0;
  return own + around + regions + (ops.some((op) => op.kind === 'stencil') ? PASS_UNITS : 0);
}

/** Throws an Error for more ops than can be drawn in one pass. */
export function checkOps(ops: readonly BakedOp[]): void {
  if (unitsOf(ops) > UNITS - FIRST_UNIT)
    throw new Error('These are too many steps that depend on place. Switch one off.');
}

/** Whether an op's table is already in its texture. */
const sameTable = (a: BakedOp, b: BakedOp | undefined): boolean =>
  a === b || (a.kind === 'table' && b?.kind === 'table' && a.table === b.table);

/** The textures of a grade: tables, numbers of spatial steps, and planes. */
export class GradeTextures {
  ops: readonly BakedOp[] = [];
  structure: Structure = [];
  private readonly textures = new Map<string, WebGLTexture>();
  /** The last uploaded coefficients of each plane that is a map. */
  private coefficients: (Float32Array | undefined)[] = [];
  /** The shapes of the other planes: their rows in the texture of all outlines. */
  private masks: (readonly [first: number, count: number])[] = [];
  private aspect = 1;
  private shown: Planes = [];

  constructor(private readonly gl: WebGL2RenderingContext) {}

  setOps(ops: readonly BakedOp[]): void {
    const before = this.ops;
    this.ops = ops;
    this.structure = structureOf(ops);
    ops.forEach((op, k) => {
      if (!sameTable(op, before[k])) this.load(op, k);
    });
  }

  /** Sets the planes of the drawn frame. */
  setPlanes(planes: Planes): void {
    this.shown = planes;
    this.loadMasks(planes);
  }

  private loadMap({ width, height, coefficients }: FieldMap, k: number): void {
    const { gl } = this;
    if (this.coefficients[k] === coefficients) return;
    this.coefficients[k] = coefficients;
    this.upload(`map ${k}`, gl.RG32F, gl.RG, width, height, coefficients);
  }

  private loadMasks(planes: Planes): void {
    const { gl } = this;
    const masks = planes.map((p) => (p && isMask(p) ? p : null));
    const shapes = masks.flatMap((m: MaskPlane | null) => m?.shapes ?? []);
    let first = 0;
    this.masks = masks.map((m) => {
      const place = [first, m?.shapes.length ?? 0] as const;
      first += place[1];
      return place;
    });
    if (shapes.length === 0) return;
    this.aspect = masks.find(Boolean)!.aspect;
    const rows = shapes.reduce((n, s) => n + s.height, 0);
    const all = new Float32Array(rows * MASK_EDGE);
    const outlines = new Float32Array(shapes.length * 8);
    let row = 0;
    shapes.forEach((s, i) => {
      for (let y = 0; y < s.height; y += 1)
        all.set(s.distances.subarray(y * s.width, (y + 1) * s.width), (row + y) * MASK_EDGE);
      const form = (s.mode === 'add' ? 1 : 0) + (s.inverted !== (s.mode === 'subtract') ? 2 : 0);
      outlines.set([s.x, s.y, s.cell, s.slope, s.width, s.height, row, form], 8 * i);
      row += s.height;
    });
    this.upload('shapes', gl.R32F, gl.RED, MASK_EDGE, rows, all);
    this.upload('outlines', gl.RGBA32F, gl.RGBA, 2, shapes.length, outlines);
  }

  private load(op: BakedOp, k: number): void {
    const { gl } = this;
    if (op.kind === 'table') {
      const { size, data, shaper } = op.table;
      this.bind(`table ${k}`, FIRST_UNIT, gl.TEXTURE_3D);
      gl.texImage3D(gl.TEXTURE_3D, 0, gl.RGBA32F, size, size, size, 0, gl.RGBA, gl.FLOAT, data);
      if (shaper) this.loadShaper(shaper, k);
      return;
    }
    const data = formulaData(op.step, op.params as Record<string, unknown>);
    this.upload(`data ${k}`, gl.RGBA32F, gl.RGBA, data.length / 4, 1, data);
  }

  private loadShaper({ size, data }: Shaper, k: number): void {
    const { gl } = this;
    const rows = Math.ceil(size / SHAPER_WIDTH);
    const texels = new Float32Array(rows * SHAPER_WIDTH * 4);
    for (let i = 0; i < size; i += 1) texels.set(data.subarray(3 * i, 3 * i + 3), 4 * i);
    this.upload(`shaper ${k}`, gl.RGBA32F, gl.RGBA, SHAPER_WIDTH, rows, texels);
  }

  private upload(name: string, inner: number, form: number, width: number, height: number, data: Float32Array): void {
    const { gl } = this;
    this.bind(name, FIRST_UNIT, gl.TEXTURE_2D);
    gl.texImage2D(gl.TEXTURE_2D, 0, inner, width, height, 0, form, gl.FLOAT, data);
  }

  /** Binds a texture to a unit; one that was never uploaded is empty. */
  private bind(name: string, unit: number, target: number): number {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + unit);
    let own = this.textures.get(name);
    if (!own) {
      own = texture(gl, target, gl.NEAREST);
      this.textures.set(name, own);
      gl.bindTexture(target, own);
      if (target === gl.TEXTURE_2D) gl.texImage2D(target, 0, gl.RG32F, 1, 1, 0, gl.RG, gl.FLOAT, new Float32Array(2));
    }
    gl.bindTexture(target, own);
    return unit;
  }

  /**
   * Sets all uniforms of the shader for {@link structure}. `region`: whose selection is shown. `across`: width of the
   * whole frame as drawn, in pixels. Returns the first free texture unit.
   */
  use(program: WebGLProgram, region: string | null, across: number): number {
    const { gl } = this;
    const at = (name: string) => gl.getUniformLocation(program, name);
    let unit = FIRST_UNIT;
    // The level of a tiled texture depends on the drawn size. Uploading binds the first unit, so it comes first.
    this.shown.forEach((plane, k) => {
      if (plane && !isMask(plane)) this.loadMap(atWidth(plane, across), k);
    });
    // A missing map is zero everywhere: no distance, no neighbourhood selected.
    const setMap = (name: string, plane: number): void => {
      const shown = this.shown[plane];
      const map = shown && !isMask(shown) ? shown : null;
      gl.uniform1i(at(name), this.bind(`map ${plane}`, unit++, gl.TEXTURE_2D));
      gl.uniform4f(at(`${name}_cells`), ...(map?.cells ?? [1, 1]), ...(map?.corner ?? [0, 0]));
      gl.uniform1i(at(`${name}_repeats`), Number(map?.repeats ?? false));
    };
    this.ops.forEach((op, k) => {
      if (op.kind === 'table') {
        const { size, domain, shaper } = op.table;
        gl.uniform1i(at(`u_table${k}`), this.bind(`table ${k}`, unit++, gl.TEXTURE_3D));
        gl.uniform1i(at(`u_size${k}`), size);
        gl.uniform2f(at(`u_domain${k}`), ...domain);
        if (shaper) {
          gl.uniform1i(at(`u_shaper${k}`), this.bind(`shaper ${k}`, unit++, gl.TEXTURE_2D));
          gl.uniform1i(at(`u_entries${k}`), shaper.size);
          gl.uniform3f(at(`u_low${k}`), ...(shaper.low as [number, number, number]));
          gl.uniform3f(at(`u_high${k}`), ...(shaper.high as [number, number, number]));
        }
      } else {
        if (op.kind === 'point') setMap(`u_map${k}`, op.plane);
        gl.uniform1i(at(`u_data${k}`), this.bind(`data ${k}`, unit++, gl.TEXTURE_2D));
      }
      if (!op.mix) return;
      if (op.mix.clean !== undefined) setMap(`u_around${k}`, op.mix.clean);
      gl.uniform4f(at(`u_join${k}`), ...op.mix.join);
      gl.uniform2i(at(`u_mask${k}`), ...this.maskOf(op.mix.mask));
    });
    if (this.ops.some((op) => op.mix)) {
      gl.uniform1i(at('u_shapes'), this.bind('shapes', unit++, gl.TEXTURE_2D));
      gl.uniform1i(at('u_outlines'), this.bind('outlines', unit++, gl.TEXTURE_2D));
      gl.uniform1f(at('u_aspect'), this.aspect);
    }
    const chosen = region === null ? -1 : this.ops.findIndex((op) => op.mix?.region === region);
    gl.uniform1i(at('u_chosen'), chosen);
    gl.uniform1f(at('u_whole'), chosen < 0 ? 1 : Math.max(1e-3, this.ops[chosen].mix!.strength));
    return unit;
  }

  /**
   * Rows of a plane's shapes in the texture of all outlines; no plane: none, which means everywhere. −1: not uploaded
   * yet, which means nowhere.
   */
  private maskOf(plane: number | undefined): readonly [number, number] {
    return plane === undefined ? [0, 0] : (this.masks[plane] ?? [0, -1]);
  }
}
