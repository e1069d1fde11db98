import type { Vec3 } from '../colour/matrix';
import type { Step } from '../model/grade';
import { ownTable } from '../steps/lut/library';
import { hold, type Table } from './bake';
import type { BakedOp } from './baked';
import { compileInTwo, domainAt, opShapes, stencilOf, type OpShape } from './compile';
import { cut, paramsAt, type Cut, type Segment } from './plan';
import { stepsAt } from './standing';

/** Larger tables are baked at rest only, and would hold much memory for little. */
const LARGEST_KEPT = 33;

interface Kept {
  /** Steps before the cut, as text. */
  parts: readonly string[];
  domain: readonly [number, number];
  size: number;
  /** What the nodes come to before the cut, size³ × 3. */
  values: Float64Array;
}

/** The colour of each node of a table. */
function atNodes([lo, hi]: readonly [number, number], size: number): (i: number, rgb: Vec3) => void {
  const step = (hi - lo) / (size - 1);
  return (i, rgb) => {
    rgb[0] = lo + (i % size) * step;
    rgb[1] = lo + (Math.floor(i / size) % size) * step;
    rgb[2] = lo + Math.floor(i / (size * size)) * step;
  };
}

/** Work that is done in slices: between two of them something else may be done, or it may be left. */
type Sliced<T> = Generator<void, T>;

/** Nodes a slice: with eight steps some milliseconds, less than a picture of sixty a second lasts. */
const SLICE = 2048;

/** Does all of it at once. */
function atOnce<T>(work: Sliced<T>): T {
  let step = work.next();
  while (!step.done) step = work.next();
  return step.value;
}

/** Runs a function over the nodes of a table: `from` gives each node's colour, `to` takes what it becomes. */
function* overNodes(
  size: number,
  from: (i: number, rgb: Vec3) => void,
  f: (rgb: Vec3) => void,
  to: (i: number, rgb: Vec3) => void,
): Sliced<void> {
  const rgb: Vec3 = [0, 0, 0];
  const run = (first: number, end: number): void => {
    for (let i = first; i < end; i += 1) {
      from(i, rgb);
      f(rgb);
      to(i, rgb);
    }
  };
  for (let first = 0; first < size ** 3; first += SLICE) {
    if (first > 0) yield;
    run(first, Math.min(size ** 3, first + SLICE));
  }
}

/** Bakes the pointwise steps of one table, again and again. */
class TableBaker {
  /** Each step of the last bake, with its region and moment, as text. */
  private last: readonly string[] = [];
  private kept: Kept | undefined;
  private made: { key: string; table: Table } | undefined;

  /** A table of the steps of a segment, which stand as they are at that time: what they are says all of it. */
  *bake(
    { steps, region, carries }: Segment,
    shape: OpShape,
    regionOf: Cut['regionOf'] | undefined,
    domain: readonly [number, number],
    seconds: number,
    size: number,
  ): Sliced<Table> {
    const regions = steps.map((s) => regionOf?.(s));
    const parts = steps.map((s, i) => JSON.stringify([s, regions[i]]));
    const mattes = [region?.region.matte, carries && [carries.steps[0].matte, carries.region?.region.matte]];
    const key = JSON.stringify([size, domain, parts, mattes]);
    if (this.made?.key !== key) {
      let first = this.firstChanged(parts);
      // Neighbours in one region are mixed as one.
      while (first > 0 && regions[first] && regions[first]?.id === regions[first - 1]?.id) first -= 1;
      this.last = parts;
      const table = yield* this.compute(steps, parts, first, shape, regionOf, domain, seconds, size);
      this.made = { key, table };
    }
    return this.made!.table;
  }

  private *compute(
    steps: readonly Step[],
    parts: readonly string[],
    first: number,
    { chooses, carries }: OpShape,
    regionOf: Cut['regionOf'] | undefined,
    domain: readonly [number, number],
    seconds: number,
    size: number,
  ): Sliced<Table> {
    const { before, after } = compileInTwo(steps, first, seconds, regionOf);
    const nodes = yield* this.nodesBefore(parts.slice(0, first), domain, size, before);
    const data = new Float32Array(size ** 3 * 4);
    yield* overNodes(
      size,
      (i, rgb) => {
        for (let c = 0; c < 3; c += 1) rgb[c] = nodes[3 * i + c];
      },
      after,
      (i, rgb) => {
        for (let c = 0; c < 3; c += 1) data[4 * i + c] = hold(rgb[c]);
        data[4 * i + 3] = carries ? carries(rgb) : 1;
      },
    );
    if (chooses) {
      const choose = (i: number, rgb: Vec3): void => void (data[4 * i + 3] = chooses(rgb));
      yield* overNodes(size, atNodes(domain, size), () => undefined, choose);
    }
    return { size, domain, data };
  }

