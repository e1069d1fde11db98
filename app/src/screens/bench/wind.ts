/** A finger that has moved so far from the play button winds at full speed, in pixels. */
const FULL = 150;
const SLOWEST = 0.1;
const FASTEST = 16;

/** How fast a drag by `dx` pixels winds, in times the recorded speed: backwards to the left, faster the further away. */
export function windSpeed(dx: number): number {
  const share = Math.min(1, Math.abs(dx) / FULL);
  if (share === 0) return 0;
  return Math.sign(dx) * SLOWEST * (FASTEST / SLOWEST) ** share;
}
