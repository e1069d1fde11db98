/** Longer than this, in seconds, and a small picture of a frame comes first. By eye, at 2 and 10 Mbit/s. */
const PATIENCE = 1.5;
/** Smaller ones tell little: most of their time is the way there and back. */
const FEWEST_PIXELS = 50_000;

/** Pixels of frames that came in a second; unknown before the first. */
let pixelsPerSecond: number | undefined;

/** Notes how long a frame of so many pixels was under way, in milliseconds from its first byte to its last. */
export function noteFrame(pixels: number, ms: number): void {
  if (pixels >= FEWEST_PIXELS) pixelsPerSecond = pixels / Math.max(ms / 1000, 1e-3);
}

/** Whether a frame of so many pixels will take long; where it is not known yet, it might. */
export const frameTakesLong = (pixels: number): boolean =>
  pixelsPerSecond === undefined || pixels / pixelsPerSecond > PATIENCE;
