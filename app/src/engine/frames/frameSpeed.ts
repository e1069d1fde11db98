/** Expected seconds from which a small version of a frame is fetched first. By eye, at 2 and 10 Mbit/s. */
const PATIENCE = 1.5;
/** Smaller frames are dominated by latency. */
const FEWEST_PIXELS = 50_000;

/** Transferred pixels per second; unknown before the first frame. */
let pixelsPerSecond: number | undefined;

/** Records the transfer time of a frame with this many pixels, in milliseconds from first to last byte. */
export function noteFrame(pixels: number, ms: number): void {
  if (pixels >= FEWEST_PIXELS) pixelsPerSecond = pixels / Math.max(ms / 1000, 1e-3);
}

/** Whether a frame with this many pixels will take long; true if unknown. */
export const frameTakesLong = (pixels: number): boolean =>
  pixelsPerSecond === undefined || pixels / pixelsPerSecond > PATIENCE;
