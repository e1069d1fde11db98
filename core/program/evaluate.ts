import type { Vec3 } from '../colour/matrix';
import type { Step } from '../model/grade';
import { cleaned } from '../regions/clean';
import { amountOf, REGION } from '../regions/region';
import { stepKind } from '../steps';
import { compile, convertDomain, type Op, type Program } from './compile';

/**
 * Applies ops to a colour, with the values of the program's planes at a pixel; without them, as if inside all shapes.
 */
export type MappedFn = (rgb: Vec3, planes?: ArrayLike<number>) => void;

/**
 * All ops as one function, from code values (or encoded ones) to encoded ones. A single colour has no neighbours:
 * stencils are skipped.
 */
export function through(ops: readonly Op[]): MappedFn {
  const lights = ops.map((op) => (op.kind === 'point' ? stepKind(op.step).formula!.light : 'encoded'));
  return (rgb, planes) => {
    let chosen = 1;
    for (let k = 0; k < ops.length; k += 1) {
      const op = ops[k];
      const { mix } = op;
      const [r, g, b] = rgb;
      if (op.kind === 'table') {
        if (op.chooses) chosen = op.chooses(rgb);
        op.evaluate(rgb);
      } else if (op.kind === 'point') {
        const light = lights[k];
        convertDomain(rgb, 'encoded', light);
        op.apply(rgb, planes?.[op.plane]);
        convertDomain(rgb, light, 'encoded');
      }
      if (mix) {
        const m = mix.mask === undefined || !planes ? 1 : (planes[mix.mask] ?? 0);
        const a = mix.clean === undefined || !planes ? chosen : cleaned(chosen, planes[mix.clean] ?? 0);
        const amount = amountOf(mix.join, m, a);
        if (amount !== 1) {
          rgb[0] = r + amount * (rgb[0] - r);
          rgb[1] = g + amount * (rgb[1] - g);
          rgb[2] = b + amount * (rgb[2] - b);
        }
      }
      chosen = (op.kind === 'table' && op.carries?.(rgb)) || 0;
    }
  };
}

/** Working linear light as it enters the step with this id (after the earlier steps): the basis of picks. */
export function compileBefore(steps: readonly Step[], stepId: string, seconds: number): MappedFn {
  const index = steps.findIndex((s) => s.id === stepId);
  const all = index < 0 ? steps : steps.slice(0, index);
  // Regions may appear anywhere in the list.
  const { ops } = compile([...all, ...steps.filter((s) => s.kind === REGION && !all.includes(s))], seconds);
  const run = through(ops);
  return (rgb, planes) => {
    run(rgb, planes);
    convertDomain(rgb, 'encoded', 'linear');
  };
}

/**
 * The exact evaluator: one colour through a program in double precision, optionally clipped once at the end. `planes`
 * holds the value of each of the program's planes at the pixel.
 */
export function evaluate(program: Program, code: Readonly<Vec3>, clip = false, planes?: ArrayLike<number>): Vec3 {
  const rgb: Vec3 = [code[0], code[1], code[2]];
  through(program.ops)(rgb, planes);
  return clip ? (rgb.map((c) => Math.min(1, Math.max(0, c))) as Vec3) : rgb;
}
