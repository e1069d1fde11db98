import { z } from 'zod';
import { deliveredRetime, deliverySchema, framing, type Delivery } from './delivery';
import { fps, type MediaFacts } from './facts';
import { idSchema } from './outing';
import { shownRate, usualRate, type Retime } from './retime';

/** Longest dissolve, in seconds. */
export const LONGEST_DISSOLVE = 3;

/** Signal range common to clips of several cameras. */
export const STANDARD_ONLY = 'A film leaves as standard video.';

/** Clips in order as one file. */
export const filmRequest = z.object({
  outingId: idSchema,
  clipIds: z.array(idSchema).min(1).max(500),
  delivery: deliverySchema.refine((d) => d.colour === 'standard', STANDARD_ONLY),
  /** Duration of the dissolves in seconds; 0: straight cuts. */
  dissolve: z.number().min(0).max(LONGEST_DISSOLVE).default(0),
  /** Levels the loudness of the clips. */
  levelled: z.boolean().default(true),
});
export type FilmRequest = z.infer<typeof filmRequest>;

type Rate = MediaFacts['frameRate'];
/** The properties of a clip that a film depends on. */
export interface Shot {
  facts: Pick<MediaFacts, 'width' | 'height' | 'frameRate'>;
  inFrame: number;
  outFrame: number;
  retime?: Retime | null;
}

export interface FilmFormat {
  width: number;
  height: number;
  rate: Rate;
}

/** The most frequent size; on a tie, the one that occurs first. */
function usualSize(shots: readonly Shot[]): { width: number; height: number } {
  const counts = new Map<string, { size: Shot['facts']; count: number }>();
  for (const { facts } of shots) {
    const key = `${facts.width}×${facts.height}`;
    counts.set(key, { size: facts, count: (counts.get(key)?.count ?? 0) + 1 });
  }
  const [best] = [...counts.values()].sort((a, b) => b.count - a.count);
  return best.size;
}

/** Size and rate of a film: as set in the delivery, else the most frequent ones. Sides are rounded to even. */
export function filmFormat(shots: readonly Shot[], delivery: Delivery): FilmFormat {
  const size = usualSize(shots);
  // Setting a number of lines, even the current one, makes sides even.
  const { width, height } = framing(size, { ...delivery, lines: delivery.lines ?? Math.min(size.width, size.height) });
  const rate =
    delivery.rate ??
    usualRate(shots.map(({ facts, retime }) => ({ facts: { frameRate: retime?.rate ?? facts.frameRate } })))!;
  return { width, height, rate };
}

/** Position of a shot in a film, in frames of the film. */
export interface Placed {
  start: number;
  frames: number;
  /** Frames that overlap with the shot before; 0: a straight cut. */
  dissolve: number;
}

/** Number of frames of a shot at a film's rate: at least one. */
export function shotFrames({ facts, inFrame, outFrame, retime }: Shot, rate: Rate): number {
  const shown = retime ? fps({ frameRate: shownRate(facts, retime) }) : fps(facts);
  return Math.max(1, Math.round(((outFrame - inFrame + 1) / shown) * (rate.num / rate.den)));
}

/** Places shots one after the other; a dissolve takes at most half of either shot. */
export function placeShots(shots: readonly Shot[], rate: Rate, dissolveSeconds: number): Placed[] {
  const wanted = Math.round((dissolveSeconds * rate.num) / rate.den);
  const placed: Placed[] = [];
  for (const shot of shots) {
    const frames = shotFrames(shot, rate);
    const last = placed.at(-1);
    const dissolve = last ? Math.min(wanted, frames >> 1, last.frames >> 1) : 0;
    placed.push({ start: last ? last.start + last.frames - dissolve : 0, frames, dissolve });
  }
  return placed;
}

/** Number of frames in a film. */
export const filmFrames = (placed: readonly Placed[]): number => {
  const last = placed.at(-1);
  return last ? last.start + last.frames : 0;
};

/** A shot's retiming in a film: its own, at the film's rate. */
export const shotRetime = (shot: Shot, { rate }: FilmFormat, delivery: Delivery): Retime =>
  deliveredRetime(shot.retime, { ...delivery, rate })!;
