import { poseAt, type Pose, type PoseKey } from '../regions/shape';
import { simplify } from '../model/simplify';

/**
 * Maximum deviation of a pose from the tracked one: a thousandth of the frame's width, half a degree, half a percent of
 * the size.
 */
const PLACE = 0.001;
const TURN = 0.5;
const SIZE = 0.005;

/** The largest deviation among a pose's numbers, as a multiple of its tolerance. */
function off(a: Pose, b: Pose): number {
  return Math.max(
    Math.hypot(a.x - b.x, a.y - b.y) / PLACE,
    Math.abs(a.turn - b.turn) / TURN,
    Math.abs(Math.log(a.width / b.width)) / SIZE,
  );
}

/** The keys needed to reproduce every pose within tolerance, with linear interpolation. */
export const simplifyKeys = (keys: readonly PoseKey[]): PoseKey[] =>
  simplify(keys, (from, to, key) => off(poseAt({ keys: [from, to] }, key.seconds), key));
