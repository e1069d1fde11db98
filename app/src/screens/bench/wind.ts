/** Distance from the play button, in pixels, for full shuttle speed. */
const FULL = 150;
const SLOWEST = 0.1;
const FASTEST = 16;

/** Shuttle speed for a drag by `dx` pixels, relative to the recorded speed: backwards to the left. */
export function windSpeed(dx: number): number {
  const share = Math.min(1, Math.abs(dx) / FULL);
  if (share === 0) return 0;
  return Math.sign(dx) * SLOWEST * (FASTEST / SLOWEST) ** share;
}
