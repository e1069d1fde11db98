/** A 3×3 matrix in row-major order: nine numbers. */
export type Mat3 = readonly [number, number, number, number, number, number, number, number, number];
/** Three numbers: a colour, a tristimulus value or a column of a matrix. */
export type Vec3 = [number, number, number];

export const IDENTITY3: Mat3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** The product a·b (b is applied first). */
export function multiply(a: Mat3, b: Mat3): Mat3 {
  const out: number[] = [];
  for (let row = 0; row < 3; row += 1) {
    for (let col = 0; col < 3; col += 1) {
      out.push(a[row * 3] * b[col] + a[row * 3 + 1] * b[3 + col] + a[row * 3 + 2] * b[6 + col]);
    }
  }
  return out as unknown as Mat3;
}

/** The product m·v. */
export function transform(m: Mat3, v: Readonly<Vec3>): Vec3 {
  return [
    m[0] * v[0] + m[1] * v[1] + m[2] * v[2],
    m[3] * v[0] + m[4] * v[1] + m[5] * v[2],
    m[6] * v[0] + m[7] * v[1] + m[8] * v[2],
  ];
}

/** The same as {@link transform}, written back into `v`: for inner loops. */
export function transformInPlace(m: Mat3, v: Vec3): void {
  const [x, y, z] = v;
  v[0] = m[0] * x + m[1] * y + m[2] * z;
  v[1] = m[3] * x + m[4] * y + m[5] * z;
  v[2] = m[6] * x + m[7] * y + m[8] * z;
}

/** The inverse of m. Throws a RangeError when m is singular. */
export function invert(m: Mat3): Mat3 {
  const [a, b, c, d, e, f, g, h, i] = m;
  const A = e * i - f * h;
  const B = f * g - d * i;
  const C = d * h - e * g;
  const det = a * A + b * B + c * C;
  if (!Number.isFinite(det) || Math.abs(det) < 1e-15) throw new RangeError('The matrix has no inverse.');
  const s = 1 / det;
  return [
    A * s,
    (c * h - b * i) * s,
    (b * f - c * e) * s,
    B * s,
    (a * i - c * g) * s,
    (c * d - a * f) * s,
    C * s,
    (b * g - a * h) * s,
    (a * e - b * d) * s,
  ];
}

/** A matrix with d on its diagonal. */
export const diagonal = (d: Readonly<Vec3>): Mat3 => [d[0], 0, 0, 0, d[1], 0, 0, 0, d[2]];
