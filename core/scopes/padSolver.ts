import type { Vec3 } from '../colour/matrix';
import type { Step } from '../model/grade';
import { compile } from '../program/compile';
import { evaluate } from '../program/evaluate';
import { stepKind } from '../steps';
import type { BandEdges } from '../steps/bands/weights';
import type { Mark } from './readings';
import { planesAt, valuesAt, type PixelPlanes } from './solver';
import { measureMarks, type Chroma } from './vectorscope';

/** Sample of pixels that represents the frame while a mark is dragged. */
export interface PadSample {
  /** The file's R'G'B', count × 3. */
  codes: Float64Array;
  edges: BandEdges;
  mark: Mark;
  /** Values of each pass's map there. */
  planes: PixelPlanes;
  /** Offset of the mark's position for the whole frame from that for the sample. */
  offset: Chroma;
}

const COUNT = 360;

/** Pixels spread evenly over a frame. `codes` and `graded` hold the same pixels, count × 3. */
export function padSample(
  codes: Float32Array,
  graded: Float32Array,
  mark: Mark,
  edges: BandEdges,
  planes: PixelPlanes = [],
): PadSample {
  const count = codes.length / 3;
  const n = Math.min(COUNT, count);
  const [sample, after] = [new Float64Array(n * 3), new Float64Array(n * 3)];
  const pixels: number[] = [];
  // A stride coprime to the width does not align in columns.
  for (let i = 0; i < n; i += 1) {
    const pixel = Math.floor(((i * 0.6180339887498949) % 1) * count);
    const at = 3 * pixel;
    pixels.push(pixel);
    for (let c = 0; c < 3; c += 1) {
      sample[3 * i + c] = codes[at + c];
      after[3 * i + c] = graded[at + c];
    }
  }
  const [whole, part] = [measureMarks(graded, edges)[mark], measureMarks(after, edges)[mark]];
  return {
    codes: sample,
    edges,
    mark,
    planes: planesAt(planes, pixels),
    offset: { cb: whole.cb - part.cb, cr: whole.cr - part.cr },
  };
}

function standsAt({ codes, edges, mark, planes, offset }: PadSample, steps: readonly Step[], seconds: number): Chroma {
  const program = compile(steps, seconds);
  const out = new Float64Array(codes.length);
  for (let o = 0; o < codes.length; o += 3)
    out.set(evaluate(program, [codes[o], codes[o + 1], codes[o + 2]] as Vec3, false, valuesAt(planes, o / 3)), o);
  const { cb, cr } = measureMarks(out, edges)[mark];
  return { cb: cb + offset.cb, cr: cr + offset.cr };
}

export interface PadSolution {
  /** Parameters of the bands step. */
  params: Record<string, number>;
  landed: Chroma;
  /** False if a limit of the parameters kept the mark from its target. */
  reached: boolean;
}

const DELTA = 0.004;
const NEAR = 0.0004;

/**
 * Solves for the colour of a band (`${mark}Cb`, `${mark}Cr` of bands step `stepId`) that puts the mark at `target`
 * after all later steps: Newton's method with a numerical Jacobian, on the exact evaluator.
 */
export function solvePad(
  sample: PadSample,
  steps: readonly Step[],
  stepId: string,
  target: Chroma,
  seconds: number,
): PadSolution {
  const step = steps.find((s) => s.id === stepId && s.kind === 'bands');
  if (!step) throw new RangeError(`There is no bands step "${stepId}".`);
  const keys = [`${sample.mark}Cb`, `${sample.mark}Cr`] as const;
  const { min, max } = stepKind('bands').numbers.find((n) => n.key === keys[0])!;
  const hold = (v: number): number => Math.min(max, Math.max(min, v));
  const at = (u: number, v: number): Chroma =>
    standsAt(
      sample,
      steps.map((s) => (s === step ? { ...s, params: { ...s.params, [keys[0]]: u, [keys[1]]: v } } : s)),
      seconds,
    );
  const start = keys.map((k) => (typeof step.params[k] === 'number' ? (step.params[k] as number) : 0));
  let [u, v] = start;
  let now = at(u, v);
  const off = (c: Chroma): number => Math.hypot(target.cb - c.cb, target.cr - c.cr);
  for (let i = 0; i < 4 && off(now) > NEAR; i += 1) {
    const [du, dv] = [u, v].map((p) => (p + DELTA > max ? -DELTA : DELTA));
    const [byU, byV] = [at(u + du, v), at(u, v + dv)];
    const [a, b] = [(byU.cb - now.cb) / du, (byV.cb - now.cb) / dv];
    const [c, d] = [(byU.cr - now.cr) / du, (byV.cr - now.cr) / dv];
    const det = a * d - b * c;
    if (Math.abs(det) < 1e-6) break;
    const [dx, dy] = [target.cb - now.cb, target.cr - now.cr];
    const next: [number, number] = [hold(u + (d * dx - b * dy) / det), hold(v + (a * dy - c * dx) / det)];
    const there = at(...next);
    // A step that increases the error is halved once.
    if (off(there) > off(now)) {
      const half: [number, number] = [(u + next[0]) / 2, (v + next[1]) / 2];
      const nearer = at(...half);
      if (off(nearer) >= off(now)) break;
      [[u, v], now] = [half, nearer];
    } else [[u, v], now] = [next, there];
  }
  return { params: { [keys[0]]: u, [keys[1]]: v }, landed: now, reached: off(now) < 0.002 };
}
