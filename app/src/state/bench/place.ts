import { WHOLE, type View } from '../../engine/picture/look';

/** How a clip is played. */
export interface Playing {
  /** Times the recorded speed. */
  speed: number;
  /** Round and round between in and out. */
  loop: boolean;
}

/** Frames of the clip that the strip shows, both included. */
export interface StripSpan {
  first: number;
  last: number;
}

/** Where in the clip and in its picture one is. */
export interface Place {
  frame: number;
  playing: boolean;
  /** It plays, but has to wait for more of the proxy to arrive, or to be made; null: it does not. */
  buffering: 'loading' | 'making' | null;
  play: Playing;
  /** How many times finer than its finger a drag along the strip goes; null: no finger drags there. */
  finer: number | null;
  /** Null: the strip shows all. */
  strip: StripSpan | null;
  /** The frame on the screen is the one at rest, from the original. */
  atRest: boolean;
  /** The part of the picture that is shown. */
  view: View;
  /** The picture has the whole window. */
  full: boolean;
}

/** Where a clip opens. */
export const opening = (frame: number): Omit<Place, 'play'> => ({
  frame,
  playing: false,
  buffering: null,
  finer: null,
  strip: null,
  atRest: false,
  view: WHOLE,
  full: false,
});

export const place: Place = { ...opening(0), play: { speed: 1, loop: true } };
