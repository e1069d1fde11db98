import { poseAt, type Pose, type PoseKey } from '../regions/shape';

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

/** The keys that are needed: without the others every pose stays where it was (Douglas, Peucker 1973). Linear between. */
export function thinKeys(keys: readonly PoseKey[]): PoseKey[] {
  if (keys.length < 3) return [...keys];
  const keep = new Set([0, keys.length - 1]);
  const split = (from: number, to: number): void => {
    const ends = { keys: [keys[from], keys[to]] };
    let [worst, at] = [1, -1];
    for (let i = from + 1; i < to; i += 1) {
      const v = off(poseAt(ends, keys[i].seconds), keys[i]);
      if (v > worst) [worst, at] = [v, i];
    }
    if (at < 0) return;
    keep.add(at);
    split(from, at);
    split(at, to);
  };
  split(0, keys.length - 1);
  return keys.filter((_, i) => keep.has(i));
}
