import { findPoint, strongPoints } from '../follow/points';
import { pyramid, sample, type Grey } from '../follow/pyramid';
import { falloff, placeOf } from '../steps/corners/falloff';

/** A frame in linear light: luminance, 0 black, 1 white, row by row. */
export interface LightFrame {
  width: number;
  height: number;
  light: Float32Array;
}

/** Vignetting of a lens, as parameters of the corners step. */
export interface CornersFound {
  found: true;
  /** Light lost in the furthest corner, 0–0.8; 0 if the light is even. */
  amount: number;
  /** Where it begins, see `falloff`. */
  begins: number;
  /** Standard error of the amount. */
  error: number;
  /** Number of scene points that were seen at several distances from the centre. */
  places: number;
}

/** Why it cannot be measured: the camera hardly moves; too little can be tracked; or the tracks do not agree. */
export interface CornersNotFound {
  found: false;
  why: 'still' | 'few' | 'unsure';
}
export type FoundCorners = CornersFound | CornersNotFound;

/** Maximum number of points per frame, and their minimum spacing as a share of the frame's width. */
const POINTS = 160;
const APART = 0.02;
/** Minimum smaller eigenvalue of the structure tensor (luma squared per pixel), as in following. */
const LEAST = 4e-5;
/** Maximum forward-backward error (pixels) and minimum correlation of a valid track. */
const BACK = 0.5;
const ALIKE = 0.85;
/** Half the edge of the patch whose light is measured, in pixels. */
const PATCH = 2;
/** Range of light in which the camera's curve is invertible: noise below, shoulder above. */
const [DARK, BRIGHT] = [0.01, 0.8];

/** Track of one scene point: the square of its distance from the frame's centre, and its light. */
interface Track {
  m: number[];
  frame: number[];
  log: number[];
}

/** Mean light of a patch; null if it is too dark or too bright. */
function patch({ width, height, light }: LightFrame, x: number, y: number): number | null {
  const grey: Grey = { width, height, data: light };
  let sum = 0;
  for (let j = -PATCH; j <= PATCH; j += 1)
    for (let i = -PATCH; i <= PATCH; i += 1) {
      const v = sample(grey, x + i, y + j);
      if (v < DARK || v > BRIGHT) return null;
      sum += v;
    }
  return sum / (2 * PATCH + 1) ** 2;
}

/** Tracks scene points through the frames of one stretch, in order. */
function follow(frames: readonly LightFrame[], first: number): Track[] {
  const { width, height } = frames[0];
  const aspect = width / height;
  const whole = new Float32Array(width * height).fill(1);
  const done: Track[] = [];
  let live: { x: number; y: number; track: Track }[] = [];
  let last: Grey[] | undefined;
  frames.forEach((frame, k) => {
    // Square roots approximate perceived lightness, so that gradients of dark areas count.
    const levels = pyramid({ width, height, data: frame.light.map((v) => Math.sqrt(Math.max(0, v))) });
    const note = (x: number, y: number, track: Track): void => {
      const light = patch(frame, x, y);
      if (light === null) return;
      track.m.push(placeOf({ centreX: 0, centreY: 0, oval: 0 }, (x + 0.5) / width, (y + 0.5) / height, aspect));
      track.frame.push(first + k);
      track.log.push(Math.log(light));
    };
    if (last) {
      const from = last;
      live = live.flatMap(({ x, y, track }) => {
        const to = findPoint(from, levels, x, y, { x, y });
        const margin = PATCH + 1;
        const inside = to.x > margin && to.y > margin && to.x < width - 1 - margin && to.y < height - 1 - margin;
        if (!inside || to.like < ALIKE) return [];
        const back = findPoint(levels, from, to.x, to.y, { x: to.x, y: to.y });
        if (Math.hypot(back.x - x, back.y - y) > BACK) return [];
        note(to.x, to.y, track);
        return [{ x: to.x, y: to.y, track }];
      });
    }
    if (live.length < POINTS / 2) {
      const apart = APART * width;
      for (const { x, y } of strongPoints(levels[0], whole, { apart, most: POINTS, least: LEAST })) {
        if (live.length >= POINTS || live.some((p) => Math.hypot(p.x - x, p.y - y) < apart)) continue;
        const track: Track = { m: [], frame: [], log: [] };
        note(x, y, track);
        done.push(track);
        live.push({ x, y, track });
      }
    }
    last = levels;
  });
  return done.filter((t) => t.m.length >= 3);
}

