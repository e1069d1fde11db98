import { bt709 } from '../colour/transfer';
import type { Vec3 } from '../colour/matrix';
import type { FieldSpec } from '../fields/map';
import { isKeyframed, resolveParams } from '../regions/keyframes';
import { matteFunction } from '../regions/matte';
import { stepKind, type Domain, type PointFn } from '../steps';
import type { Step } from '../model/grade';

/** Neighbouring pointwise steps as one function of code values. */
export interface LutPass {
  kind: 'lut';
  /** Values between which the table lies, each channel: code values, or what the pass before left. */
  domain: readonly [number, number];
  /** From the file's R'G'B' (or what the pass before left) to encoded output, in double precision. Not clipped. */
  evaluate: PointFn;
  /** How much of the spatial step that follows a colour gets, by its encoded value there; absent: all of it. */
  share?: (rgb: Readonly<Vec3>) => number;
}

/** A spatial step: its mathematics for a linear colour and its map's value there. */
export interface FieldPass {
  kind: 'field';
  /** The step's kind and resolved parameters. */
  step: string;
  params: object;
  field: FieldSpec;
  apply: PointFn;
}

export type Pass = LutPass | FieldPass;

/** What a frame passes. No passes: the frame goes out as it came in, bit for bit. */
export interface Program {
  passes: Pass[];
}

/**
 * Code values between which every table lies. Limited range leaves room below 0 and above 1: code values 1–254 of 8
 * bits are −6.8 % to 108.7 %. With 27ths, 0 and 1 fall on nodes of a 33 and a 65 table.
 */
export const TABLE_DOMAIN: readonly [number, number] = [-2 / 27, 30 / 27];

/**
 * Encoded values between which a table behind a spatial step lies: what water or haze gave back may lie
 * beyond white, and below black.
 * With 32nds, 0 and 1 fall on nodes.
 */
export const FIELD_DOMAIN: readonly [number, number] = [-16 / 32, 48 / 32];

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
  /** A spatial step, with its kind and parameters. */
  field: Omit<FieldPass, 'kind' | 'apply'> | undefined;
}

/** Strength and matte of a step in one. */
function shareOf({ strength, matte }: Step): Prepared['share'] {
  if (matte) {
    const of = matteFunction(matte);
    return (rgb) => strength * of(rgb);
  }
  return strength < 1 ? () => strength : undefined;
}

/** A step's kind, and its parameters at a time, checked; undefined for a step that does nothing then. */
function actingAt(step: Step, seconds: number) {
  if (!step.on || step.strength === 0) return undefined;
  const kind = stepKind(step.kind);
  const params = kind.schema.parse(resolveParams(step.params, seconds));
  return kind.isNeutral(params) ? undefined : { kind, params };
}

/** Whether any of these steps does something at this time. Needs no tables, unlike {@link compile}. */
export const actsAt = (steps: readonly Step[], seconds: number): boolean =>
  steps.some((step) => actingAt(step, seconds) !== undefined);