  /** The first step that is not what it was at the last bake; where none is, the cut of what is kept. */
  private firstChanged(parts: readonly string[]): number {
    if (this.last.length === 0) return 0;
    const changed = parts.findIndex((p, i) => p !== this.last[i]);
    return changed >= 0 ? changed : Math.min(this.kept?.parts.length ?? 0, parts.length);
  }

  /** What the nodes come to before the cut. */
  private *nodesBefore(
    parts: readonly string[],
    domain: readonly [number, number],
    size: number,
    before: (rgb: Vec3) => void,
  ): Sliced<Float64Array> {
    const { kept } = this;
    const fits =
      kept &&
      kept.size === size &&
      kept.domain === domain &&
      kept.parts.length === parts.length &&
      kept.parts.every((p, i) => p === parts[i]);
    if (fits) return kept.values;
    const values = new Float64Array(size ** 3 * 3);
    yield* overNodes(size, atNodes(domain, size), before, (i, rgb) => values.set(rgb, 3 * i));
    if (size <= LARGEST_KEPT) this.kept = { parts, domain, size, values };
    return values;
  }
}

/**
 * Bakes one grade after another. While the same step changes again and again, as under a finger, what comes before it
 * is computed once: a change costs that step and the later ones of its table only, and leaves other tables alone. A
 * spatial step costs nothing here: it is passed on as data.
 */
export class Baker {
  /** By the id of the first step of a table; the first table by its place, as any step may come before. */
  private bakers = new Map<string, TableBaker>();

  /**
   * The ops of a grade at a time of the clip; none when its steps do nothing. `show`: a region that has an op in any case.
   * Errors as of `compile`.
   */
  bake(steps: readonly Step[], seconds: number, size: number, show?: string): BakedOp[] {
    return atOnce(this.baking(steps, seconds, size, show));
  }

  /**
   * The same in slices of some milliseconds; between two of them `pause` says whether to go on. Undefined: it did not. Meanwhile this
   * baker must not be used for anything else.
   */
  async bakeInSlices(
    steps: readonly Step[],
    seconds: number,
    size: number,
    show: string | undefined,
    pause: () => Promise<boolean>,
  ): Promise<BakedOp[] | undefined> {
    const work = this.baking(steps, seconds, size, show);
    let step = work.next();
    while (!step.done) {
      if (!(await pause())) return undefined;
      step = work.next();
    }
    return step.value;
  }

  private *baking(steps: readonly Step[], seconds: number, size: number, show?: string): Sliced<BakedOp[]> {
    // A moment at which nothing differs from the last one costs nothing, and what has many keys is not compared key by key.
    const plan = cut(stepsAt(steps, seconds), seconds, show);
    const shapes = opShapes(plan, seconds);
    const used = new Map<string, TableBaker>();
    const ops: BakedOp[] = [];
    for (const [i, segment] of plan.segments.entries())
      ops.push(yield* this.opOf(segment, shapes[i], i, plan, seconds, size, used));
    this.bakers = used;
    return ops;
  }

  private *opOf(
    segment: Segment,
    shape: OpShape,
    i: number,
    { regionOf }: Cut,
    seconds: number,
    size: number,
    used: Map<string, TableBaker>,
  ): Sliced<BakedOp> {
    const { mix } = shape;
    const [step] = segment.steps;
    if (segment.kind === 'point')
      return {
        kind: 'point',
        step: step.kind,
        params: paramsAt(step, seconds)!,
        plane: shape.plane!,
        ...(mix ? { mix } : {}),
      };
    if (segment.kind === 'stencil') return stencilOf(step, paramsAt(step, seconds)!, mix);
    if (segment.kind === 'file')
      return { kind: 'table', table: ownTable(step)!.table, own: true, ...(mix ? { mix } : {}) };
    const key = i === 0 ? 'first' : (step?.id ?? `before ${segment.carries?.steps[0].id ?? segment.region?.id}`);
    const baker = this.bakers.get(key) ?? new TableBaker();
    used.set(key, baker);
    const among = segment.region ? undefined : regionOf;
    const table = yield* baker.bake(segment, shape, among, domainAt(i), seconds, size);
    return { kind: 'table', table, ...(mix ? { mix } : {}) };
  }
}
