import { poseAt, type Pose, type PoseKey } from '../regions/shape';
import { thin } from '../model/thin';

/** How far a pose may be off from what was followed: a thousandth of the frame's width, half a degree, half a hundredth of the size. */
const PLACE = 0.001;
const TURN = 0.5;
const SIZE = 0.005;

/** How many times its limit the worst of a pose's numbers is off. */
function off(a: Pose, b: Pose): number {
  return Math.max(
    Math.hypot(a.x - b.x, a.y - b.y) / PLACE,
    Math.abs(a.turn - b.turn) / TURN,
    Math.abs(Math.log(a.width / b.width)) / SIZE,
  );
}

/** The keys that are needed: without the others every pose stays where it was. Linear between. */
export const thinKeys = (keys: readonly PoseKey[]): PoseKey[] =>
  thin(keys, (from, to, key) => off(poseAt({ keys: [from, to] }, key.seconds), key));
