import { maskAt, maskRow } from '../regions/mask';
import type { Pose, Shape } from '../regions/shape';
import { findPoint, strongPoints, type Linear } from './points';
import { pyramid, type Grey } from './pyramid';
import {
  after,
  applySimilarity,
  robustSimilarity,
  sizeOf,
  STAY,
  turnOf,
  type Pair,
  type Similarity,
} from './similarity';

/** Where the shape is in a frame, and whether that is reliable. */
export interface Followed {
  pose: Pose;
  sure: boolean;
  /** Share of the points that agree with the motion. */
  agree: number;
}

/** Maximum number of points in a shape, and the minimum that determines its motion. */
const MOST = 90;
const FEWEST = 8;
/**
 * Minimum smaller eigenvalue of the structure tensor, in luma squared of the smoothed picture. Flat areas with noise of
 * 2 of 255 stay below 1e-5, with 4 below this value (measured).
 */
const LEAST = 4e-5;
/** Maximum forward-backward error in pixels (Kalal et al. 2010). */
const HOME = 0.8;
/** Minimum correlation of two windows that show the same thing. */
const ALIKE = 0.75;
/** Points within this many pixels of the motion agree with it. */
const TOLERANCE = 1.6;
/** Minimum share of agreeing points for a reliable result. */
const SURE = 0.35;
/** Changes of size and rotation (degrees) after which new points are chosen: windows look too different beyond them. */
const NEW_SIZE = 1.25;
const NEW_TURN = 15;

interface Point {
  /** Position in the reference picture, and in the last frame. */
  x: number;
  y: number;
  lastX: number;
  lastY: number;
}

/** State of a follower between two frames, as plain data. */
export interface FollowState {
  kind: Shape['kind'];
  /** The pose in the first frame. */
  start: Pose;
  reference: Grey;
  last: Grey;
  points: Point[];
  /** Motion from the first frame to the reference, from there to the last frame, and its last change. */
  before: Similarity;
  now: Similarity;
  speed: Similarity;
}

/** A shape that cannot be followed, and why. */
export class CannotFollow extends Error {}

/**
 * Follows the content of a shape from frame to frame: points are tracked forwards and backwards, then once more against
 * the reference frame to avoid drift, and a robust fit gives the similarity that most agree on. Frames are luma, all of
 * one size; sizes of poses are shares of the frame's width.
 */
export class Follower {
  private reference: Grey[];
  /** The original pictures, unsmoothed. */
  private pictures: { reference: Grey; last: Grey };
  private last: Grey[];
  private points: Point[];
  private before: Similarity;
  private now: Similarity;
  private speed: Similarity;
  private readonly kind: Shape['kind'];
  private readonly start: Pose;

  /** Restores a follower from its state. */
  constructor(state: FollowState) {
    this.kind = state.kind;
    this.pictures = { reference: state.reference, last: state.last };
    this.start = state.start;
    this.reference = pyramid(state.reference);
    this.last = state.last === state.reference ? this.reference : pyramid(state.last);
    this.points = state.points.map((p) => ({ ...p }));
    this.before = state.before;
    this.now = state.now;
    this.speed = state.speed;
  }

  /** Starts in a frame. Throws a {@link CannotFollow} where there is too little texture. */
  static begin(kind: Shape['kind'], start: Pose, first: Grey): Follower {
    if (kind === 'gradient') throw new CannotFollow('A gradient has no inside that could be followed.');
    const moves = { before: STAY, now: STAY, speed: STAY };
    const follower = new Follower({ kind, start, reference: first, last: first, points: [], ...moves });
    follower.take(follower.reference, start);
    if (follower.points.length < FEWEST)
      throw new CannotFollow('This is too smooth to be followed: there is nothing in it to hold on to.');
    return follower;
  }

  /** The state, as plain data. */
  get state(): FollowState {
    const { kind, start, points, before, now, speed } = this;
    return { kind, start, points, before, now, speed, ...this.pictures };
  }

  /** Makes a picture the reference, with new points inside a pose. */
  private take(levels: Grey[], pose: Pose): void {
    const [grey] = levels;
    const mask = new Float32Array(grey.width * grey.height);
    const shape: Shape = {
      id: 's',
      kind: this.kind,
      mode: 'add',
      inverted: false,
      keys: [{ ...pose, feather: 0, seconds: 0, ease: 'linear' }],
    };
    const plane = maskAt([shape], 0, grey.width / grey.height);
    for (let y = 0; y < grey.height; y += 1)
      maskRow(plane, y, mask.subarray(y * grey.width, (y + 1) * grey.width), grey.height);
    const area = mask.reduce((n, m) => n + m, 0);
    const apart = Math.max(4, Math.min(12, Math.sqrt(area / MOST)));
    const points = strongPoints(grey, mask, { apart, most: MOST, least: LEAST });
    this.reference = levels;
    this.last = levels;
    this.points = points.map(({ x, y }) => ({ x, y, lastX: x, lastY: y }));
  }

