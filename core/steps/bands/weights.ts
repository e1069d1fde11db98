/** Crossover between two bands: its centre, and its half width in encoded luma. */
export interface BandEdges {
  /** Between shadows and midtones. */
  low: number;
  /** Between midtones and highlights. */
  high: number;
}

/** Default half width of a crossover. */
const REACH = 0.25;

/** 0 below −1, 1 above 1, smooth in slope and curvature. */
function passage(t: number): number {
  if (t <= -1) return 0;
  if (t >= 1) return 1;
  const u = (t + 1) / 2;
  return u * u * u * (u * (6 * u - 15) + 10);
}

/**
 * Weights of shadows, midtones and highlights for a luma: smooth, overlapping, non-negative, and adding up to 1
 * everywhere, also outside 0–1. The edges are at least {@link MIN_GAP} apart.
 */
export function bandWeights(luma: number, { low, high }: BandEdges): [number, number, number] {
  // Touching crossovers would leave no room for the midtones.
  const reach = Math.min(REACH, (high - low) / 2);
  const aboveLow = passage((luma - low) / reach);
  const aboveHigh = passage((luma - high) / reach);
  return [1 - aboveLow, aboveLow - aboveHigh, aboveHigh];
}

export const MIN_GAP = 0.1;

/** Edges sorted and separated, for any input. */
export function orderedEdges(low: number, high: number): BandEdges {
  if (high - low >= MIN_GAP) return { low, high };
  const middle = (low + high) / 2;
  return { low: middle - MIN_GAP / 2, high: middle + MIN_GAP / 2 };
}

/** Default edges of shadows and highlights. */
export const BAND_EDGES: BandEdges = { low: 0.3, high: 0.7 };

/** The edges in the parameters of a bands step; missing or keyframed ones count as default. */
export function bandEdgesOf({ lowEdge, highEdge }: { lowEdge?: unknown; highEdge?: unknown }): BandEdges {
  const number = (v: unknown, otherwise: number): number => (typeof v === 'number' ? v : otherwise);
  return orderedEdges(number(lowEdge, BAND_EDGES.low), number(highEdge, BAND_EDGES.high));
}
