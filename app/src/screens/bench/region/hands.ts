import { toBox, toFrame, type Pose, type Shape } from '@inkavo/core/regions/shape';
import { polygonDistances } from '@inkavo/core/regions/distance';
import { outlineOf } from '@inkavo/core/regions/shape';
import type { View } from '../../../engine/picture/look';

/** Mapping of the frame to the screen: the visible part, and the box that it fills, in pixels. */
export interface Place {
  view: View;
  width: number;
  height: number;
  /** Width over height of the frame. */
  aspect: number;
}

/** A draggable handle of a shape. */
export type HandName = 'body' | 'width' | 'height' | 'turn' | 'feather' | 'size' | `point ${number}`;
export interface Hand {
  name: HandName;
  /** Pixels of the picture's box. */
  x: number;
  y: number;
}

/** Minimum distance of handles from the centre, so that fingers can tell them apart at any zoom. */
const APART = 48;
/** Distance of handles from the outline of a path, and of the rotation handle. */
const BEYOND = 40;
/** Handles outside the view are shown at its edge. */
const MARGIN = 14;

/** Pixels per share of the frame's width. */
const scaleOf = ({ view, width }: Place): number => width / view.width;

/** From shares of the frame's width to pixels of the picture's box. */
export function toPixels(place: Place, x: number, y: number): [number, number] {
  const scale = scaleOf(place);
  return [(x - place.view.x) * scale, (y - place.view.y / place.aspect) * scale];
}

/** From pixels of the picture's box to shares of the frame's width. */
export function fromPixels(place: Place, px: number, py: number): [number, number] {
  const scale = scaleOf(place);
  return [px / scale + place.view.x, py / scale + place.view.y / place.aspect];
}

const radians = (degrees: number): number => (degrees * Math.PI) / 180;

/** The handles of a shape, with their screen positions. */
export function handsOf(kind: Shape['kind'], pose: Pose, place: Place): Hand[] {
  const scale = scaleOf(place);
  const [cx, cy] = toPixels(place, pose.x, pose.y);
  const turn = radians(pose.turn);
  /** Along an axis of the shape, at the given distance in pixels, but at least the minimum. */
  const out = (name: HandName, angle: number, far: number): Hand => {
    const r = Math.max(APART, far);
    return { name, x: cx + r * Math.cos(turn + angle), y: cy + r * Math.sin(turn + angle) };
  };
  const body: Hand = { name: 'body', x: cx, y: cy };
  const [a, b] = [(pose.width / 2) * scale, (pose.height / 2) * scale];
  const soft = (pose.feather / 2) * scale;
  let hands: Hand[];
  if (kind === 'gradient') hands = [body, out('turn', 0, soft)];
  else if (kind === 'path')
    hands = [
      body,
      out('size', 0, a + BEYOND),
      out('turn', -Math.PI / 2, b + BEYOND),
      out('feather', Math.PI, a + soft + BEYOND),
      ...(pose.points ?? []).map((p, i): Hand => {
        const [x, y] = toPixels(place, ...toFrame(pose, p.x, p.y));
        return { name: `point ${i}`, x, y };
      }),
    ];
  else
    hands = [
      body,
      out('width', 0, a),
      out('height', Math.PI / 2, b),
      out('turn', -Math.PI / 2, b + BEYOND),
      out('feather', Math.PI, a + soft),
    ];
  return hands.map((h) => ({
    ...h,
    x: Math.min(place.width - MARGIN, Math.max(MARGIN, h.x)),
    y: Math.min(place.height - MARGIN, Math.max(MARGIN, h.y)),
  }));
}

/** The handle nearest to a screen position. */
export const nearestHand = (hands: readonly Hand[], x: number, y: number): Hand =>
  hands.reduce((best, h) => (Math.hypot(h.x - x, h.y - y) < Math.hypot(best.x - x, best.y - y) ? h : best));

const within = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v));

/**
 * A pose after moving a handle by this many shares of the frame's width. Relative: the finger need not be on the
 * handle.
 */
export function moved(kind: Shape['kind'], from: Pose, name: HandName, dx: number, dy: number): Pose {
  const turn = radians(from.turn);
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  // Along the shape's own axes.
  const [lx, ly] = [c * dx + s * dy, c * dy - s * dx];
  const size = (v: number): number => within(v, 0.004, 8);
  const feather = (v: number): number => within(v, 0, 2);
  if (name === 'body') return { ...from, x: within(from.x + dx, -4, 5), y: within(from.y + dy, -4, 5) };
  if (name === 'width') return { ...from, width: size(from.width + 2 * lx) };
  if (name === 'height') return { ...from, height: size(from.height + 2 * ly) };
  if (name === 'feather') return { ...from, feather: feather(from.feather - 2 * lx) };
  if (name === 'size') {
    const factor = within((from.width / 2 + lx) / (from.width / 2), 0.02, 50);
    return { ...from, width: size(from.width * factor), height: size(from.height * factor) };
  }
  if (name === 'turn') {
    // From the centre to the handle, before and after.
    const [ux, uy] = kind === 'gradient' ? [c, s] : [s, -c];
    const reach = Math.max(0.03, kind === 'gradient' ? from.feather / 2 : from.height / 2);
    const [hx, hy] = [ux * reach + dx, uy * reach + dy];
    const by = ((Math.atan2(hy, hx) - Math.atan2(uy, ux)) * 180) / Math.PI;
    const near = by > 180 ? by - 360 : by < -180 ? by + 360 : by;
    return {
      ...from,
      turn: from.turn + near,
      ...(kind === 'gradient' ? { feather: feather(2 * Math.hypot(hx, hy)) } : {}),
    };
  }
  const index = Number(name.slice('point '.length));
  const points = from.points?.map((p, i) =>
    i === index ? { ...p, x: within(p.x + lx / from.width, -4, 4), y: within(p.y + ly / from.height, -4, 4) } : p,
  );
  return { ...from, points };
}

