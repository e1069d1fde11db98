/** Cells across in the training pictures: finer pictures are first averaged to cells of that size. */
const LEARNED_ACROSS = 192;

/** The cells that one sample covers along an edge, and their weights, which add up to 1. */
function windowAt(middle: number, size: number, count: number): { from: number; weights: number[] } {
  if (size <= 1.05) return { from: Math.min(count - 1, Math.floor(middle)), weights: [1] };
  const [low, high] = [Math.max(0, middle - size / 2), Math.min(count, middle + size / 2)];
  const from = Math.floor(low);
  const weights = Array.from(
    { length: Math.max(1, Math.ceil(high) - from) },
    (_, i) => (Math.min(high, from + i + 1) - Math.max(low, from + i)) / (high - low),
  );
  return { from, weights };
}

/** Cache of the last result: all pictures of a clip have one size, and computing it takes milliseconds. */
let lastRead: { key: string; cells: Int32Array } | undefined;

/** Indices, in order, of the cells that {@link subsample} reads for this many samples. */
export function subsampledCells(width: number, height: number, across: number, down: number): Int32Array {
  const key = [width, height, across, down].join();
  if (lastRead?.key === key) return lastRead.cells;
  const size = width / LEARNED_ACROSS;
  const along = (length: number, samples: number): number[] => {
    const read = Array.from({ length: samples }, (_, i) => windowAt(((i + 0.5) * length) / samples, size, length));
    return [...new Set(read.flatMap(({ from, weights }) => weights.map((_, i) => from + i)))];
  };
  const columns = along(width, across);
  const cells = Int32Array.from(along(height, down).flatMap((y) => columns.map((x) => y * width + x)));
  lastRead = { key, cells };
  return cells;
}

/**
 * Subsamples a picture (three numbers per cell, row-major) to `across` × `down` evenly spaced samples, each as large as
 * a cell of a picture {@link LEARNED_ACROSS} wide, so that a frame gives the same samples at any resolution.
 */
export function subsample(
  rgb: Float32Array,
  width: number,
  height: number,
  across: number,
  down: number,
): Float32Array {
  const size = width / LEARNED_ACROSS;
  const columns = Array.from({ length: across }, (_, x) => windowAt(((x + 0.5) * width) / across, size, width));
  const out = new Float32Array(3 * across * down);
  for (let y = 0, o = 0; y < down; y += 1) {
    const rows = windowAt(((y + 0.5) * height) / down, size, height);
    for (const { from, weights } of columns) {
      rows.weights.forEach((v, j) =>
        weights.forEach((u, i) => {
          const at = 3 * ((rows.from + j) * width + from + i);
          for (let c = 0; c < 3; c += 1) out[o + c] += u * v * rgb[at + c];
        }),
      );
      o += 3;
    }
  }
  return out;
}
