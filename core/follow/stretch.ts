import type { Pose, PoseKey, Shape } from '../regions/shape';
import { CannotFollow, Follower, type FollowState } from './follower';
import type { Grey } from './pyramid';

/** Not sure for so long, and it is lost: within half a second it is said. */
const LOST_SECONDS = 0.4;

/** Frames in order of following: forwards or backwards. */
export interface Stretch {
  width: number;
  height: number;
  /** 8-bit luma of all frames, one after the other. */
  luma: Uint8Array;
  /** Each frame's time from the clip's first frame. */
  seconds: number[];
}

/** Between two stretches. */
export interface StretchState {
  follower: FollowState;
  /** Brings luma of the clip to a usual spread: a flat profile has little. */
  gain: number;
  /** Frames since it was sure. */
  unsure: number;
}

export interface StretchAnswer {
  /** A key for every frame in which it was sure. */
  keys: PoseKey[];
  state: StretchState;
  /** Why it ended early. */
  lost: string | null;
}

/** What following over a clip comes to. */
export interface FollowAnswer {
  /** The keys that are needed, times rising, the first pose among them. */
  keys: PoseKey[];
  /** The last frame in which it was sure, and why it ended before it was told to. */
  frame: number;
  lost: string | null;
}

/** The least spread of luma that a picture is taken to have, between its 2nd and 98th percentile. */
const LEAST_SPREAD = 0.1;
/** The spread of ordinary standard video. */
const USUAL_SPREAD = 0.7;

function gainOf(luma: Uint8Array): number {
  const counts = new Uint32Array(256);
  for (const v of luma) counts[v] += 1;
  const at = (share: number): number => {
    let sum = 0;
    for (let v = 0; v < 256; v += 1) if ((sum += counts[v]) >= share * luma.length) return v / 255;
    return 1;
  };
  return Math.max(1, USUAL_SPREAD / Math.max(LEAST_SPREAD, at(0.98) - at(0.02)));
}

/**
 * Follows a shape through a stretch of frames. `from`: the state after the stretch before, or the shape in the first
 * frame, which then is part of the stretch. Throws a {@link CannotFollow} where there is nothing to hold on to.
 */
export function followStretch(
  stretch: Stretch,
  from: StretchState | { kind: Shape['kind']; pose: Pose },
): StretchAnswer {
  const { width, height, luma, seconds } = stretch;
  const size = width * height;
  const begins = 'pose' in from;
  const gain = begins ? gainOf(luma.subarray(0, size)) : from.gain;
  const grey = (k: number): Grey => ({
    width,
    height,
    data: Float32Array.from(luma.subarray(k * size, (k + 1) * size), (v) => (v / 255) * gain),
  });
  const follower = begins ? Follower.begin(from.kind, from.pose, grey(0)) : new Follower(from.follower);
  let unsure = begins ? 0 : from.unsure;
  const keys: PoseKey[] = [];
  let lost: string | null = null;
  for (let k = begins ? 1 : 0; k < seconds.length; k += 1) {
    const { pose, sure } = follower.next(grey(k));
    unsure = sure ? 0 : unsure + 1;
    if (sure) keys.push({ ...pose, seconds: seconds[k], ease: 'linear' });
    const frame = k > 0 ? Math.abs(seconds[k] - seconds[k - 1]) : 1 / 30;
    if (unsure * frame >= LOST_SECONDS) {
      lost = 'It was lost from sight, or looks too different now.';
      break;
    }
    const inside = pose.x > -pose.width / 2 && pose.x < 1 + pose.width / 2;
    const tall = height / width;
    if (!inside || pose.y < -pose.height / 2 || pose.y > tall + pose.height / 2) {
      lost = 'It has left the picture.';
      break;
    }
  }
  return { keys, state: { follower: follower.state, gain, unsure }, lost };
}

export { CannotFollow };
