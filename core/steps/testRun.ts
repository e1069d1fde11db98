import fc from 'fast-check';
import type { Vec3 } from '../colour/matrix';

/** Applies a step kind to one colour. */
export const run = <P extends object>(
  kind: { schema: { parse(v: unknown): P }; prepare(p: P): (rgb: Vec3) => void },
  params: object,
  rgb: Vec3,
): Vec3 => {
  const out: Vec3 = [...rgb];
  kind.prepare(kind.schema.parse(params))(out);
  return out;
};
export const expectNear = (a: Vec3, b: Vec3, digits = 9): void =>
  a.forEach((v, i) => expect(v).toBeCloseTo(b[i], digits));
/** Any colour, also outside 0–1. */
export const colour = fc.tuple(
  ...[0, 1, 2].map(() => fc.double({ min: -0.3, max: 2.5, noNaN: true })),
) as fc.Arbitrary<Vec3>;