/** Limit of the step. */
const MOST_AMOUNT = 0.8;
/** Starting values of the search, from coarse to fine. */
const AMOUNTS = Array.from({ length: 10 }, (_, i) => 0.04 + 0.08 * i);
const BEGINS = [-1, 0, 1, 2];
const [AMOUNT_STEP, BEGINS_STEP, FINEST] = [0.04, 0.5, 0.002];
const ROUNDS = 12;
/** Scale of outliers in residuals of log light (moving highlights, points that slipped). */
const SCALE = 0.06;
/** Jackknife: the error is estimated from results that each omit one of this many parts. */
const PARTS = 8;
/** Minimum evidence: number of points, and their movement in squared distance from the centre. */
const PLACES = 40;
const MOVED = 0.03;
/** An amount with a larger standard error is not offered: the correction could be worse than none. */
const SURE = 0.03;
/**
 * Smaller amounts, or fewer standard errors than this, count as no vignetting: even photographs stayed at 0.025 and
 * below.
 */
const LEAST_AMOUNT = 0.04;
const CLEARLY = 3;

/** Cost of a falloff: the residual light of the tracks after removing scene light, exposure and falloff. */
function cost(tracks: readonly Track[], frames: number, amount: number, begins: number): number {
  const exposure = new Float64Array(frames);
  const [sums, weights] = [new Float64Array(frames), new Float64Array(frames)];
  let total = 0;
  const left = tracks.map((t) => t.log.map((v, i) => v - Math.log(1 - amount * falloff(t.m[i], begins))));
  for (let round = 0; round < 3; round += 1) {
    total = 0;
    sums.fill(0);
    weights.fill(0);
    tracks.forEach((t, k) => {
      let mean = 0;
      for (let i = 0; i < t.frame.length; i += 1) mean += left[k][i] - exposure[t.frame[i]];
      mean /= t.frame.length;
      for (let i = 0; i < t.frame.length; i += 1) {
        const off = left[k][i] - exposure[t.frame[i]] - mean;
        // Geman and McClure's robust loss.
        const q = (off / SCALE) ** 2;
        const w = 1 / (1 + q) ** 2;
        total += q / (1 + q);
        sums[t.frame[i]] += w * (left[k][i] - mean);
        weights[t.frame[i]] += w;
      }
    });
    for (let f = 0; f < frames; f += 1) exposure[f] = weights[f] > 0 ? sums[f] / weights[f] : 0;
  }
  return total;
}

function fit(tracks: readonly Track[], frames: number): { amount: number; begins: number } {
  let best = { amount: 0, begins: 1, cost: cost(tracks, frames, 0, 1) };
  const look = (amount: number, begins: number): void => {
    if (amount <= 0 || amount > MOST_AMOUNT || begins < -1 || begins > 2) return;
    const c = cost(tracks, frames, amount, begins);
    if (c < best.cost) best = { amount, begins, cost: c };
  };
  for (const amount of AMOUNTS) for (const begins of BEGINS) look(amount, begins);
  for (let [a, b] = [AMOUNT_STEP, BEGINS_STEP]; a > FINEST; [a, b] = [a / 2, b / 2])
    for (let round = 0, was = Infinity; round < ROUNDS && best.cost < was; round += 1) {
      was = best.cost;
      const { amount, begins } = best;
      for (const i of [-1, 0, 1]) for (const j of [-1, 0, 1]) look(amount + a * i, begins + b * j);
    }
  return best;
}

/**
 * Measures vignetting from scene points that are seen at several distances from the centre while the camera moves,
 * independently of the scene's content (Goldman and Chen 2005). `stretches`: consecutive frames, close enough in time
 * that the scene moves by less than a tenth of the width between them.
 */
export function findCorners(stretches: readonly (readonly LightFrame[])[]): FoundCorners {
  let frames = 0;
  const tracks: Track[] = [];
  for (const stretch of stretches) {
    if (stretch.length === 0) continue;
    tracks.push(...follow(stretch, frames));
    frames += stretch.length;
  }
  const moved = tracks.filter((t) => Math.max(...t.m) - Math.min(...t.m) >= MOVED);
  if (tracks.length >= PLACES && moved.length < PLACES / 2) return { found: false, why: 'still' };
  if (moved.length < PLACES) return { found: false, why: 'few' };
  const { amount, begins } = fit(moved, frames);
  const parts = Array.from(
    { length: PARTS },
    (_, p) =>
      fit(
        moved.filter((_t, i) => i % PARTS !== p),
        frames,
      ).amount,
  );
  const mean = parts.reduce((a, b) => a + b) / PARTS;
  const error = Math.sqrt(((PARTS - 1) / PARTS) * parts.reduce((s, v) => s + (v - mean) ** 2, 0));
  if (error > SURE) return { found: false, why: 'unsure' };
  const even = amount < LEAST_AMOUNT || amount < CLEARLY * error;
  return { found: true, amount: even ? 0 : amount, begins: even ? 1 : begins, error, places: moved.length };
}
