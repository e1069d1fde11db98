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

/** How much of an op a pixel gets: {@link Join} of the shapes there and of what its colour chooses. */
export interface Mix {
  join: Join;
  /** The plane of the shapes: a place in {@link Program.planes}; undefined: no shapes. */
  mask?: number;
  /** The plane of the neighbourhood of what its colour chooses, for `cleaned`; undefined: it is left as it is. */
  clean?: number;
  /** The region where it acts, and its strength there, which the join holds too. */
  region?: string;
  strength: number;
}

/** Neighbouring pointwise steps as one function of code values. */
export interface TableOp {
  kind: 'table';
  /** Values between which the table lies, each channel: code values, or what the op before left. */
  domain: readonly [number, number];
  /** From the file's R'G'B' (or what the op before left) to encoded output, in double precision. Not clipped. */
  evaluate: PointFn;
  /** A table from a file, used with its own grid instead of being sampled anew. */
  own?: Table;
  /** What the colour on entering chooses, for the op's own mix. */
  chooses?: (rgb: Readonly<Vec3>) => number;
  /** The same of what it leaves, for the op that follows. */
  carries?: (rgb: Readonly<Vec3>) => number;
  mix?: Mix;
}

/** A spatial step: its mathematics for a colour, in the light of its formula, and its plane's value there. */
export interface PointOp {
  kind: 'point';
  /** The step's kind and resolved parameters. */
  step: string;
  params: object;
  /** Its plane, a place in {@link Program.planes}. */
  plane: number;
  apply: PointFn;
  mix?: Mix;
}

/** A step that looks at a pixel's neighbours: its formula reads the luma, or the colours, that enter, blurred. */
export interface StencilOp {
  kind: 'stencil';
  step: string;
  params: object;
  /** Standard deviation of the Gaussian, a share of the frame's width. */
  spread: number;
  mix?: Mix;
}

export type Op = TableOp | PointOp | StencilOp;

/** A small picture that ops read, interpolated to full size. */
export type PlaneSpec =
  | {
      kind: 'field';
      key: string;
      field: FieldSpec;
      /** It is made from the frame as it enters this op, and this step. */
      before: number;
      step?: string;
      /** Where it differs from moment to moment whatever is in the frame. */
      seconds?: number;
    }
  | { kind: 'mask'; key: string; shapes: readonly Shape[]; seconds: number };

/** What a frame passes. No ops: the frame goes out as it came in, bit for bit. */
export interface Program {
  ops: Op[];
  /** In the order in which ops first read them: those of the first steps of a grade come first. */
  planes: PlaneSpec[];
}

/**
 * Code values between which every table lies. Limited range leaves room below 0 and above 1: code values 1–254 of 8
 * bits are −6.8 % to 108.7 %. With 27ths, 0 and 1 fall on nodes of a 33 and a 65 table.
 */
export const TABLE_DOMAIN: readonly [number, number] = [-2 / 27, 30 / 27];

/**
 * Encoded values between which a table behind another op lies: what water or haze gave back may lie
 * beyond white, and below black.
 * With 32nds, 0 and 1 fall on nodes.
 */
export const FIELD_DOMAIN: readonly [number, number] = [-16 / 32, 48 / 32];

export type Light = 'linear' | 'encoded';

/** A colour from one sort of light to another, in place. */
export function convertDomain(rgb: Vec3, from: Light, to: Light): void {
  if (from === to) return;
  const f = to === 'linear' ? decode709 : encode709;
  for (let i = 0; i < 3; i += 1) rgb[i] = f(rgb[i]);
}