  /** The pose in a frame: the first one moved by the given similarity. */
  private poseBy(move: Similarity): Pose {
    const [{ width }] = this.reference;
    const [x, y] = applySimilarity(move, this.start.x * width - 0.5, this.start.y * width - 0.5);
    const size = sizeOf(move);
    return {
      ...this.start,
      x: (x + 0.5) / width,
      y: (y + 0.5) / width,
      width: this.start.width * size,
      height: this.start.height * size,
      turn: this.start.turn + turnOf(move),
    };
  }

  /** The next frame. */
  next(frame: Grey): Followed {
    const levels = pyramid(frame);
    const guess = after(this.speed, this.now);
    const chained = this.chain(levels);
    // The consensus motion since the last frame predicts where to search for the reference.
    const rough = robustSimilarity(chained, 2 * TOLERANCE);
    const trusted = rough && rough.count >= Math.max(4, SURE * this.points.length) ? rough.fit : guess;
    const anchored = this.anchor(levels, trusted);
    const fine = robustSimilarity(anchored.pairs, TOLERANCE);
    const agree = (fine?.count ?? 0) / Math.max(1, anchored.possible);
    const sure = fine !== null && fine.count >= Math.min(FEWEST, anchored.possible) && fine.count >= 4 && agree >= SURE;
    const fit = sure ? fine.fit : guess;
    this.speed = sure ? after(fit, inverse(this.now)) : this.speed;
    this.now = fit;
    for (const p of this.points) [p.lastX, p.lastY] = applySimilarity(fit, p.x, p.y);
    this.last = levels;
    this.pictures.last = frame;
    const whole = after(fit, this.before);
    const pose = this.poseBy(whole);
    const size = sizeOf(fit);
    if (sure && agree > 0.6 && (size > NEW_SIZE || size < 1 / NEW_SIZE || Math.abs(turnOf(fit)) > NEW_TURN)) {
      const held = [this.reference, this.points] as const;
      this.take(levels, pose);
      if (this.points.length < FEWEST) [this.reference, this.points] = held;
      else {
        this.pictures.reference = frame;
        this.before = whole;
        this.now = STAY;
      }
    }
    return { pose, sure, agree };
  }

  /** From the reference to this frame, each point predicted from the last frame, tracked forwards and backwards. */
  private chain(levels: Grey[]): Pair[] {
    return this.points.flatMap((p): Pair[] => {
      const [gx, gy] = applySimilarity(this.speed, p.lastX, p.lastY);
      const to = findPoint(this.last, levels, p.lastX, p.lastY, { x: gx, y: gy });
      if (to.like < ALIKE) return [];
      const home = findPoint(levels, this.last, to.x, to.y, { x: p.lastX, y: p.lastY });
      if (Math.hypot(home.x - p.lastX, home.y - p.lastY) > HOME) return [];
      return [{ from: p, to }];
    });
  }

  /** Each point of the reference tracked independently near its predicted position, and how many could be. */
  private anchor(levels: Grey[], expected: Similarity): { pairs: Pair[]; possible: number } {
    const [{ width, height }] = levels;
    const linear: Linear = [expected.a, -expected.b, expected.b, expected.a];
    const pairs: Pair[] = [];
    let possible = 0;
    for (const p of this.points) {
      const [gx, gy] = applySimilarity(expected, p.x, p.y);
      // Points outside the frame cannot be tracked any more.
      if (gx < 4 || gy < 4 || gx > width - 5 || gy > height - 5) continue;
      possible += 1;
      const to = findPoint(this.reference, levels, p.x, p.y, { x: gx, y: gy }, linear, 2);
      if (to.like >= ALIKE) pairs.push({ from: p, to });
    }
    return { pairs, possible };
  }
}

function inverse({ a, b, x, y }: Similarity): Similarity {
  const square = a * a + b * b;
  const [ia, ib] = [a / square, -b / square];
  return { a: ia, b: ib, x: -(ia * x - ib * y), y: -(ib * x + ia * y) };
}
