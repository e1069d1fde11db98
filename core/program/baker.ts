import type { Vec3 } from '../colour/matrix';
import type { Step } from '../model/grade';
import { hold, type Table } from './bake';
import { compileInTwo, TABLE_DOMAIN } from './compile';

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

/**
 * Bakes one grade after another. While the same step changes again and again, as under a finger, what comes before it
 * is computed once: a change costs that step and the later ones only.
 */
export class Baker {
  private last: { steps: readonly Step[]; seconds: number } | undefined;
  private kept: Kept | undefined;

  /** A table of the grade at a time of the clip; null when its steps do nothing. Errors as of `compile`. */
  bake(steps: readonly Step[], seconds: number, size: number): Table | null {
    const cut = this.firstChanged(steps, seconds);
    this.last = { steps, seconds };
    const { before, after, empty } = compileInTwo(steps, cut, seconds);
    if (empty) return null;
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
        data[4 * i + 3] = 1;
      },
    );
    return { size, domain: TABLE_DOMAIN, data };
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
    const [lo, hi] = TABLE_DOMAIN;
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

/** Steps are replaced, not changed; a copy from another thread is compared by its contents. */
const same = (a: Step | undefined, b: Step | undefined): boolean =>
  a === b || (a !== undefined && b !== undefined && JSON.stringify(a) === JSON.stringify(b));
