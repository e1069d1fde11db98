/** Where one band gives way to the next: the middle of the passage and its half width, encoded luma. */
export interface BandEdges {
  /** Between shadows and midtones. */
  low: number;
  /** Between midtones and highlights. */
  high: number;
}

/** Half of the width over which a band gives way to the next, while there is room. */
const REACH = 0.25;

/** 0 below −1, 1 above 1, no break in slope or curvature. */
function passage(t: number): number {
  if (t <= -1) return 0;
  if (t >= 1) return 1;
  const u = (t + 1) / 2;
  return u * u * u * (u * (6 * u - 15) + 10);
}

/**
 * How much a luma belongs to shadows, midtones and highlights: smooth, overlapping, never negative, and adding up to 1
 * everywhere, also beyond 0 and 1. The edges are at least {@link MIN_GAP} apart.
 */
export function bandWeights(luma: number, { low, high }: BandEdges): [number, number, number] {
  // Passages that met would leave the midtones no place of their own.
  const reach = Math.min(REACH, (high - low) / 2);
  const aboveLow = passage((luma - low) / reach);
  const aboveHigh = passage((luma - high) / reach);
  return [1 - aboveLow, aboveLow - aboveHigh, aboveHigh];
}

export const MIN_GAP = 0.1;

/** Edges in order and apart, whatever numbers they are given as. */
export function orderedEdges(low: number, high: number): BandEdges {
  if (high - low >= MIN_GAP) return { low, high };
  const middle = (low + high) / 2;
  return { low: middle - MIN_GAP / 2, high: middle + MIN_GAP / 2 };
}

/** Where shadows end and highlights begin while nobody has moved them. */
export const BAND_EDGES: BandEdges = { low: 0.3, high: 0.7 };

/** The edges among the parameters of a bands step; what is missing or keyframed counts as unmoved. */
export function bandEdgesOf({ lowEdge, highEdge }: { lowEdge?: unknown; highEdge?: unknown }): BandEdges {
  const number = (v: unknown, otherwise: number): number => (typeof v === 'number' ? v : otherwise);
  return orderedEdges(number(lowEdge, BAND_EDGES.low), number(highEdge, BAND_EDGES.high));
}
