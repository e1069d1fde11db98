import type { Vec3 } from '../colour/matrix';
import type { Step } from '../model/grade';
import { hold, type Table } from './bake';
import type { BakedPass } from './baked';
import { changesOverTime, compile, compileInTwo, FIELD_DOMAIN, shareOfStep, stepRuns, TABLE_DOMAIN } from './compile';

/** Larger tables are baked at rest only, and would hold much memory for little. */
const LARGEST_KEPT = 33;

interface Kept {
  steps: readonly Step[];
  seconds: number;
  size: number;
  /** Steps before this one are in `values`. */
  cut: number;
  /** What the nodes come to before the cut, size³ × 3. */
  values: Float64Array;
}

/** Runs a function over the nodes of a table: `from` gives each node's colour, `to` takes what it becomes. */
function overNodes(
  size: number,
  from: (i: number, rgb: Vec3) => void,
  f: (rgb: Vec3) => void,
  to: (i: number, rgb: Vec3) => void,
): void {
  const rgb: Vec3 = [0, 0, 0];
  for (let i = 0; i < size ** 3; i += 1) {
    from(i, rgb);
    f(rgb);
    to(i, rgb);
  }
}

/** Bakes the pointwise steps of one table, again and again. */
class TableBaker {
  private last: { steps: readonly Step[]; seconds: number } | undefined;
  private kept: Kept | undefined;
  private made: { key: string; table: Table | null } | undefined;

  constructor(private readonly domain: readonly [number, number]) {}

  /** A table of steps; null when they do nothing and the spatial step that follows is for all colours. */
  bake(steps: readonly Step[], field: Step | undefined, seconds: number, size: number): Table | null {
    // Where no number changes over the clip, all its moments are one.
    const at = changesOverTime(steps) ? seconds : 0;
    const share = field && shareOfStep(field);
    const key = JSON.stringify([size, at, steps, share ? [field.strength, field.matte] : null]);
    if (this.made?.key !== key) this.made = { key, table: this.compute(steps, share, at, size) };
    return this.made.table;
  }

  private compute(
    steps: readonly Step[],
    share: ReturnType<typeof shareOfStep>,
    seconds: number,
    size: number,
  ): Table | null {
    const cut = this.firstChanged(steps, seconds);
    this.last = { steps, seconds };
    const { before, after, empty } = compileInTwo(steps, cut, seconds);
    if (empty && !share) return null;
    const nodes = this.nodesBefore(steps, seconds, size, cut, before);
    const data = new Float32Array(size ** 3 * 4);
    overNodes(
      size,
      (i, rgb) => {
        for (let c = 0; c < 3; c += 1) rgb[c] = nodes[3 * i + c];
      },
      after,
      (i, rgb) => {
        for (let c = 0; c < 3; c += 1) data[4 * i + c] = hold(rgb[c]);
        data[4 * i + 3] = share ? share(rgb) : 1;
      },
    );
    return { size, domain: this.domain, data };
  }

  /** The first step that is not what it was at the last bake; where none is, the cut of what is kept. */
  private firstChanged(steps: readonly Step[], seconds: number): number {
    const { last, kept } = this;
    if (!last || last.seconds !== seconds) return 0;
    const changed = steps.findIndex((s, i) => !same(s, last.steps[i]));
    if (changed >= 0) return changed;
    return Math.min(kept?.cut ?? 0, steps.length);
  }

  private nodesBefore(
    steps: readonly Step[],
    seconds: number,
    size: number,
    cut: number,
    before: (rgb: Vec3) => void,
  ): Float64Array {
    const { kept } = this;
    const fits =
      kept &&
      kept.size === size &&
      kept.seconds === seconds &&
      kept.cut === cut &&
      kept.steps.every((s, i) => same(s, steps[i]));
    if (fits) return kept.values;
    const values = new Float64Array(size ** 3 * 3);
    const [lo, hi] = this.domain;
    const step = (hi - lo) / (size - 1);
    overNodes(
      size,
      (i, rgb) => {
        rgb[0] = lo + (i % size) * step;
        rgb[1] = lo + (Math.floor(i / size) % size) * step;
        rgb[2] = lo + Math.floor(i / (size * size)) * step;
      },
      before,
      (i, rgb) => values.set(rgb, 3 * i),
    );
    if (size <= LARGEST_KEPT) this.kept = { steps: steps.slice(0, cut), seconds, size, cut, values };
    return values;
  }
}

/**
 * Bakes one grade after another. While the same step changes again and again, as under a finger, what comes before it
 * is computed once: a change costs that step and the later ones only, and leaves other tables alone. A spatial step
 * costs nothing here: it is passed on as data.
 */
export class Baker {
  private bakers: TableBaker[] = [];

  /** The passes of a grade at a time of the clip; none when its steps do nothing. Errors as of `compile`. */
  bake(steps: readonly Step[], seconds: number, size: number): BakedPass[] {
    return stepRuns(steps, seconds).flatMap(({ points, field }, i) => {
      this.bakers[i] ??= new TableBaker(i === 0 ? TABLE_DOMAIN : FIELD_DOMAIN);
      const table = this.bakers[i].bake(points, field, seconds, size);
      const passes: BakedPass[] = table ? [{ kind: 'lut', table }] : [];
      for (const pass of field ? compile([field], seconds).passes : [])
        if (pass.kind === 'field') passes.push({ kind: 'field', step: pass.step, params: pass.params });
      return passes;
    });
  }
}

/** Steps are replaced, not changed; a copy from another thread is compared by its contents. */
const same = (a: Step | undefined, b: Step | undefined): boolean =>
  a === b || (a !== undefined && b !== undefined && JSON.stringify(a) === JSON.stringify(b));
