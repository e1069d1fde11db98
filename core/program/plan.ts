import { cleans } from '../regions/clean';
import { isKeyframed, resolveParams } from '../regions/keyframes';
import { checkedRegion, REGION, strengthAt, type Region, type RegionAt } from '../regions/region';
import { stepKind } from '../steps';
import { ownTable } from '../steps/lut/library';
import type { Step } from '../model/grade';

/** How a grade is divided into ops: which steps each contains. Needs no tables and prepares no formulas. */
export interface Segment {
  /**
   * Pointwise steps baked into one table; a step with a file's own table; a formula that reads planes; one that reads a
   * pixel's neighbours.
   */
  kind: 'table' | 'file' | 'point' | 'stencil';
  /** Active steps; exactly one, unless they are baked. */
  steps: Step[];
  /** The region of all of them; undefined: everywhere. */
  region?: RegionAt;
  /** For a table: the next op, whose selection by colour is stored in its alpha. */
  carries?: Segment;
}

export interface Cut {
  segments: Segment[];
  /** A region by the id that steps refer to it by. */
  regionOf(step: Step): RegionAt | undefined;
}

/** Regions among steps by their ids, at a time. */
function regionsAt(steps: readonly Step[], seconds: number): Map<string, RegionAt> {
  const out = new Map<string, RegionAt>();
  for (const { id, kind, params } of steps)
    if (kind === REGION) {
      const region = checkedRegion(params);
      out.set(id, { id, region, strength: strengthAt(region, seconds) });
    }
  return out;
}

/** A step's validated parameters at a time; undefined for a step without effect then. */
export function paramsAt(step: Step, seconds: number): Record<string, unknown> | undefined {
  if (!step.on || step.strength === 0 || step.kind === REGION) return undefined;
  const kind = stepKind(step.kind);
  const params = kind.schema.parse(resolveParams(step.params, seconds));
  return kind.isNeutral(params) ? undefined : params;
}

/** An active step at this time, if it becomes part of an op. */
function segmentKind(step: Step, seconds: number): Segment['kind'] {
  const { field, spread } = stepKind(step.kind);
  const params = (field || spread) && paramsAt(step, seconds);
  if (params && spread) return 'stencil';
  if (params && field!(params) !== undefined) return 'point';
  return ownTable(step) ? 'file' : 'table';
}

/** Whether a region's selection depends on more than a pixel's colour. */
export const looksAround = (region: Region): boolean => region.shapes.length > 0 || cleans(region);

/**
 * Divides a list of steps at a time into ops. `show`: a region that needs an op of its own even if no step uses it yet,
 * so that its selection can be shown.
 */
export function cut(steps: readonly Step[], seconds: number, show?: string): Cut {
  const regions = regionsAt(steps, seconds);
  const segments: Segment[] = [];
  // A region that is missing from the grade selects nothing.
  const hidden = (step: Step): boolean => step.region !== undefined && !((regions.get(step.region)?.strength ?? 0) > 0);
  const last = (): Segment | undefined => segments[segments.length - 1];
  const shown = show === undefined ? undefined : regions.get(show);
  // Steps done by the decoder come before everything here.
  const acting = steps.filter((s) => !stepKind(s.kind).ofSource && paramsAt(s, seconds) !== undefined && !hidden(s));
  const unseen = shown && !acting.some((s) => s.region === show);
  for (const step of acting) {
    const region = step.region === undefined ? undefined : regions.get(step.region);
    // A region that is neither spatial nor requested separately is baked with its steps.
    const own = region && (looksAround(region.region) || region.id === show) ? region : undefined;
    const kind = segmentKind(step, seconds);
    if (kind !== 'table') {
      const alone: Segment = { kind, steps: [step], ...(region ? { region } : {}) };
      carry(segments, alone);
      segments.push(alone);
    } else {
      const before = last();
      if (before?.kind === 'table' && before.region?.id === own?.id) before.steps.push(step);
      else segments.push({ kind: 'table', steps: [step], ...(own ? { region: own } : {}) });
    }
  }
  // Shown where a newly added step would go.
  if (unseen) segments.push({ kind: 'table', steps: [], region: shown });
  return { segments, regionOf: (step) => (step.region === undefined ? undefined : regions.get(step.region)) };
}

/** Dependencies of the planes of a list of steps at a time; `show` as for {@link cut}. */
export function planesFrom(steps: readonly Step[], seconds: number, show?: string): 'nothing' | 'shapes' | 'frame' {
  const { segments } = cut(steps, seconds, show);
  if (segments.some((s) => s.kind === 'point' || (s.region && cleans(s.region.region)))) return 'frame';
  return segments.some((s) => s.region && looksAround(s.region.region)) ? 'shapes' : 'nothing';
}

