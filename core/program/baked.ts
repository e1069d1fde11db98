import { decode709, encode709 } from '../colour/transferTables';
import type { Vec3 } from '../colour/matrix';
import { mapRow } from '../fields/map';
import { stepKind, type PointFn } from '../steps';
import { bake, lookUp, type Table } from './bake';
import type { Program } from './compile';
import type { Maps } from './maps';

/** A pass made ready for a backend, plain data: a table, or a spatial step with its resolved parameters. */
export type BakedPass = { kind: 'lut'; table: Table } | { kind: 'field'; step: string; params: object };

/** Passes made ready, and the maps of the frame that they are used on, pass by pass. */
export interface Baked {
  passes: readonly BakedPass[];
  maps: Maps;
}

/** Makes the passes of a program ready, with tables of `size` nodes an edge. */
export const bakePasses = (program: Program, size: number): BakedPass[] =>
  program.passes.map((pass) =>
    pass.kind === 'lut'
      ? { kind: 'lut', table: bake(pass, size) }
      : { kind: 'field', step: pass.step, params: pass.params },
  );

/** One table as all there is. */
export const single = (table: Table): Baked => ({ passes: [{ kind: 'lut', table }], maps: [null] });

/** Takes rows of a picture through passes. One of these for one frame. */
export class RowGrader {
  private readonly luma: Float32Array;
  private readonly values: Float32Array;
  private readonly share: Float32Array;

  /** `weights`: luma weights of the file. `height`: rows of the picture. */
  constructor(
    private readonly baked: Baked,
    private readonly width: number,
    private readonly height: number,
    private readonly weights: Readonly<Vec3>,
  ) {
    this.luma = new Float32Array(width);
    this.values = new Float32Array(width);
    this.share = new Float32Array(width);
  }

  /** `line`: the file's R'G'B', width × 3, becomes encoded output. */
  grade(y: number, line: Float32Array): void {
    const { passes, maps } = this.baked;
    const { luma, weights, width } = this;
    if (maps.some(Boolean))
      for (let x = 0, o = 0; x < width; x += 1, o += 3)
        luma[x] = weights[0] * line[o] + weights[1] * line[o + 1] + weights[2] * line[o + 2];
    passes.forEach((pass, k) => {
      if (pass.kind === 'field') this.field(pass, k, y, line);
      else if (passes[k + 1]?.kind === 'field')
        for (let x = 0, o = 0; x < width; x += 1, o += 3)
          lookUp(pass.table, line[o], line[o + 1], line[o + 2], line, o, this.share, x);
      else for (let o = 0; o < line.length; o += 3) lookUp(pass.table, line[o], line[o + 1], line[o + 2], line, o);
    });
  }

  private field(pass: BakedPass & { kind: 'field' }, k: number, y: number, line: Float32Array): void {
    const { values, share, luma } = this;
    const map = this.baked.maps[k];
    if (map) mapRow(map, y, luma, values, this.height);
    else values.fill(0);
    if (this.baked.passes[k - 1]?.kind !== 'lut') share.fill(1);
    fieldRow(pass, line, values, share);
  }
}

/**
 * A row of encoded R'G'B' (width × 3) through a spatial step, in place. `values`: the map, `share`: how much of the step
 * each pixel gets.
 */
export function fieldRow(
  pass: BakedPass & { kind: 'field' },
  line: Float32Array,
  values: Float32Array,
  share: Float32Array,
): void {
  const apply = prepared(pass);
  const rgb: Vec3 = [0, 0, 0];
  for (let x = 0, o = 0; o < line.length; x += 1, o += 3) {
    if (share[x] === 0) continue;
    for (let c = 0; c < 3; c += 1) rgb[c] = decode709(line[o + c]);
    apply(rgb, values[x]);
    for (let c = 0; c < 3; c += 1) line[o + c] += share[x] * (encode709(rgb[c]) - line[o + c]);
  }
}

const applies = new WeakMap<object, PointFn>();
/** The mathematics of a spatial step, made once for one set of parameters. */
function prepared({ step, params }: { step: string; params: object }): PointFn {
  const known = applies.get(params);
  if (known) return known;
  const made = stepKind(step).prepare(params as Record<string, unknown>);
  applies.set(params, made);
  return made;
}
