/**
 * Signed distances to outlines, negative inside. Positions and sizes share one arbitrary unit; the outline is centred
 * on the origin, unrotated.
 */

/**
 * Distance to an ellipse with semi-axes a and b, by following the evolute (four iterations, within 1e-4 of the larger
 * axis). Beyond `reach` it may be clamped to ±reach.
 */
export function ellipseDistance(x: number, y: number, a: number, b: number, reach = Infinity): number {
  const [px, py] = [Math.abs(x), Math.abs(y)];
  // A scaled ellipse through the point is nowhere closer than along its shorter axis.
  const size = Math.sqrt((px / a) ** 2 + (py / b) ** 2) - 1;
  if (Math.abs(size) * Math.min(a, b) > reach) return size < 0 ? -reach : reach;
  let tx = Math.SQRT1_2;
  let ty = Math.SQRT1_2;
  const fold = a * a - b * b;
  for (let i = 0; i < 4; i += 1) {
    // The centre of curvature there, and the outline relative to it.
    const ex = (fold * tx * tx * tx) / a;
    const ey = (-fold * ty * ty * ty) / b;
    const [rx, ry] = [a * tx - ex, b * ty - ey];
    const [qx, qy] = [px - ex, py - ey];
    const r = Math.sqrt(rx * rx + ry * ry);
    const q = Math.sqrt(qx * qx + qy * qy);
    if (q < 1e-12) break;
    tx = Math.min(1, Math.max(0, ((qx * r) / q + ex) / a));
    ty = Math.min(1, Math.max(0, ((qy * r) / q + ey) / b));
    const t = Math.sqrt(tx * tx + ty * ty);
    tx /= t;
    ty /= t;
  }
  const [dx, dy] = [px - a * tx, py - b * ty];
  const away = Math.sqrt(dx * dx + dy * dy);
  const inside = (px / a) ** 2 + (py / b) ** 2 < 1;
  return inside ? -away : away;
}

/** Distance to a rectangle with half sides a and b and this corner radius. */
export function rectangleDistance(x: number, y: number, a: number, b: number, radius: number): number {
  const qx = Math.abs(x) - a + radius;
  const qy = Math.abs(y) - b + radius;
  const outside = Math.sqrt(Math.max(qx, 0) ** 2 + Math.max(qy, 0) ** 2);
  return outside + Math.min(0, Math.max(qx, qy)) - radius;
}

/** A grid of cells: centre of the first one, and spacing. */
export interface Grid {
  x: number;
  y: number;
  cell: number;
  width: number;
  height: number;
}

/**
 * Distances to a closed polygon (x and y interleaved), at the cells of a grid; clamped to ±reach. Nonzero winding rule.
 */
export function polygonDistances(
  points: Float64Array,
  { x, y, cell, width, height }: Grid,
  reach: number,
): Float32Array {
  const count = points.length / 2;
  const squares = new Float32Array(width * height).fill(reach * reach);
  const clampTo = (v: number, top: number): number => Math.min(top, Math.max(0, v));
  for (let k = 0; k < count; k += 1) {
    const [ax, ay] = [points[2 * k], points[2 * k + 1]];
    const next = (k + 1) % count;
    const [bx, by] = [points[2 * next] - ax, points[2 * next + 1] - ay];
    const length = bx * bx + by * by;
    const low = clampTo(Math.floor((Math.min(ay, ay + by) - reach - y) / cell), height - 1);
    const high = clampTo(Math.ceil((Math.max(ay, ay + by) + reach - y) / cell), height - 1);
    const left = clampTo(Math.floor((Math.min(ax, ax + bx) - reach - x) / cell), width - 1);
    const right = clampTo(Math.ceil((Math.max(ax, ax + bx) + reach - x) / cell), width - 1);
    for (let row = low; row <= high; row += 1) {
      const py = y + row * cell - ay;
      for (let column = left, i = row * width + left; column <= right; column += 1, i += 1) {
        const px = x + column * cell - ax;
        let t = length > 0 ? (px * bx + py * by) / length : 0;
        t = t < 0 ? 0 : t > 1 ? 1 : t;
        const [dx, dy] = [px - t * bx, py - t * by];
        const d = dx * dx + dy * dy;
        if (d < squares[i]) squares[i] = d;
      }
    }
  }
  const inside = windings(points, { x, y, cell, width, height });
  return squares.map((d, i) => (inside[i] ? -Math.sqrt(d) : Math.sqrt(d)));
}

/** Winding number at each cell. */
function windings(points: Float64Array, { x, y, cell, width, height }: Grid): Int16Array {
  const count = points.length / 2;
  const out = new Int16Array(width * height);
  for (let row = 0; row < height; row += 1) {
    const py = y + row * cell;
    for (let k = 0; k < count; k += 1) {
      const next = (k + 1) % count;
      const [ay, by] = [points[2 * k + 1], points[2 * next + 1]];
      if (ay <= py === by <= py) continue;
      const across = points[2 * k] + ((py - ay) / (by - ay)) * (points[2 * next] - points[2 * k]);
      // Marks the crossing; a prefix sum propagates it to all cells on the right.
      const column = Math.max(0, Math.ceil((across - x) / cell));
      if (column < width) out[row * width + column] += by > ay ? 1 : -1;
    }
    for (let column = 1, i = row * width + 1; column < width; column += 1, i += 1) out[i] += out[i - 1];
  }
  return out;
}
