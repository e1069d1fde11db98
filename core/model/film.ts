import { z } from 'zod';
import { deliveredRetime, deliverySchema, framing, type Delivery } from './delivery';
import { fps, type MediaFacts } from './facts';
import { idSchema } from './outing';
import { shownRate, usualRate, type Retime } from './retime';

/** Longest dissolve, in seconds. */
export const LONGEST_DISSOLVE = 3;

/** Clips of several cameras have one kind of signal in common. */
export const STANDARD_ONLY = 'A film leaves as standard video.';

/** Clips in order as one file. */
export const filmRequest = z.object({
  outingId: idSchema,
  clipIds: z.array(idSchema).min(1).max(500),
  delivery: deliverySchema.refine((d) => d.colour === 'standard', STANDARD_ONLY),
  /** Seconds over which each clip gives way to the next; 0: straight cuts. */
  dissolve: z.number().min(0).max(LONGEST_DISSOLVE).default(0),
  /** Brings the loudness of the clips near each other. */
  levelled: z.boolean().default(true),
});
export type FilmRequest = z.infer<typeof filmRequest>;

type Rate = MediaFacts['frameRate'];
/** What a film has to know of a clip. */
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

/** The size that most clips have; the first of those that are as many. */
function usualSize(shots: readonly Shot[]): { width: number; height: number } {
  const counts = new Map<string, { size: Shot['facts']; count: number }>();
  for (const { facts } of shots) {
    const key = `${facts.width}×${facts.height}`;
    counts.set(key, { size: facts, count: (counts.get(key)?.count ?? 0) + 1 });
  }
  const [best] = [...counts.values()].sort((a, b) => b.count - a.count);
  return best.size;
}

/** Size and rate of a film: what the delivery says, else what most clips have. Sides are even. */
export function filmFormat(shots: readonly Shot[], delivery: Delivery): FilmFormat {
  const size = usualSize(shots);
  // With a number of lines, even its own, sides come out even.
  const { width, height } = framing(size, { ...delivery, lines: delivery.lines ?? Math.min(size.width, size.height) });
  const rate =
    delivery.rate ??
    usualRate(shots.map(({ facts, retime }) => ({ facts: { frameRate: retime?.rate ?? facts.frameRate } })))!;
  return { width, height, rate };
}

/** Where a shot stands in a film, in frames of the film. */
export interface Placed {
  start: number;
  frames: number;
  /** Frames at its beginning that it shares with the shot before; 0: a straight cut. */
  dissolve: number;
}

/** Frames that a shot has in a film of a rate: at least one. */
export function shotFrames({ facts, inFrame, outFrame, retime }: Shot, rate: Rate): number {
  const shown = retime ? fps({ frameRate: shownRate(facts, retime) }) : fps(facts);
  return Math.max(1, Math.round(((outFrame - inFrame + 1) / shown) * (rate.num / rate.den)));
}

/** Shots one after the other; a dissolve takes no more than half of either of its shots. */
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

/** Frames of a whole film. */
export const filmFrames = (placed: readonly Placed[]): number => {
  const last = placed.at(-1);
  return last ? last.start + last.frames : 0;
};

/** A shot's speed in a film: its own, at the film's rate. */
export const shotRetime = (shot: Shot, { rate }: FilmFormat, delivery: Delivery): Retime =>
  deliveredRetime(shot.retime, { ...delivery, rate })!;
