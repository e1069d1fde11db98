import { WHOLE, type View } from '../../engine/picture/look';

/** Playback settings. */
export interface Playing {
  /** Speed relative to the recording. */
  speed: number;
  /** Loops between in and out. */
  loop: boolean;
}

/** Frames of the clip on the strip, inclusive. */
export interface StripSpan {
  first: number;
  last: number;
}

/** Position in the clip and in its picture. */
export interface Place {
  frame: number;
  playing: boolean;
  /** Playback is waiting for the proxy to be downloaded, or made; null: it is not. */
  buffering: 'loading' | 'making' | null;
  play: Playing;
  /** How many times finer than the pointer a drag along the strip is; null: no drag. */
  finer: number | null;
  /** Null: the strip shows everything. */
  strip: StripSpan | null;
  /** The still frame from the original is on the screen. */
  atRest: boolean;
  /** The visible part of the picture. */
  view: View;
  /** The picture fills the window. */
  full: boolean;
}

/** Initial state for an opened clip. */
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
