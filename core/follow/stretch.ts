import type { Pose, PoseKey, Shape } from '../regions/shape';
import { CannotFollow, Follower, type FollowState } from './follower';
import type { Grey } from './pyramid';

/** Seconds of unreliable tracking after which it counts as lost; reported within half a second. */
const LOST_SECONDS = 0.4;

/** Frames in tracking order: forwards or backwards. */
export interface Stretch {
  width: number;
  height: number;
  /** 8-bit luma of all frames, concatenated. */
  luma: Uint8Array;
  /** Each frame's time from the clip's first frame. */
  seconds: number[];
}

/** State between two stretches. */
export interface StretchState {
  follower: FollowState;
  /** Gain that normalises the clip's luma spread: flat profiles have little contrast. */
  gain: number;
  /** Frames since the last reliable one. */
  unsure: number;
}

export interface StretchAnswer {
  /** A key for every reliable frame. */
  keys: PoseKey[];
  state: StretchState;
  /** Why it stopped early. */
  lost: string | null;
}

/** The result of following over a clip. */
export interface FollowAnswer {
  /** The keys needed, in order of time, including the first pose. */
  keys: PoseKey[];
  /** The last reliable frame, and why tracking stopped early. */
  frame: number;
  lost: string | null;
}

/** Minimum luma spread assumed for a picture, between its 2nd and 98th percentile. */
const LEAST_SPREAD = 0.1;
/** Luma spread of typical standard video. */
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
 * Follows a shape through a stretch of frames. `from`: the state after the previous stretch, or the shape in the first
 * frame, which is then part of this one. Throws a {@link CannotFollow} where there is too little texture.
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