/** Steps that do something at this time, prepared. */
function prepareSteps(steps: readonly Step[], seconds: number): Prepared[] {
  return steps.flatMap((step) => {
    const acting = actingAt(step, seconds);
    if (!acting) return [];
    const { kind, params } = acting;
    const field = kind.field?.(params);
    return [
      {
        domain: kind.domain,
        apply: kind.prepare(params),
        share: shareOf(step),
        field: field && { step: step.kind, params, field },
      },
    ];
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

/** Pointwise steps between spatial ones, each run with the spatial step that follows it. */
interface Run<S> {
  points: S[];
  field: S | undefined;
}

function runsOf<S>(steps: readonly S[], isField: (step: S) => boolean): Run<S>[] {
  const runs: Run<S>[] = [{ points: [], field: undefined }];
  for (const step of steps) {
    const run = runs[runs.length - 1];
    if (isField(step)) {
      run.field = step;
      runs.push({ points: [], field: undefined });
    } else run.points.push(step);
  }
  return runs;
}

function passesOf({ points, field }: Run<Prepared>, index: number): Pass[] {
  const out: Pass[] = [];
  if (points.length > 0 || field?.share)
    out.push({
      kind: 'lut',
      domain: index === 0 ? TABLE_DOMAIN : FIELD_DOMAIN,
      evaluate: chain(points, 'encoded'),
      ...(field?.share ? { share: field.share } : {}),
    });
  if (field) out.push({ kind: 'field', ...field.field!, apply: field.apply });
  return out;
}

/**
 * A list of steps at a time of the clip, as a program. `seconds` counts from the clip's first frame.
 * Throws a ZodError for parameters outside their limits and a RangeError for a profile without sense.
 */
export const compile = (steps: readonly Step[], seconds: number): Program => ({
  passes: runsOf(prepareSteps(steps, seconds), (p) => p.field !== undefined).flatMap(passesOf),
});

/** The one table of a program without spatial steps. Throws a RangeError for a program of another form. */
export function tableOf({ passes }: Program): LutPass {
  const [pass] = passes;
  if (passes.length !== 1 || pass.kind !== 'lut') throw new RangeError('This program is not one table.');
  return pass;
}

/** The same cut of the steps themselves: what each table is baked from, and the spatial step that follows. */
export const stepRuns = (steps: readonly Step[], seconds: number): Run<Step>[] =>
  runsOf(steps, (s) => hasField(s, seconds));

/** Whether a step takes a map at this time. Asked at every change, so nothing is prepared for it. */
export function hasField(step: Step, seconds: number): boolean {
  const kind = stepKind(step.kind);
  if (!kind.field || !step.on || step.strength === 0) return false;
  const params = kind.schema.parse(resolveParams(step.params, seconds));
  return !kind.isNeutral(params) && kind.field(params) !== undefined;
}

/** Whether a step takes a map at any time of the clip. */
export function hasFieldEver(step: Step): boolean {
  const times = Object.values(step.params).flatMap((v) => (isKeyframed(v) ? v.keys.map((k) => k.seconds) : []));
  return [0, ...times].some((seconds) => hasField(step, seconds));
}

/**
 * Pointwise steps cut before the first of them that `changed` names: what comes before it, and it with all that
 * follows. Both together are what their table holds; with the first part kept, a change costs the second only.
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

/** How much of a step each colour gets; undefined: all of it, for every colour. */
export const shareOfStep = (step: Step): LutPass['share'] => shareOf(step);

/** A colour through passes, with the values of their maps, pass by pass. */
export type MappedFn = (rgb: Vec3, maps?: ArrayLike<number>) => void;

/** All passes as one function, from code values (or encoded ones) to encoded ones. */
export function through(passes: readonly Pass[]): MappedFn {
  return (rgb, maps) => {
    let share = 1;
    passes.forEach((pass, i) => {
      if (pass.kind === 'lut') {
        pass.evaluate(rgb);
        share = pass.share?.(rgb) ?? 1;
        return;
      }
      const before: Vec3 = [rgb[0], rgb[1], rgb[2]];
      convertDomain(rgb, 'encoded', 'linear');
      pass.apply(rgb, maps?.[i]);
      convertDomain(rgb, 'linear', 'encoded');
      if (share !== 1) for (let c = 0; c < 3; c += 1) rgb[c] = before[c] + share * (rgb[c] - before[c]);
      share = 1;
    });
  };
}

/** Working linear light as it enters the step with this id (after the earlier steps): what picks are made on. */
export function compileBefore(steps: readonly Step[], stepId: string, seconds: number): MappedFn {
  const index = steps.findIndex((s) => s.id === stepId);
  const { passes } = compile(index < 0 ? steps : steps.slice(0, index), seconds);
  const run = through(passes);
  return (rgb, maps) => {
    run(rgb, maps);
    convertDomain(rgb, 'encoded', 'linear');
  };
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
