import { decode709, encode709 } from '../colour/transferTables';
import type { Vec3 } from '../colour/matrix';
import type { FieldSpec } from '../fields/map';
import { isTiled } from '../fields/tile';
import { cleans, neighbourhood } from '../regions/clean';
import { isKeyframed } from '../regions/keyframes';
import { matteFunction } from '../regions/matte';
import { amountOf, evenly, joinOf, REGION, regionMoves, type Join, type RegionAt } from '../regions/region';
import type { Shape } from '../regions/shape';
import { stepKind, type Domain, type PointFn } from '../steps';
import { ownTable } from '../steps/lut/library';
import type { Step } from '../model/grade';
import { cut, paramsAt, type Cut, type Segment } from './plan';
import type { Table } from './table';

/** How much of an op a pixel gets: the {@link Join} of the shapes there and of the selection by colour. */
export interface Mix {
  join: Join;
  /** The plane of the shapes: an index into {@link Program.planes}; undefined: no shapes. */
  mask?: number;
  /** The plane of the selection's neighbourhood, for `cleaned`; undefined: not cleaned. */
  clean?: number;
  /** The region in which it acts, and its strength there, which is part of the join. */
  region?: string;
  strength: number;
}

/** Consecutive pointwise steps as one function of code values. */
export interface TableOp {
  kind: 'table';
  /** Range of the table per channel: code values, or the previous op's output. */
  domain: readonly [number, number];
  /** From the file's R'G'B' (or the previous op's output) to encoded output, in double precision. Not clipped. */
  evaluate: PointFn;
  /** A table from a file, used with its own grid instead of being resampled. */
  own?: Table;
  /** Selection by the colour on entering, for the op's own mix. */
  chooses?: (rgb: Readonly<Vec3>) => number;
  /** Selection by the colour on leaving, for the next op. */
  carries?: (rgb: Readonly<Vec3>) => number;
  mix?: Mix;
}

/** A spatial step: its formula applied to a colour, in the formula's light, with its plane's value at the pixel. */
export interface PointOp {
  kind: 'point';
  /** The step's kind and resolved parameters. */
  step: string;
  params: object;
  /** Its plane, an index into {@link Program.planes}. */
  plane: number;
  apply: PointFn;
  mix?: Mix;
}

/** A step that reads a pixel's neighbours: its formula takes the blurred luma or colours that enter it. */
export interface StencilOp {
  kind: 'stencil';
  step: string;
  params: object;
  /** Standard deviation of the Gaussian, as a share of the frame's width. */
  spread: number;
  mix?: Mix;
}

export type Op = TableOp | PointOp | StencilOp;

/** A low-resolution map that ops read, interpolated to full size. */
export type PlaneSpec =
  | {
      kind: 'field';
      key: string;
      field: FieldSpec;
      /** It depends on the frame as it enters this op, and on this step. */
      before: number;
      step?: string;
      /** Seed for maps that change over time independently of the frame. */
      seconds?: number;
    }
  | { kind: 'mask'; key: string; shapes: readonly Shape[]; seconds: number };

/** The ops applied to a frame. Without ops the frame is passed through, bit for bit. */
export interface Program {
  ops: Op[];
  /** In the order in which ops first read them: those of a grade's first steps come first. */
  planes: PlaneSpec[];
}

/**
 * Range of code values that every table covers. Limited range has headroom below 0 and above 1: 8-bit code values 1–254
 * are −6.8 % to 108.7 %. In 27ths, so that 0 and 1 fall on nodes of tables with 33 and 65 nodes.
 */
export const TABLE_DOMAIN: readonly [number, number] = [-2 / 27, 30 / 27];

/**
 * Range of encoded values for a table behind another op: the output of water or haze may exceed white or fall below
 * black. In 32nds, so that 0 and 1 fall on nodes.
 */
export const FIELD_DOMAIN: readonly [number, number] = [-16 / 32, 48 / 32];

export type Light = 'linear' | 'encoded';

/** Converts a colour between encoded and linear light, in place. */
export function convertDomain(rgb: Vec3, from: Light, to: Light): void {
  if (from === to) return;
  const f = to === 'linear' ? decode709 : encode709;
  for (let i = 0; i < 3; i += 1) rgb[i] = f(rgb[i]);
}

interface Prepared {
  domain: Domain;
  apply: PointFn;
  /** Share of the step for a colour, by its encoded value on entering; undefined: all of it. */
  share: ((rgb: Readonly<Vec3>) => number) | undefined;
}

