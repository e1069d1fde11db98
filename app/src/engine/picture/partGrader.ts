import type { Vec3 } from '@inkavo/core/colour/matrix';
import type { Baked, BakedOp } from '@inkavo/core/program/baked';
import type { Chosen } from '@inkavo/core/program/cpu/rowKernel';
import { partOf, type Part } from '@inkavo/core/program/part';
import { samePlane, type Planes } from '@inkavo/core/program/planes';
import { gradeInto, gradingBackend } from '../worker/grading';

/** Pixels of a part of a frame at one size. */
interface Sampled {
  /** Their source; another source means other pixels. */
  source: object;
  part: Part;
  width: number;
  height: number;
  code: Float32Array;
}

/** Cached result of the first ops. */
interface Entering {
  count: number;
  planes: Planes;
  pixels: Float32Array;
}

const samePart = (a: Part, b: Part): boolean =>
  a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height;

/** Whether two ops are equivalent; one received from another thread is a copy. */
function sameOp(a: BakedOp, b: BakedOp): boolean {
  if (a === b) return true;
  if (a.kind !== 'table' || b.kind !== 'table') return JSON.stringify(a) === JSON.stringify(b);
  if (a.table === b.table) return JSON.stringify([a.own, a.mix]) === JSON.stringify([b.own, b.mix]);
  const [{ data, ...table }, { data: other, ...otherTable }] = [a.table, b.table];
  // A rebaked table with equal content has another number.
  const rest = (op: BakedOp, of: object): string => JSON.stringify({ ...op, table: { ...of, number: undefined } });
  return (
    data.length === other.length &&
    rest(a, { ...table, shaper: table.shaper?.size }) === rest(b, { ...otherTable, shaper: otherTable.shaper?.size }) &&
    (table.shaper?.data ?? []).every((v, i) => v === otherTable.shaper!.data[i]) &&
    data.every((v, i) => v === other[i])
  );
}

/** Number of leading ops that are equal. */
function sameOps(a: readonly BakedOp[], b: readonly BakedOp[]): number {
  let n = 0;
  while (n < Math.min(a.length, b.length) && sameOp(a[n], b[n])) n += 1;
  return n;
}

/** Whether an op's input is just a colour: otherwise it includes a selection by the previous op. */
const beginsWith = (op: BakedOp): boolean => !op.mix || (op.kind === 'table' && !op.own);

/**
 * Grades parts of still frames. While one step keeps changing, the results of earlier steps and the pixels are cached.
 */
export class PartGrader {
  private sampled: Sampled | undefined;
  private entering: Entering | undefined;
  private last: readonly BakedOp[] = [];
  /** The pixels are unchanged, unlike those of moving frames. */
  private again = false;

  /** Pixels of a part of a frame: R'G'B' code values (width × height × 3), from `read` if they are not cached. */
  pixels(source: object, part: Part, width: number, height: number, read: () => Float32Array): Float32Array {
    const { sampled } = this;
    this.again =
      sampled?.source === source &&
      sampled.width === width &&
      sampled.height === height &&
      samePart(sampled.part, part);
    if (this.again) return sampled!.code;
    this.entering = undefined;
    const code = read();
    this.sampled = { source, part, width, height, code };
    return code;
  }

  /** Grades the last requested pixels, see `gradeInto`. */
  grade({ ops, planes }: Baked, out: Float32Array | Uint8ClampedArray, weights: Readonly<Vec3>, chosen?: Chosen): void {
    const { part, width, height, code } = this.sampled!;
    const same = sameOps(this.last, ops);
    this.last = ops;
    const run = (from: number, to: number, input: Float32Array, into: typeof out, choice?: Chosen): void => {
      const baked = partOf({ ops: ops.slice(from, to), planes }, part);
      gradeInto(baked, input, into, width, height, weights, choice, from ? code : undefined);
    };
    const { entering } = this;
    if (entering && (entering.count > same || !sameReads(ops.slice(0, entering.count), entering.planes, planes)))
      this.entering = undefined;
    if (chosen || gradingBackend() !== 'kernel') return run(0, ops.length, code, out, chosen);
    // The first op that changed: it may change again.
    let count = this.again && same < ops.length ? same : 0;
    while (count > 0 && !beginsWith(ops[count])) count -= 1;
    const { count: done, pixels } = this.entering ?? { count: 0, pixels: code };
    if (count > done) {
      const next = new Float32Array(code.length);
      run(done, count, pixels, next);
      this.entering = { count, planes, pixels: next };
    }
    const from = this.entering ?? { count: 0, pixels: code };
    run(from.count, ops.length, from.pixels, out);
  }
}

/** Whether ops read equal data from two frames' planes. */
const sameReads = (ops: readonly BakedOp[], a: Planes, b: Planes): boolean =>
  ops.every((op) =>
    [op.kind === 'point' ? op.plane : undefined, op.mix?.mask, op.mix?.clean].every(
      (k) => k === undefined || samePlane(a[k] ?? null, b[k] ?? null),
    ),
  );
