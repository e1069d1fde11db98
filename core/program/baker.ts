import type { Vec3 } from '../colour/matrix';
import type { Step } from '../model/grade';
import { fieldTableSize, hold, type Table } from './bake';
import { changesOverTime, compileInTwo, stepsOfPasses, TABLE_DOMAIN } from './compile';

/** Larger tables are baked at rest only, and would hold much memory for little. */
const LARGEST_KEPT = 33 ** 3 * 9;

interface Kept {
  steps: readonly Step[];
  seconds: number;
  size: number;
  levels: number;
  /** Steps before this one are in `values`. */
  cut: number;
  /** What the nodes come to before the cut: size³ × 3, for each level where a map counts there. */
  values: Float64Array;
}

/** Runs a function over the nodes of a table: `from` gives each node's colour, `to` takes what it becomes. */
function overNodes(
  size: number,
  levels: number,
  from: (i: number, rgb: Vec3) => void,
  f: (rgb: Vec3, map: number) => void,
  to: (i: number, rgb: Vec3) => void,
): void {
  const rgb: Vec3 = [0, 0, 0];
  for (let i = 0; i < size ** 3 * levels; i += 1) {
    from(i, rgb);
    f(rgb, levels > 1 ? Math.floor(i / size ** 3) / (levels - 1) : 0);
    to(i, rgb);
  }
}

/** Bakes the steps of one pass, again and again. */
class PassBaker {
  private last: { steps: readonly Step[]; seconds: number } | undefined;
  private kept: Kept | undefined;
  private made: { key: string; table: Table | null } | undefined;

  bake(steps: readonly Step[], seconds: number, size: number): Table | null {
    // Where no number changes over the clip, all its moments are one.
    const at = changesOverTime(steps) ? seconds : 0;
    const key = `${size} ${at} ${JSON.stringify(steps)}`;
    if (this.made?.key !== key) this.made = { key, table: this.compute(steps, at, size) };
    return this.made.table;
  }

  private compute(steps: readonly Step[], seconds: number, wanted: number): Table | null {
    const cut = this.firstChanged(steps, seconds);
    this.last = { steps, seconds };
    const { before, after, empty, mapBefore, mapAfter } = compileInTwo(steps, cut, seconds);
    if (empty) return null;
    const { size, levels } = mapBefore || mapAfter ? fieldTableSize(wanted) : { size: wanted, levels: 1 };
    const nodes = this.nodesBefore(steps, seconds, size, mapBefore ? levels : 1, cut, before);
    const data = new Float32Array(size ** 3 * levels * 4);
    overNodes(
      size,
      levels,
      (i, rgb) => {
        const at = (3 * i) % nodes.length;
        for (let c = 0; c < 3; c += 1) rgb[c] = nodes[at + c];
      },
      after,
      (i, rgb) => {
        for (let c = 0; c < 3; c += 1) data[4 * i + c] = hold(rgb[c]);
        data[4 * i + 3] = 1;
      },
    );
    return { size, levels, domain: TABLE_DOMAIN, data };
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
    levels: number,
    cut: number,
    before: (rgb: Vec3, map: number) => void,
  ): Float64Array {
    const { kept } = this;
    const fits =
      kept &&
      kept.size === size &&
      kept.levels === levels &&
      kept.seconds === seconds &&
      kept.cut === cut &&
      kept.steps.every((s, i) => same(s, steps[i]));
    if (fits) return kept.values;
    const values = new Float64Array(size ** 3 * levels * 3);
    const [lo, hi] = TABLE_DOMAIN;
    const step = (hi - lo) / (size - 1);
    overNodes(
      size,
      levels,
      (i, rgb) => {
        rgb[0] = lo + (i % size) * step;
        rgb[1] = lo + (Math.floor(i / size) % size) * step;
        rgb[2] = lo + (Math.floor(i / (size * size)) % size) * step;
      },
      before,
      (i, rgb) => values.set(rgb, 3 * i),
    );
    if (size ** 3 * levels <= LARGEST_KEPT)
      this.kept = { steps: steps.slice(0, cut), seconds, size, levels, cut, values };
    return values;
  }
}

/**
 * Bakes one grade after another. While the same step changes again and again, as under a finger, what comes before it
 * is computed once: a change costs that step and the later ones only, and leaves the tables of other passes alone.
 */
export class Baker {
  private bakers: PassBaker[] = [];

  /** A table for each pass of the grade at a time of the clip; none when its steps do nothing. Errors as of `compile`. */
  bake(steps: readonly Step[], seconds: number, size: number): Table[] {
    return stepsOfPasses(steps, seconds).flatMap((part, i) => {
      this.bakers[i] ??= new PassBaker();
      return this.bakers[i].bake(part, seconds, size) ?? [];
    });
  }
}

/** Steps are replaced, not changed; a copy from another thread is compared by its contents. */
const same = (a: Step | undefined, b: Step | undefined): boolean =>
  a === b || (a !== undefined && b !== undefined && JSON.stringify(a) === JSON.stringify(b));