/**
 * Cache key: equal for two lists of steps whose planes of one frame are equal. It covers the steps up to the last one
 * with a plane made from the frame, and all regions.
 */
export function planesKey(steps: readonly Step[], seconds: number, show?: string): string {
  const { segments } = cut(steps, seconds, show);
  const last = segments.findLastIndex((s) => s.kind === 'point' || (s.region && cleans(s.region.region)));
  const seen = segments.slice(0, last + 1).flatMap((s) => s.steps);
  return JSON.stringify([
    ...[seconds, seen, steps.filter((s) => s.kind === REGION)],
    segments.map(({ kind, region }) => [kind, region?.id]),
  ]);
}

/** Whether the effect of a segment on a pixel depends on more than its colour. */
export const isPlaced = ({ kind, region }: Segment): boolean =>
  kind === 'point' || kind === 'stencil' || (region !== undefined && looksAround(region.region));

/** Whether the mix of a segment depends on the pixel's colour. */
const byColour = ({ steps: [step], region }: Segment): boolean =>
  step.matte !== undefined || region?.region.matte !== undefined;

/** A selection by the colour on entering an op is stored in the alpha of the table before it. */
function carry(segments: Segment[], next: Segment): void {
  if (!byColour(next)) return;
  let before = segments[segments.length - 1];
  if (before?.kind !== 'table' || before.region) segments.push((before = { kind: 'table', steps: [] }));
  before.carries = next;
}

/** Times at which the effect of a grade may start or end. */
function momentsOf(steps: readonly Step[]): number[] {
  const times = new Set([0]);
  for (const { params } of steps)
    for (const v of Object.values(params)) if (isKeyframed(v)) v.keys.forEach((k) => times.add(k.seconds));
  return [...times];
}

/** Whether a grade reduces to one table without spatial dependence at all times of the clip. */
export const isOneTable = (steps: readonly Step[]): boolean =>
  momentsOf(steps).every((seconds) => {
    const { segments } = cut(steps, seconds);
    return segments.length === 0 || (segments.length === 1 && segments[0].kind === 'table' && !segments[0].region);
  });

/** The resources that a backend needs. */
export interface MaxOps {
  tables: number;
  /** Nodes per edge of the largest table, and entries of the longest curve before one. */
  size: number;
  shaper: number;
  points: number;
  /** Steps that read a pixel's neighbours, and their largest standard deviation as a share of the frame's width. */
  stencils: number;
  spread: number;
  /** Maps of frames: of spatial steps, and of regions with a cleaned selection. */
  maps: number;
  /** Shapes of regions. */
  shapes: number;
}

/**
 * The maximum number of ops of each kind that a grade has at any time of the clip; tables are baked with `size` nodes
 * per edge.
 */
export function maxOps(steps: readonly Step[], size: number): MaxOps {
  const most = { tables: 0, size, shaper: 0, points: 0, stencils: 0, spread: 0, maps: 0, shapes: 0 };
  const moments = momentsOf(steps);
  for (const seconds of moments) {
    const { segments } = cut(steps, seconds);
    const points = segments.filter((s) => s.kind === 'point').length;
    const stencils = segments.filter((s) => s.kind === 'stencil');
    most.points = Math.max(most.points, points + stencils.length);
    most.stencils = Math.max(most.stencils, stencils.length);
    for (const {
      steps: [step],
    } of stencils)
      most.spread = Math.max(most.spread, stepKind(step.kind).spread!(paramsAt(step, seconds)!));
    const clean = segments.filter((s) => s.region && cleans(s.region.region)).length;
    most.maps = Math.max(most.maps, points + clean);
    most.tables = Math.max(most.tables, segments.length - points - stencils.length);
    const regions = new Map<string, Region>(
      segments.flatMap((s) => (s.region ? [[s.region.id, s.region.region]] : [])),
    );
    most.shapes = Math.max(
      most.shapes,
      [...regions.values()].reduce((n, r) => n + r.shapes.length, 0),
    );
  }
  for (const step of steps) {
    const own = ownTable(step)?.table;
    most.size = Math.max(most.size, own?.size ?? 0);
    most.shaper = Math.max(most.shaper, own?.shaper?.size ?? 0);
  }
  if (moments.length === 1) return most;
  // Between two such times, the steps active at either may be active together and split each other's tables.
  const tables = 2 * (most.tables + most.points) + 1;
  return {
    ...most,
    tables,
    points: 2 * most.points,
    stencils: 2 * most.stencils,
    maps: 2 * most.maps,
    shapes: 2 * most.shapes,
  };
}
