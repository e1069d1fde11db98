/** A similarity transform (translation, scale, rotation): (x, y) maps to (a·x − b·y + x0, b·x + a·y + y0). */
export interface Similarity {
  a: number;
  b: number;
  x: number;
  y: number;
}

export const STAY: Similarity = { a: 1, b: 0, x: 0, y: 0 };

export const applySimilarity = ({ a, b, x, y }: Similarity, px: number, py: number): [number, number] => [
  a * px - b * py + x,
  b * px + a * py + y,
];

/** First `first`, then `then`. */
export function after(then: Similarity, first: Similarity): Similarity {
  const [x, y] = applySimilarity(then, first.x, first.y);
  return { a: then.a * first.a - then.b * first.b, b: then.b * first.a + then.a * first.b, x, y };
}

export const sizeOf = ({ a, b }: Similarity): number => Math.hypot(a, b);
/** Degrees, clockwise on screen. */
export const turnOf = ({ a, b }: Similarity): number => (Math.atan2(b, a) * 180) / Math.PI;

export interface Pair {
  from: { x: number; y: number };
  to: { x: number; y: number };
}

/** The least-squares similarity of point pairs (Umeyama 1991 for the plane); at least two pairs. */
export function fitSimilarity(pairs: readonly Pair[]): Similarity {
  const n = pairs.length;
  let [fx, fy, tx, ty] = [0, 0, 0, 0];
  for (const { from, to } of pairs) {
    fx += from.x / n;
    fy += from.y / n;
    tx += to.x / n;
    ty += to.y / n;
  }
  let [dot, cross, square] = [0, 0, 0];
  for (const { from, to } of pairs) {
    const [ux, uy, vx, vy] = [from.x - fx, from.y - fy, to.x - tx, to.y - ty];
    dot += ux * vx + uy * vy;
    cross += ux * vy - uy * vx;
    square += ux * ux + uy * uy;
  }
  const [a, b] = square > 0 ? [dot / square, cross / square] : [1, 0];
  return { a, b, x: tx - a * fx + b * fy, y: ty - b * fx - a * fy };
}

const offOf = (s: Similarity, { from, to }: Pair): number => {
  const [x, y] = applySimilarity(s, from.x, from.y);
  return Math.hypot(x - to.x, y - to.y);
};

/**
 * The similarity with the largest consensus within `tolerance`, robust to outliers (RANSAC with samples of two:
 * Fischler, Bolles 1981; refined on the inliers). Deterministic. Null for fewer than three inliers.
 */
export function robustSimilarity(
  pairs: readonly Pair[],
  tolerance: number,
): { fit: Similarity; agree: boolean[]; count: number } | null {
  if (pairs.length < 3) return null;
  let seed = 12345;
  const random = (): number => {
    seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
    return seed / 2 ** 32;
  };
  let best: { fit: Similarity; count: number } = { fit: STAY, count: 0 };
  for (let round = 0; round < 120; round += 1) {
    const [i, j] = [Math.floor(random() * pairs.length), Math.floor(random() * pairs.length)];
    const [p, q] = [pairs[i].from, pairs[j].from];
    // Two points close together do not determine scale and rotation.
    if (Math.hypot(p.x - q.x, p.y - q.y) < 4) continue;
    const fit = fitSimilarity([pairs[i], pairs[j]]);
    const count = pairs.reduce((n, pair) => n + (offOf(fit, pair) < tolerance ? 1 : 0), 0);
    if (count > best.count) best = { fit, count };
  }
  for (let round = 0; round < 3; round += 1) {
    const near = pairs.filter((pair) => offOf(best.fit, pair) < tolerance);
    if (near.length < 3) return null;
    best = { fit: fitSimilarity(near), count: near.length };
  }
  const agree = pairs.map((pair) => offOf(best.fit, pair) < tolerance);
  return { fit: best.fit, agree, count: agree.filter(Boolean).length };
}
