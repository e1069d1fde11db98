import { bt709 } from '../colour/transfer';
import type { Vec3 } from '../colour/matrix';
import type { FieldSpec } from '../fields/map';
import { isKeyframed, resolveParams } from '../regions/keyframes';
import { matteFunction } from '../regions/matte';
import { stepKind, type Domain, type PointFn } from '../steps';
import type { Step } from '../model/grade';

/**
 * Neighbouring pointwise steps as one function of code values. One spatial step may be among them: what it does to a
 * colour depends on its map alone, so the map's value is a fourth coordinate of the same function.
 */
export interface LutPass {
  kind: 'lut';
  /** Code values (0 = reference black, 1 = reference white) between which the table lies, each channel. */
  domain: readonly [number, number];
  /** From the file's R'G'B' (or what the pass before left) to encoded output, in double precision. Not clipped. */
  evaluate: PointFn;
  /** The pass has a spatial step: how its map is made, and what takes a colour to where the step meets it, linear. */
  field?: { spec: FieldSpec; before: PointFn };
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
  field: FieldSpec | undefined;
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
    return [{ domain: kind.domain, apply: kind.prepare(params), share: shareOf(step), field: kind.field?.(params) }];
  });
}

/**
 * A function that runs prepared steps; takes code values, or encoded ones that earlier steps left, and leaves `end`.
 * Until a convert step says otherwise, code values are standard video, which is the encoded domain.
 */
function chain(prepared: readonly Prepared[], end: Light): PointFn {
  return (rgb, map) => {
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
      apply(rgb, map);
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

/** Cut before every spatial step but the first: each part has one map at most. */
function parts(prepared: readonly Prepared[]): Prepared[][] {
  const out: Prepared[][] = [[]];
  let fields = 0;
  for (const step of prepared) {
    if (step.field) fields += 1;
    if (step.field && fields > 1) out.push([]);
    out[out.length - 1].push(step);
  }
  return out;
}

function passOf(part: readonly Prepared[]): LutPass {
  const at = part.findIndex((p) => p.field);
  const pass: LutPass = { kind: 'lut', domain: TABLE_DOMAIN, evaluate: chain(part, 'encoded') };
  return at < 0 ? pass : { ...pass, field: { spec: part[at].field!, before: chain(part.slice(0, at), 'linear') } };
}

/**
 * A list of steps at a time of the clip, as a program. `seconds` counts from the clip's first frame.
 * Throws a ZodError for parameters outside their limits and a RangeError for a profile without sense.
 */
export function compile(steps: readonly Step[], seconds: number): Program {
  const prepared = prepareSteps(steps, seconds);
  return { passes: prepared.length === 0 ? [] : parts(prepared).map(passOf) };
}

/** The steps of each pass of their program: cut before every spatial step but the first. */
export function stepsOfPasses(steps: readonly Step[], seconds: number): Step[][] {
  const out: Step[][] = [[]];
  let fields = 0;
  for (const step of steps) {
    const spatial = hasField(step, seconds);
    if (spatial) fields += 1;
    if (spatial && fields > 1) out.push([]);
    out[out.length - 1].push(step);
  }
  return out;
}

/** Whether a step takes a map at this time. */
export const hasField = (step: Step, seconds: number): boolean =>
  stepKind(step.kind).field !== undefined && prepareSteps([step], seconds).some((p) => p.field);

/** Whether a step takes a map at any time of the clip. */
export function hasFieldEver(step: Step): boolean {
  const times = Object.values(step.params).flatMap((v) => (isKeyframed(v) ? v.keys.map((k) => k.seconds) : []));
  return [0, ...times].some((seconds) => hasField(step, seconds));
}

/**
 * The steps of one pass cut before the first of them that `changed` names: what comes before it, and it with all that
 * follows. Both together are what the pass computes; with the first part kept, a change costs the second only.
 */
export function compileInTwo(
  steps: readonly Step[],
  changed: number,
  seconds: number,
): { before: PointFn; after: PointFn; empty: boolean; mapBefore: boolean; mapAfter: boolean } {
  const [first, second] = [prepareSteps(steps.slice(0, changed), seconds), prepareSteps(steps.slice(changed), seconds)];
  return {
    before: chain(first, 'encoded'),
    after: chain(second, 'encoded'),
    empty: first.length + second.length === 0,
    mapBefore: first.some((p) => p.field),
    mapAfter: second.some((p) => p.field),
  };
}

/** A colour through steps with the values of their maps, in order. */
export type MappedFn = (rgb: Vec3, maps?: ArrayLike<number>) => void;

/** All passes of some steps as one function. */
function through(passes: readonly Pick<LutPass, 'evaluate'>[]): MappedFn {
  return (rgb, maps) => passes.forEach((pass, i) => pass.evaluate(rgb, maps?.[i]));
}

/** Working linear light as it enters the step with this id (after the earlier steps): what picks are made on. */
export function compileBefore(steps: readonly Step[], stepId: string, seconds: number): MappedFn {
  const index = steps.findIndex((s) => s.id === stepId);
  const list = parts(prepareSteps(index < 0 ? steps : steps.slice(0, index), seconds));
  return through(list.map((part, i) => ({ evaluate: chain(part, i === list.length - 1 ? 'linear' : 'encoded') })));
}

/**
 * The exact evaluator: one colour through a program in double precision, clipped once at the end when asked. `maps`
 * holds the value of each pass's map there.
 */
export function evaluate(program: Program, code: Readonly<Vec3>, clip = false, maps?: ArrayLike<number>): Vec3 {
  const rgb: Vec3 = [code[0], code[1], code[2]];
  through(program.passes)(rgb, maps);
  return clip ? (rgb.map((c) => Math.min(1, Math.max(0, c))) as Vec3) : rgb;
}

/** Whether the steps have numbers that change over the clip. */
export const changesOverTime = (steps: readonly Step[]): boolean =>
  steps.some((s) => s.on && Object.values(s.params).some(isKeyframed));
