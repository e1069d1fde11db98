import type { Step } from '../model/grade';
import { bake } from '../program/bake';
import { changesOverTime, compile, TABLE_DOMAIN } from '../program/compile';
import { through } from '../program/evaluate';
import { cut, isPlaced, paramsAt } from '../program/plan';
import type { PointFn } from '../steps';
import { stepKind } from '../steps';
import type { ProcessList } from './clf/types';
import type { Lut } from './cube';
import { FormatError } from './error';

/** Sizes of tables for grades. */
export const LUT_SIZES = [17, 33, 65] as const;

/** Steps that depend on the position in the picture, or on other frames. */
const placedSteps = (steps: readonly Step[]): Step[] => [
  ...steps.filter((s) => stepKind(s.kind).ofSource && paramsAt(s, 0)),
  ...cut(steps, 0)
    .segments.filter(isPlaced)
    .flatMap((s) => s.steps),
];

/** A grade as one function of a colour. Throws a {@link FormatError} that names what no table can express. */
function functionOf(steps: readonly Step[]): PointFn {
  if (changesOverTime(steps)) throw new FormatError('This grade changes over the clip, which a table cannot hold.');
  const placed = placedSteps(steps);
  const names = [...new Set(placed.map((s) => s.label ?? stepKind(s.kind).title))];
  const others = placed.filter((s) => stepKind(s.kind).ofSource).length;
  const on = [
    ...(placed.length > others ? ['on the place in the picture'] : []),
    ...(others ? ['on other frames'] : []),
  ];
  if (names.length > 0)
    throw new FormatError(
      `${names.join(' and ')} ${names.length > 1 ? 'depend' : 'depends'} ${on.join(' or ')}, which a table cannot hold. Without ${names.length > 1 ? 'them' : 'it'} the rest can be written.`,
    );
  const run = through(compile(steps, 0).ops);
  return (rgb) => run(rgb);
}

/** Steps that a table can express, and the names of those that depend on position or change over the clip. */
export function fitInTable(steps: readonly Step[]): { kept: Step[]; lost: string[] } {
  const placed = new Set(placedSteps(steps).map((s) => s.id));
  const fits = (s: Step): boolean => !placed.has(s.id) && !changesOverTime([s]);
  const lost = steps.filter((s) => !fits(s)).map((s) => s.label ?? stepKind(s.kind).title);
  return { kept: steps.filter(fits), lost };
}

/**
 * A grade as a 3D table over code values 0–1 (0 = reference black, 1 = reference white of the file), giving encoded
 * BT.709 values clipped to 0–1. Super-whites of a file are clamped: a `.cube` file cannot express them. Throws a {@link
 * FormatError} for a grade that changes over the clip or the picture.
 */
export function gradeToLut(steps: readonly Step[], size: number, title: string): Lut {
  const evaluate = functionOf(steps);
  const table = bake({ kind: 'table', domain: [0, 1], evaluate }, size);
  const data = new Float32Array(size ** 3 * 3);
  for (let i = 0, o = 0; i < table.data.length; i += 4) {
    for (let c = 0; c < 3; c += 1, o += 1) data[o] = Math.min(1, Math.max(0, table.data[i + c]));
  }
  return { title, dimensions: 3, size, domainMin: [0, 0, 0], domainMax: [1, 1, 1], data };
}

/**
 * A grade as a Common LUT Format list: the code values that video files hold, including those below 0 and above 1, are
 * scaled to 0–1 by a matrix, followed by a cube. Nothing is clipped, so super-whites are graded as in the application.
 * Throws a {@link FormatError} for a grade that changes over the clip or the picture.
 */
export function gradeToClf(steps: readonly Step[], size: number, title: string): ProcessList {
  const evaluate = functionOf(steps);
  const table = bake({ kind: 'table', domain: TABLE_DOMAIN, evaluate }, size);
  const data = new Float64Array(size ** 3 * 3);
  for (let i = 0; i < size ** 3; i += 1) for (let c = 0; c < 3; c += 1) data[3 * i + c] = table.data[4 * i + c];
  const [low, high] = TABLE_DOMAIN;
  const scale = 1 / (high - low);
  const row = (c: number) => [0, 1, 2].map((k) => (k === c ? scale : 0)).concat(-low * scale);
  return {
    id: 'grade',
    name: title,
    nodes: [
      { kind: 'matrix', rows: [row(0), row(1), row(2)] as never },
      { kind: 'lut3d', size, data, interpolation: 'tetrahedral' },
    ],
  };
}
