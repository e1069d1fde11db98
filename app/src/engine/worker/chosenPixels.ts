import { lookUp } from '@inkavo/core/program/table';
import { cleaned } from '@inkavo/core/regions/clean';
import { amountOf } from '@inkavo/core/regions/region';
import type { PixelPlanes } from '@inkavo/core/scopes/solver';
import { gradedPixels, pixelPlanes, type Frame, type Pixels, type Stamped } from './frame';
import { gradeCode } from './grading';

/** Pixels that readings are based on: the whole frame, or those that a region selects. */
export interface ReadPixels extends Pixels {
  /** `graded`, with unselected pixels as NaN: traces keep their columns. */
  placed: Float32Array;
  /** They are limited to the requested region. */
  within: boolean;
  /** The planes at each of them; computed only when something is grabbed. */
  planes(): PixelPlanes;
}

/** Minimum selection for a pixel to count. */
const CHOSEN = 0.5;

/** The graded pixels of a frame, limited to `from.within` if it names a region that has an op. */
export function readPixels(frame: Frame, from: Stamped, rough: boolean): ReadPixels {
  const all = gradedPixels(frame, from, rough);
  const planes = (): PixelPlanes => pixelPlanes(frame, from.planes);
  const whole = { ...all, placed: all.graded, within: false, planes };
  const k = from.within === undefined ? -1 : from.ops.findIndex((op) => op.mix?.region === from.within);
  if (k < 0) return whole;
  const chosen = chosenAt(frame, from, k, rough ? frame.rough! : frame);
  // A region that selects nothing in this frame has no readings.
  const count = chosen.reduce((n, amount) => n + (amount >= CHOSEN ? 1 : 0), 0);
  if (count === 0) return whole;
  const picked = new Uint32Array(count);
  for (let i = 0, n = 0; i < chosen.length; i += 1) if (chosen[i] >= CHOSEN) picked[n++] = i;
  const [graded, code] = [all.graded, all.code].map((values) => {
    const out = new Float32Array(3 * count);
    picked.forEach((i, n) => out.set(values.subarray(3 * i, 3 * i + 3), 3 * n));
    return out;
  });
  const placed = new Float32Array(all.graded.length).fill(NaN);
  for (const i of picked) placed.set(all.graded.subarray(3 * i, 3 * i + 3), 3 * i);
  return {
    ...all,
    graded,
    code,
    placed,
    within: true,
    planes: () => planes().map((p) => p && Float32Array.from(picked, (i) => p[i])),
  };
}

/** Selection of an op's region for each pixel, 0–1, regardless of its strength. */
function chosenAt(
  frame: Frame,
  { ops, planes }: Stamped,
  k: number,
  of: Pick<Pixels, 'code' | 'width' | 'height'>,
): Float32Array {
  const { code, width, height } = of;
  const op = ops[k];
  const { join, mask, clean, strength } = op.mix!;
  const count = width * height;
  const valuesOf = (plane: number | undefined): ArrayLike<number> | null | undefined =>
    plane === undefined ? undefined : pixelPlanes(of === frame ? frame : { ...frame, ...of }, planes)[plane];
  const [values, around] = [valuesOf(mask), valuesOf(clean)];
  const byColour = join[2] !== 0 || join[3] !== 0;
  const share = new Float32Array(count);
  // The alpha of its own table, or of the previous one that carries it.
  const at = op.kind === 'table' && !op.own ? k : k - 1;
  const source = ops[at];
  if (byColour && source?.kind === 'table') {
    const entering = at === 0 ? code : gradeCode({ ops: ops.slice(0, at), planes }, code, width, height, frame.weights);
    const out: [number, number, number] = [0, 0, 0];
    for (let i = 0; i < count; i += 1)
      lookUp(source.table, entering[3 * i], entering[3 * i + 1], entering[3 * i + 2], out, 0, share, i);
  }
  const chosen = (i: number): number => (around ? cleaned(share[i], around[i]) : share[i]);
  return share.map((_, i) => amountOf(join, values ? values[i] : 1, chosen(i)) / Math.max(1e-6, strength));
}