interface Prepared {
  domain: Domain;
  apply: PointFn;
  /** How much of it a colour gets, by its encoded value on entering; undefined: all of it. */
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

/** Whether any of these steps does something at this time. Needs no tables, unlike {@link compile}. */
export const actsAt = (steps: readonly Step[], seconds: number): boolean =>
  steps.some((step) => paramsAt(step, seconds) !== undefined);

/** How much of a step each colour gets in a region without shapes; with its strength. */
function shareIn({ region, strength }: RegionAt): Prepared['share'] {
  const join = joinOf(region, strength);
  if (!region.matte) return join[0] === 1 ? undefined : () => join[0];
  const of = matteFunction(region.matte);
  return (rgb) => amountOf(join, 1, of(rgb));
}

/**
 * Pointwise steps at a time, prepared. Neighbours in a region without shapes are one: it chooses by the colour that enters
 * the first of them.
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

/** What the colour on entering a segment chooses; undefined: everything. */
function choosesIn({ kind, steps: [step], region }: Segment): ((rgb: Readonly<Vec3>) => number) | undefined {
  const matte = region?.region.matte ?? (kind === 'table' ? undefined : step?.matte);
  return matte && matteFunction(matte);
}

/** The mix of a segment, without its plane; undefined: all of it, everywhere. */
function joinIn({ kind, steps: [step], region }: Segment): Join | undefined {
  // The strength of steps that are baked lies in their table.
  const strength = kind === 'table' ? 1 : step.strength;
  if (region) return joinOf(region.region, region.strength * strength);
  if (kind === 'table') return undefined;
  if (step.matte) return [0, 0, strength, 0];
  return strength < 1 ? evenly(strength) : undefined;
}

/** Domain of the table of a segment. */
export const domainAt = (index: number): readonly [number, number] => (index === 0 ? TABLE_DOMAIN : FIELD_DOMAIN);

/** The parts of an op that are not its table or its mathematics. */
export interface OpShape {
  chooses?: TableOp['chooses'];
  carries?: TableOp['carries'];
  mix?: Mix;
  /** Of a spatial step. */
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

/** The op of a step that looks at a pixel's neighbours, with resolved parameters. */
export const stencilOf = ({ kind: step }: Step, params: Record<string, unknown>, mix: Mix | undefined): StencilOp => ({
  kind: 'stencil',
  step,
  params,
  spread: stepKind(step).spread!(params),
  ...(mix ? { mix } : {}),
});

/** How the ops of a cut are put together, without their mathematics: for one who bakes them anew, part by part. */
export function opShapes({ segments, regionOf }: Cut, seconds: number): OpShape[] {
  const compiler = new Compiler(seconds, regionOf);
  return segments.map((segment, i) => compiler.shape(segment, i));
}

/**
 * A list of steps at a time of the clip, as a program. `seconds` counts from the clip's first frame. `show`: a region that
 * has an op of its own in any case.
 * Throws a ZodError for parameters outside their limits and a RangeError for a profile without sense.
 */
export function compile(steps: readonly Step[], seconds: number, show?: string): Program {
  const { segments, regionOf } = cut(steps, seconds, show);
  const compiler = new Compiler(seconds, regionOf);
  const ops = segments.map((s, i) => compiler.op(s, i));
  return { ops, planes: compiler.planes };
}

/** The one table of a program that is nothing else. Throws a RangeError for a program of another form. */
export function tableOf({ ops }: Pick<Program, 'ops'>): TableOp {
  const [op] = ops;
  if (ops.length !== 1 || op.kind !== 'table' || op.mix) throw new RangeError('This program is not one table.');
  return op;
}

/**
 * The steps of one table cut before the one that `changed` names: what comes before it, and it with all that
 * follows. Both together are what their table holds; with the first part kept, a change costs the second only.
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

/** Whether the steps have numbers that change over the clip, so that every moment has tables of its own. */
export const numbersChange = (steps: readonly Step[]): boolean =>
  steps.some((s) => s.on && Object.values(s.params).some(isKeyframed));

/** Whether the steps have numbers that change over the clip, or regions that move. */
export const changesOverTime = (steps: readonly Step[]): boolean =>
  numbersChange(steps) || steps.some((s) => s.kind === REGION && regionMoves(s.params));
