import { curveOf, MIN_APART, type CurvePoint } from '@inkavo/core/steps/curves';

/** Edge in pixels of the box for a curve, which spans 0–1 in both directions. */
export interface CurveBox {
  width: number;
  height: number;
}

const MAX_POINTS = 32;
/** Minimum distance of points, so that a finger can tell them apart. */
const APART = Math.max(MIN_APART, 0.01);
const clamp = (v: number, lo: number, hi: number): number => Math.min(hi, Math.max(lo, v));
const round = (v: number): number => Number(v.toFixed(4));

/** Index of the point within `reach` pixels of a position; −1 if there is none. */
export function nearestPoint(
  points: readonly CurvePoint[],
  x: number,
  y: number,
  box: CurveBox,
  reach: number,
): number {
  const distances = points.map((p) => Math.hypot(p.x * box.width - x, (1 - p.y) * box.height - y));
  const least = Math.min(...distances);
  return least <= reach ? distances.indexOf(least) : -1;
}

/** A new point on the curve at a column; undefined if there is no room. */
export function addPoint(
  points: readonly CurvePoint[],
  x: number,
  box: CurveBox,
): { points: CurvePoint[]; index: number } | undefined {
  const at = round(clamp(x / box.width, 0, 1));
  if (points.length >= MAX_POINTS || points.some((p) => Math.abs(p.x - at) < APART)) return undefined;
  const index = points.findIndex((p) => p.x > at);
  const place = index < 0 ? points.length : index;
  return {
    points: points.toSpliced(place, 0, { x: at, y: round(clamp(curveOf(points)(at), -0.5, 1.5)) }),
    index: place,
  };
}

/** The curve with a point moved to a position, clamped between its neighbours and to the box. */
export function movePoint(
  points: readonly CurvePoint[],
  index: number,
  x: number,
  y: number,
  box: CurveBox,
): CurvePoint[] {
  const lo = index > 0 ? points[index - 1].x + APART : 0;
  const hi = index < points.length - 1 ? points[index + 1].x - APART : 1;
  const moved = { x: round(clamp(x / box.width, lo, hi)), y: round(clamp(1 - y / box.height, 0, 1)) };
  return points.map((p, i) => (i === index ? moved : p));
}

/** The curve with new numbers (0–1) for a point, clamped between its neighbours. */
export function placePoint(points: readonly CurvePoint[], index: number, { x, y }: CurvePoint): CurvePoint[] {
  const box = { width: 1, height: 1 };
  return movePoint(points, index, x, 1 - y, box);
}

/** The curve without a point; the last two cannot be removed. */
export const removePoint = (points: readonly CurvePoint[], index: number): CurvePoint[] =>
  points.length > 2 ? points.toSpliced(index, 1) : [...points];

/** The curve as an SVG path. */
export function pathOf(curve: (x: number) => number, { width, height }: CurveBox): string {
  const steps = Math.max(2, Math.round(width / 3));
  const at = (i: number): string =>
    `${((i / steps) * width).toFixed(1)} ${((1 - curve(i / steps)) * height).toFixed(1)}`;
  return `M${Array.from({ length: steps + 1 }, (_, i) => at(i)).join('L')}`;
}
