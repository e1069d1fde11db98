import type { Vec3 } from '../colour/matrix';
import type { Step } from '../model/grade';
import { ownTable } from '../steps/lut/library';
import { hold, type Table } from './bake';
import type { BakedOp } from './baked';
import { compileInTwo, domainAt, opShapes, stencilOf, type OpShape } from './compile';
import { cut, paramsAt, type Cut, type Segment } from './plan';
import { stepsAt } from './stepsAt';

/** Larger tables are baked only at rest; caching them would use much memory for little gain. */
const LARGEST_KEPT = 33;

interface Kept {
  /** Serialised steps before the cut. */
  parts: readonly string[];
  domain: readonly [number, number];
  size: number;
  /** Values of the nodes before the cut, size³ × 3. */
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

/** Work done in slices, between which other work may run or the task may be cancelled. */
type Sliced<T> = Generator<void, T>;

/** Nodes per slice: some milliseconds with eight steps, less than a frame at 60 Hz. */
const SLICE = 2048;

/** Runs all slices at once. */
function atOnce<T>(work: Sliced<T>): T {
  let step = work.next();
  while (!step.done) step = work.next();
  return step.value;
}

/** Applies a function to the nodes of a table: `from` returns each node's colour, `to` receives the result. */
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

/** Bakes the pointwise steps of one table repeatedly. */
class TableBaker {
  /** Cache keys of the last bake's steps, with region and time. */
  private last: readonly string[] = [];
  private kept: Kept | undefined;
  private made: { key: string; table: Table } | undefined;

  /** A table of the steps of a segment with their resolved values, which fully determine it. */
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
      // Consecutive steps in one region share a mix.
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

  /** The first step that changed since the last bake; if none did, the cached cut. */
  private firstChanged(parts: readonly string[]): number {
    if (this.last.length === 0) return 0;
    const changed = parts.findIndex((p, i) => p !== this.last[i]);
    return changed >= 0 ? changed : Math.min(this.kept?.parts.length ?? 0, parts.length);
  }

  /** Values of the nodes before the cut. */
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
 * Bakes successive versions of a grade. While the same step keeps changing, as during a drag, the steps before it are
 * cached: a change costs only that step and those after it in its table, and other tables are reused. Spatial steps are
 * passed on as data at no cost.
 */
export class Baker {
  /** Keyed by the id of a table's first step; the first table by its index, since any step may be first. */
  private bakers = new Map<string, TableBaker>();

  /**
   * The ops of a grade at a time of the clip; none when its steps have no effect. `show`: a region that gets an op in
   * any case. Throws like `compile`.
   */
  bake(steps: readonly Step[], seconds: number, size: number, show?: string): BakedOp[] {
    return atOnce(this.baking(steps, seconds, size, show));
  }

  /**
   * The same in slices of some milliseconds, between which `pause` decides whether to continue. Undefined if it did
   * not. Until then this baker must not be used for anything else.
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
    // Fast path: resolved values equal to the last ones cost nothing, and long key lists are not compared key by key.
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