/** Combined strength and matte of a step. */
function shareOf({ strength, matte }: Step): Prepared['share'] {
  if (matte) {
    const of = matteFunction(matte);
    return (rgb) => strength * of(rgb);
  }
  return strength < 1 ? () => strength : undefined;
}

/** Whether any of these steps has an effect at this time. Unlike {@link compile}, needs no tables. */
export const actsAt = (steps: readonly Step[], seconds: number): boolean =>
  steps.some((step) => paramsAt(step, seconds) !== undefined);

/** Share of a step for each colour in a region without shapes, including its strength. */
function shareIn({ region, strength }: RegionAt): Prepared['share'] {
  const join = joinOf(region, strength);
  if (!region.matte) return join[0] === 1 ? undefined : () => join[0];
  const of = matteFunction(region.matte);
  return (rgb) => amountOf(join, 1, of(rgb));
}

/**
 * Pointwise steps at a time, prepared. Consecutive steps in one region without shapes are merged: the region selects by
 * the colour that enters the first.
 */
function prepareSteps(steps: readonly Step[], seconds: number, regionOf?: Cut['regionOf']): Prepared[] {
  const out: Prepared[] = [];
  for (let i = 0; i < steps.length;) {
    const region = regionOf?.(steps[i]);
    const many = region ? steps.slice(i).findIndex((s) => regionOf!(s)?.id !== region.id) : 1;
    const group = steps.slice(i, many < 0 ? steps.length : i + many);
    const single = group.flatMap((step): Prepared[] => {
      const params = paramsAt(step, seconds);
      if (!params) return [];
      const kind = stepKind(step.kind);
      return [{ domain: kind.domain, apply: kind.prepare(params), share: shareOf(step) }];
    });
    const share = region && shareIn(region);
    if (share && single.length > 0) out.push({ domain: 'encoded', apply: chain(single, 'encoded'), share });
    else out.push(...single);
    i += group.length;
  }
  return out;
}

/**
 * A function that runs prepared steps on code values, or on encoded values from earlier steps, and returns the `end`
 * domain. Until a convert step says otherwise, code values are standard video, which is the encoded domain.
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

/** Selection by the colour on entering a segment; undefined: everything. */
function choosesIn({ kind, steps: [step], region }: Segment): ((rgb: Readonly<Vec3>) => number) | undefined {
  const matte = region?.region.matte ?? (kind === 'table' ? undefined : step?.matte);
  return matte && matteFunction(matte);
}

/** The mix of a segment, without its plane; undefined: full strength everywhere. */
function joinIn({ kind, steps: [step], region }: Segment): Join | undefined {
  // The strength of baked steps is part of their table.
  const strength = kind === 'table' ? 1 : step.strength;
  if (region) return joinOf(region.region, region.strength * strength);
  if (kind === 'table') return undefined;
  if (step.matte) return [0, 0, strength, 0];
  return strength < 1 ? evenly(strength) : undefined;
}

/** Domain of the table of a segment. */
export const domainAt = (index: number): readonly [number, number] => (index === 0 ? TABLE_DOMAIN : FIELD_DOMAIN);

/** The parts of an op other than its table or formula. */
export interface OpShape {
  chooses?: TableOp['chooses'];
  carries?: TableOp['carries'];
  mix?: Mix;
  /** For a spatial step. */
  plane?: number;
}

class Compiler {
  readonly planes: PlaneSpec[] = [];

  constructor(
    private readonly seconds: number,
    private readonly regionOf: Cut['regionOf'],
  ) {}

  private plane(spec: PlaneSpec): number {
    const known = this.planes.findIndex((p) => p.key === spec.key);
    return known >= 0 ? known : this.planes.push(spec) - 1;
  }

  shape(segment: Segment, index: number): OpShape {
    const { region, carries, kind } = segment;
    const plane = kind === 'point' ? this.fieldOf(segment.steps[0], index) : undefined;
    const join = joinIn(segment);
    const shapes = region?.region.shapes ?? [];
    const mix: Mix | undefined = join && {
      join,
      strength: (region?.strength ?? 1) * (kind === 'table' ? 1 : segment.steps[0].strength),
      ...(region ? { region: region.id } : {}),
      ...(shapes.length > 0
        ? { mask: this.plane({ kind: 'mask', key: `mask ${region!.id}`, shapes, seconds: this.seconds }) }
        : {}),
      ...(region && cleans(region.region) ? { clean: this.neighbourhoodOf(region, segment.steps[0]?.id, index) } : {}),
    };
    const chooses = kind === 'table' && region ? choosesIn(segment) : undefined;
    const carried = carries && choosesIn(carries);
    return {
      ...(chooses ? { chooses } : {}),
      ...(carried ? { carries: carried } : {}),
      ...(mix ? { mix } : {}),
      ...(plane === undefined ? {} : { plane }),
    };
  }

