import { z } from 'zod';

/**
 * Position of a shape. All lengths, also vertical ones, are shares of the frame's width, so that they do not depend on
 * proxy, crop and size; coordinates are relative to the frame's upper left corner.
 */
export const poseSchema = z.object({
  x: z.number().min(-4).max(5),
  y: z.number().min(-4).max(5),
  /** Full width and height. A gradient has none. */
  width: z.number().min(0.002).max(8).default(0.3),
  height: z.number().min(0.002).max(8).default(0.3),
  /** Clockwise, in degrees. The direction in which a gradient falls off: 0 is to the right. */
  turn: z.number().min(-36000).max(36000).default(0),
  /** Corner radius of a rectangle as a share of half the shorter side. */
  round: z.number().min(0).max(1).default(0.2),
  /** Width of the soft edge, centred on the outline. For a gradient its whole length. */
  feather: z.number().min(0).max(2).default(0.05),
  /** Points of a path in its own box, whose sides are at ±0.5. */
  points: z
    .array(z.object({ x: z.number().min(-4).max(4), y: z.number().min(-4).max(4), sharp: z.boolean().default(false) }))
    .min(3)
    .max(64)
    .optional(),
});
export type Pose = z.infer<typeof poseSchema>;

/** The state of a shape at one time. */
export const poseKeySchema = poseSchema.extend({
  /** Seconds from the clip's first frame. */
  seconds: z.number().min(0),
  ease: z.enum(['linear', 'smooth']).default('linear'),
});
export type PoseKey = z.infer<typeof poseKeySchema>;

export const SHAPE_KINDS = ['ellipse', 'rectangle', 'path', 'gradient'] as const;
export const SHAPE_MODES = ['add', 'subtract', 'intersect'] as const;

export const shapeSchema = z
  .object({
    id: z.string().regex(/^[\w-]{1,64}$/),
    kind: z.enum(SHAPE_KINDS),
    mode: z.enum(SHAPE_MODES).default('add'),
    inverted: z.boolean().default(false),
    /** A single key: the shape does not move. */
    keys: z
      .array(poseKeySchema)
      .min(1)
      .max(4000)
      .refine((keys) => keys.every((k, i) => i === 0 || k.seconds > keys[i - 1].seconds), 'Keyframe times must rise.'),
  })
  .refine((s) => s.kind !== 'path' || s.keys.every((k) => k.points), 'A path has at least three points.');
export type Shape = z.infer<typeof shapeSchema>;
export type ShapeKind = Shape['kind'];

const blend = (a: number, b: number, t: number): number => a + t * (b - a);

/** A shape at a time; constant before its first and after its last key. */
export function poseAt({ keys }: Pick<Shape, 'keys'>, seconds: number): Pose {
  const last = keys[keys.length - 1];
  if (seconds <= keys[0].seconds) return keys[0];
  if (seconds >= last.seconds) return last;
  let i = 0;
  while (seconds >= keys[i + 1].seconds) i += 1;
  const [a, b] = [keys[i], keys[i + 1]];
  let t = (seconds - a.seconds) / (b.seconds - a.seconds);
  if (a.ease === 'smooth') t *= t * (3 - 2 * t);
  // Sizes are interpolated geometrically: that matches something approaching at constant speed.
  const size = (from: number, to: number): number => from * (to / from) ** t;
  const points =
    a.points && b.points?.length === a.points.length
      ? a.points.map((p, k) => ({ ...p, x: blend(p.x, b.points![k].x, t), y: blend(p.y, b.points![k].y, t) }))
      : a.points;
  return {
    x: blend(a.x, b.x, t),
    y: blend(a.y, b.y, t),
    width: size(a.width, b.width),
    height: size(a.height, b.height),
    turn: blend(a.turn, b.turn, t),
    round: blend(a.round, b.round, t),
    feather: blend(a.feather, b.feather, t),
    ...(points ? { points } : {}),
  };
}

/** Times closer than this, in seconds, are equal: less than half a frame at 120 frames per second. */
const SAME = 0.004;

export const poseKeyAt = ({ keys }: Pick<Shape, 'keys'>, seconds: number): PoseKey | undefined =>
  keys.find((k) => Math.abs(k.seconds - seconds) < SAME);

/** Sets a shape's pose at a time. A shape with a single key is changed as a whole, unless `keyed`. */
export function withPose(shape: Shape, seconds: number, pose: Pose, keyed = false): Shape {
  const still = shape.keys.length === 1 && !keyed;
  const here = still ? shape.keys[0] : poseKeyAt(shape, seconds);
  if (here) return { ...shape, keys: shape.keys.map((k) => (k === here ? { ...k, ...pose } : k)) };
  const before = shape.keys.findLast((k) => k.seconds < seconds) ?? shape.keys[0];
  const keys = [...shape.keys, { ...pose, seconds: Math.max(0, seconds), ease: before.ease }];
  return { ...shape, keys: keys.sort((a, b) => a.seconds - b.seconds) };
}

const radians = (degrees: number): number => (degrees * Math.PI) / 180;

/** From a shape's own box (sides at ±0.5) to the frame, in shares of the frame's width. */
export function toFrame({ x, y, width, height, turn }: Pose, u: number, v: number): [number, number] {
  const [c, s] = [Math.cos(radians(turn)), Math.sin(radians(turn))];
  const [px, py] = [u * width, v * height];
  return [x + c * px - s * py, y + s * px + c * py];
}

/** From the frame to a shape's own box. */
export function toBox({ x, y, width, height, turn }: Pose, px: number, py: number): [number, number] {
  const [c, s] = [Math.cos(radians(turn)), Math.sin(radians(turn))];
  const [dx, dy] = [px - x, py - y];
  return [(c * dx + s * dy) / width, (c * dy - s * dx) / height];
}

/** Number of line segments per curve segment. */
const PIECES = 12;

/**
 * The outline of a path as points (x and y interleaved), in shares of the frame's width: straight towards sharp points,
 * a Catmull-Rom curve (Catmull, Rom 1974) through the others.
 */
export function outlineOf(pose: Pose): Float64Array {
  const points = pose.points ?? [];
  const n = points.length;
  const out: number[] = [];
  for (let k = 0; k < n; k += 1) {
    const [p0, p1, p2, p3] = [points[(k + n - 1) % n], points[k], points[(k + 1) % n], points[(k + 2) % n]];
    const pieces = p1.sharp && p2.sharp ? 1 : PIECES;
    for (let i = 0; i < pieces; i += 1) {
      const t = i / pieces;
      const at = (axis: 'x' | 'y'): number => {
        const [from, to] = [p1[axis], p2[axis]];
        // A sharp point has no tangent of its own: the curve leaves it towards the other end.
        const m1 = p1.sharp ? to - from : (to - p0[axis]) / 2;
        const m2 = p2.sharp ? to - from : (p3[axis] - from) / 2;
        const [t2, t3] = [t * t, t * t * t];
        return (2 * t3 - 3 * t2 + 1) * from + (t3 - 2 * t2 + t) * m1 + (3 * t2 - 2 * t3) * to + (t3 - t2) * m2;
      };
      out.push(...toFrame(pose, at('x'), at('y')));
    }
  }
  return Float64Array.from(out);
}