/** Text shown while a handle moves. Pixels are those of a frame 1920 wide. */
export function handText(kind: Shape['kind'], pose: Pose, name: HandName): string {
  const px = (v: number): string => `${Math.round(v * 1920)} px`;
  if (name === 'feather') return `soft over ${px(pose.feather)}`;
  if (name === 'turn') {
    const turn = Math.round(((pose.turn % 360) + 360) % 360);
    return kind === 'gradient' ? `${turn}°, soft over ${px(pose.feather)}` : `${turn}°`;
  }
  if (name === 'body') return `${px(pose.x)}, ${px(pose.y)}`;
  if (name.startsWith('point')) return '';
  return `${px(pose.width)} × ${px(pose.height)}`;
}

/** Whether a position (shares of the frame's width) is inside a shape. */
export function holds(kind: Shape['kind'], pose: Pose, x: number, y: number): boolean {
  if (kind === 'gradient') return false;
  if (kind === 'path') return polygonDistances(outlineOf(pose), { x, y, cell: 1, width: 1, height: 1 }, 1)[0] < 0;
  const [u, v] = toBox(pose, x, y);
  return kind === 'ellipse' ? u * u + v * v < 0.25 : Math.max(Math.abs(u), Math.abs(v)) < 0.5;
}

/** Inserts a point into the outline of a path where it was tapped: between the two nearest points. */
export function withPoint(pose: Pose, x: number, y: number): Pose {
  const points = pose.points ?? [];
  const [u, v] = toBox(pose, x, y);
  let [best, at] = [Infinity, points.length];
  points.forEach((p, i) => {
    const q = points[(i + 1) % points.length];
    const [dx, dy] = [q.x - p.x, q.y - p.y];
    const t = within(((u - p.x) * dx + (v - p.y) * dy) / (dx * dx + dy * dy || 1), 0, 1);
    const away = Math.hypot(u - p.x - t * dx, v - p.y - t * dy);
    if (away < best) [best, at] = [away, i + 1];
  });
  return { ...pose, points: points.toSpliced(at, 0, { x: u, y: v, sharp: false }) };
}

/** The outline of a shape in pixels of the picture's box, as an SVG path; three lines for a gradient. */
export function outlinePath(kind: Shape['kind'], pose: Pose, place: Place): string {
  const at = (u: number, v: number): string => {
    const [x, y] = toPixels(place, ...toFrame(pose, u, v));
    return `${x.toFixed(1)},${y.toFixed(1)}`;
  };
  if (kind === 'ellipse')
    return `M${Array.from({ length: 64 }, (_, i) => at(0.5 * Math.cos((i * Math.PI) / 32), 0.5 * Math.sin((i * Math.PI) / 32))).join('L')}Z`;
  if (kind === 'rectangle')
    return `M${roundedCorners(pose)
      .map(([u, v]) => at(u, v))
      .join('L')}Z`;
  if (kind === 'path') {
    const outline = outlineOf(pose);
    const points = Array.from({ length: outline.length / 2 }, (_, i) => {
      const [x, y] = toPixels(place, outline[2 * i], outline[2 * i + 1]);
      return `${x.toFixed(1)},${y.toFixed(1)}`;
    });
    return `M${points.join('L')}Z`;
  }
  const turn = radians(pose.turn);
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  return [-0.5, 0, 0.5]
    .map((k) => {
      const [x, y] = [pose.x + k * pose.feather * c, pose.y + k * pose.feather * s];
      const far = k === 0 ? 3 : 0.12;
      const [p, q] = [toPixels(place, x - far * s, y + far * c), toPixels(place, x + far * s, y - far * c)];
      return `M${p.map((v) => v.toFixed(1)).join(',')}L${q.map((v) => v.toFixed(1)).join(',')}`;
    })
    .join('');
}

function roundedCorners({ width, height, round }: Pose): [number, number][] {
  const r = (round * Math.min(width, height)) / 2;
  const [rx, ry] = [r / width, r / height];
  const corners = [
    [0.5 - rx, 0.5 - ry, 0],
    [-0.5 + rx, 0.5 - ry, 90],
    [-0.5 + rx, -0.5 + ry, 180],
    [0.5 - rx, -0.5 + ry, 270],
  ];
  return corners.flatMap(([u, v, from]) =>
    Array.from({ length: 7 }, (_, i): [number, number] => {
      const angle = radians(from + 15 * i);
      return [u + rx * Math.cos(angle), v + ry * Math.sin(angle)];
    }),
  );
}
