import { z } from 'zod';
import { monotoneCubic, type Tone } from '../shared/tone';
import type { StepKind } from '../types';

const CURVES = ['all', 'red', 'green', 'blue'] as const;

/** A point of a curve: encoded value in, encoded value out. */
const pointSchema = z.object({ x: z.number().min(-0.1).max(1.2), y: z.number().min(-0.5).max(1.5) });
export type CurvePoint = z.infer<typeof pointSchema>;

/** Points with inputs closer than this cannot be distinguished. */
export const MIN_APART = 0.002;
const IDENTITY: CurvePoint[] = [
  { x: 0, y: 0 },
  { x: 1, y: 1 },
];

export const curveSchema = z
  .array(pointSchema)
  .min(2, 'A curve needs two points at least.')
  .max(32, 'A curve has at most 32 points.')
  .refine(
    (points) => points.every((p, i) => i === 0 || p.x - points[i - 1].x >= MIN_APART),
    'The points of a curve must come in order, each a little after the one before.',
  );

const schema = z.object({
  all: curveSchema.default(IDENTITY),
  red: curveSchema.default(IDENTITY),
  green: curveSchema.default(IDENTITY),
  blue: curveSchema.default(IDENTITY),
});
type Params = z.infer<typeof schema>;

const isIdentity = (points: readonly CurvePoint[]): boolean => points.every((p) => p.x === p.y);
/** A monotone curve through its points: Fritsch, Carlson (1980). */
export const curveOf = (points: readonly CurvePoint[]): Tone =>
  isIdentity(points)
    ? (x) => x
    : monotoneCubic(
        points.map((p) => p.x),
        points.map((p) => p.y),
      );

/** Curves on encoded values: one for all channels, then one for each. */
export const curves: StepKind<Params> = {
  kind: 'curves',
  title: 'Curves',
  help: 'Bends tones through points: for all channels, and for red, green and blue alone.',
  domain: 'encoded',
  schema,
  numbers: [],
  neutral: schema.parse({}),
  isNeutral: (p) => CURVES.every((c) => isIdentity(p[c])),
  prepare(p) {
    const all = curveOf(p.all);
    const own = [curveOf(p.red), curveOf(p.green), curveOf(p.blue)];
    return (rgb) => {
      for (let i = 0; i < 3; i += 1) rgb[i] = own[i](all(rgb[i]));
    };
  },
  summary(p) {
    const changed = CURVES.filter((c) => !isIdentity(p[c]));
    return changed.length ? changed.join(', ') : 'neutral';
  },
};
