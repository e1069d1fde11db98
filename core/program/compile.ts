import { bt709 } from '../colour/transfer';
import type { Vec3 } from '../colour/matrix';
import { isKeyframed, resolveParams } from '../regions/keyframes';
import { matteFunction } from '../regions/matte';
import { stepKind, type Domain, type PointFn } from '../steps';
import type { Step } from '../model/grade';

/** Neighbouring pointwise steps as one function of code values. */
export interface LutPass {
  kind: 'lut';
  /** Code values (0 = reference black, 1 = reference white) between which the table lies, each channel. */
  domain: readonly [number, number];
  /** From the file's R'G'B' to encoded output, exactly, in double precision. Not clipped. */
  evaluate: PointFn;
}

/** What a frame passes. No passes: the frame goes out as it came in, bit for bit. */
export interface Program {
  passes: LutPass[];
}

/**
 * Code values between which every table lies. Limited range leaves room below 0 and above 1: code values 1–254 of 8
 * bits are −6.8 % to 108.7 %. With 27ths, 0 and 1 fall on nodes of a 33 and a 65 table.
 */
export const TABLE_DOMAIN: readonly [number, number] = [-2 / 27, 30 / 27];

type Light = 'linear' | 'encoded';

function convertDomain(rgb: Vec3, from: Light, to: Light): void {
  if (from === to) return;
  const f = to === 'linear' ? bt709.decode : bt709.encode;
  for (let i = 0; i < 3; i += 1) rgb[i] = f(rgb[i]);
}

interface Prepared {
  domain: Domain;
  apply: PointFn;
  /** How much of the step a colour gets, by its encoded value on entering the step; undefined: all of it. */
  share: ((rgb: Readonly<Vec3>) => number) | undefined;
}

/** Strength and matte of a step in one. */
function shareOf({ strength, matte }: Step): Prepared['share'] {
  if (matte) {
    const of = matteFunction(matte);
    return (rgb) => strength * of(rgb);
  }
  return strength < 1 ? () => strength : undefined;
}

/** Steps that do something at this time, with parameters resolved and checked. */
function prepareSteps(steps: readonly Step[], seconds: number): Prepared[] {
  return steps.flatMap((step) => {
    if (!step.on || step.strength === 0) return [];
    const kind = stepKind(step.kind);
    const params = kind.schema.parse(resolveParams(step.params, seconds));
    if (kind.isNeutral(params)) return [];
    return [{ domain: kind.domain, apply: kind.prepare(params), share: shareOf(step) }];
  });
}

/**
 * A function that runs prepared steps; takes code values, or encoded ones that earlier steps left, and leaves `end`.
 * Until a convert step says otherwise, code values are standard video, which is the encoded domain.
 */
function chain(prepared: readonly Prepared[], end: Light): PointFn {
  return (rgb) => {
    let at: Light = 'encoded';
    for (const { domain, apply, share } of prepared) {
      let before: Vec3 | undefined;
      let part = 1;
      if (share) {
        convertDomain(rgb, at, 'encoded');
        at = 'encoded';
        part = share(rgb);
        if (part === 0) continue;
        before = [rgb[0], rgb[1], rgb[2]];
      }
      convertDomain(rgb, at, domain === 'linear' ? 'linear' : 'encoded');
      apply(rgb);
      at = domain === 'encoded' ? 'encoded' : 'linear';
      if (before) {
        convertDomain(rgb, at, 'encoded');
        at = 'encoded';
        for (let i = 0; i < 3; i += 1) rgb[i] = before[i] + part * (rgb[i] - before[i]);
      }
    }
    convertDomain(rgb, at, end);
  };
}

/**
 * A list of steps at a time of the clip, as a program. `seconds` counts from the clip's first frame.
 * Throws a ZodError for parameters outside their limits and a RangeError for a profile without sense.
 */
export function compile(steps: readonly Step[], seconds: number): Program {
  const prepared = prepareSteps(steps, seconds);
  if (prepared.length === 0) return { passes: [] };
  return { passes: [{ kind: 'lut', domain: TABLE_DOMAIN, evaluate: chain(prepared, 'encoded') }] };
}

/**
 * A list of steps cut before the first of them that `changed` names: what comes before it, and it with all that
 * follows. Both together are what {@link compile} gives; with the first part kept, a change costs the second only.
 */
export function compileInTwo(
  steps: readonly Step[],
  changed: number,
  seconds: number,
): { before: PointFn; after: PointFn; empty: boolean } {
  const [first, second] = [prepareSteps(steps.slice(0, changed), seconds), prepareSteps(steps.slice(changed), seconds)];
  return {
    before: chain(first, 'encoded'),
    after: chain(second, 'encoded'),
    empty: first.length + second.length === 0,
  };
}

/** Working linear light as it enters the step with this id (after the earlier steps): what picks are made on. */
export function compileBefore(steps: readonly Step[], stepId: string, seconds: number): PointFn {
  const index = steps.findIndex((s) => s.id === stepId);
  return chain(prepareSteps(index < 0 ? steps : steps.slice(0, index), seconds), 'linear');
}

/** The exact evaluator: one colour through a program in double precision, clipped once at the end when asked. */
export function evaluate(program: Program, code: Readonly<Vec3>, clip = false): Vec3 {
  const rgb: Vec3 = [code[0], code[1], code[2]];
  for (const pass of program.passes) pass.evaluate(rgb);
  return clip ? (rgb.map((c) => Math.min(1, Math.max(0, c))) as Vec3) : rgb;
}

/** Whether the steps have numbers that change over the clip. */
export const changesOverTime = (steps: readonly Step[]): boolean =>
  steps.some((s) => s.on && Object.values(s.params).some(isKeyframed));