  private fieldOf(step: Step, before: number): number {
    const field = stepKind(step.kind).field!(paramsAt(step, this.seconds)!)!;
    const moment = isTiled(field) ? { seconds: this.seconds } : {};
    return this.plane({ kind: 'field', key: step.id, field, before, step: step.id, ...moment });
  }

  private neighbourhoodOf({ region }: RegionAt, step: string | undefined, before: number): number {
    const key = `clean ${before} ${region.clean} ${JSON.stringify(region.matte)}`;
    return this.plane({ kind: 'field', key, field: neighbourhood(region), before, step });
  }

  op(segment: Segment, index: number): Op {
    const { kind, steps, region } = segment;
    const [step] = steps;
    if (kind === 'table') {
      const prepared = prepareSteps(steps, this.seconds, region ? undefined : this.regionOf);
      return { kind, domain: domainAt(index), evaluate: chain(prepared, 'encoded'), ...this.shape(segment, index) };
    }
    const params = paramsAt(step, this.seconds)!;
    if (kind === 'file') {
      const { table, apply } = ownTable(step)!;
      return { kind: 'table', domain: table.domain, evaluate: apply, own: table, ...this.shape(segment, index) };
    }
    const { mix, plane } = this.shape(segment, index);
    if (kind === 'stencil') return stencilOf(step, params, mix);
    const apply = stepKind(step.kind).prepare(params);
    return { kind, step: step.kind, params, plane: plane!, apply, ...(mix ? { mix } : {}) };
  }
}

/** The op of a step that reads a pixel's neighbours, with resolved parameters. */
export const stencilOf = ({ kind: step }: Step, params: Record<string, unknown>, mix: Mix | undefined): StencilOp => ({
  kind: 'stencil',
  step,
  params,
  spread: stepKind(step).spread!(params),
  ...(mix ? { mix } : {}),
});

/** Composes the ops of a cut, without their functions: for callers that rebake them part by part. */
export function opShapes({ segments, regionOf }: Cut, seconds: number): OpShape[] {
  const compiler = new Compiler(seconds, regionOf);
  return segments.map((segment, i) => compiler.shape(segment, i));
}

/**
 * Compiles a list of steps at a time of the clip. `seconds` counts from the clip's first frame. `show`: a region that
 * gets an op of its own in any case. Throws a ZodError for parameters out of range and a RangeError for an invalid
 * profile.
 */
export function compile(steps: readonly Step[], seconds: number, show?: string): Program {
  const { segments, regionOf } = cut(steps, seconds, show);
  const compiler = new Compiler(seconds, regionOf);
  const ops = segments.map((s, i) => compiler.op(s, i));
  return { ops, planes: compiler.planes };
}

/** The table of a program that consists of a single one. Throws a RangeError for any other program. */
export function tableOf({ ops }: Pick<Program, 'ops'>): TableOp {
  const [op] = ops;
  if (ops.length !== 1 || op.kind !== 'table' || op.mix) throw new RangeError('This program is not one table.');
  return op;
}

/**
 * Splits the steps of one table before the one named by `changed`, so that the result of the first part can be cached
 * and a change costs only the second.
 */
export function compileInTwo(
  steps: readonly Step[],
  changed: number,
  seconds: number,
  regionOf?: Cut['regionOf'],
): { before: PointFn; after: PointFn } {
  const [first, second] = [steps.slice(0, changed), steps.slice(changed)].map((some) =>
    chain(prepareSteps(some, seconds, regionOf), 'encoded'),
  );
  return { before: first, after: second };
}

/** Whether the steps have numbers that change over the clip, so that each moment needs its own tables. */
export const numbersChange = (steps: readonly Step[]): boolean =>
  steps.some((s) => s.on && Object.values(s.params).some(isKeyframed));

/** Whether the steps have numbers that change over the clip, or moving regions. */
export const changesOverTime = (steps: readonly Step[]): boolean =>
  numbersChange(steps) || steps.some((s) => s.kind === REGION && regionMoves(s.params));
