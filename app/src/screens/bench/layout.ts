import { createContext, useContext } from 'react';

interface Size {
  width: number;
  height: number;
}

/** Where things are on the bench, in pixels. */
export interface BenchLayout {
  wide: boolean;
  picture: Size;
  scopeHeight: number;
}

const LayoutContext = createContext<BenchLayout | null>(null);
export const BenchLayoutProvider = LayoutContext.Provider;

/** Where a sheet leaves the picture free: below it, or at the right of a wide screen. */
export function useBesidePicture(): { top: number; right: boolean } {
  const layout = useContext(LayoutContext);
  return { top: BAR + (layout?.wide ? 0 : (layout?.picture.height ?? 0)), right: layout?.wide ?? false };
}

/** From this width on, steps stand in a column at the left and the tray at the right. */
export const WIDE_FROM = 1000;
const BAR = 48;
const READING = 44;
const STRIP = 64;
const SCRUB = 90;
const COLUMN = 204;
const SIDE = 336;
/** What stands at both sides of the picture on a wide screen. */
export const WIDE_SIDES = COLUMN + SIDE;
const MIN_SCOPE = 96;
/** Share of what is left over that the trace gets on a wide screen. */
const WIDE_SCOPE = 0.28;
/** A taller trace than this share of the window tells no more. */
const MAX_SCOPE = 0.28;

/** The largest size of an aspect within a width and a height. */
export const fit = (aspect: number, width: number, height: number): Size => {
  const w = Math.floor(Math.min(width, height * aspect));
  return { width: w, height: Math.floor(w / aspect) };
};

/** Lays the bench out: the picture as large as it can be, the trace exactly as wide, the tray always whole. `below`: what else stands between trace and scrub strip on a wide screen. */
export function layoutBench(window: Size, clip: Size, tray: number, below = 0): BenchLayout {
  const aspect = clip.width / clip.height;
  const wide = window.width >= WIDE_FROM;
  if (wide) {
    const room = window.height - BAR - READING - SCRUB - below;
    const width = window.width - COLUMN - SIDE;
    const picture = fit(aspect, width, room * (1 - WIDE_SCOPE));
    return {
      wide,
      picture,
      scopeHeight: Math.max(MIN_SCOPE, Math.min(room - picture.height, window.height * MAX_SCOPE)),
    };
  }
  const room = window.height - BAR - READING - STRIP - SCRUB - tray;
  const picture = fit(aspect, window.width, Math.max(120, room - MIN_SCOPE));
  return {
    wide,
    picture,
    scopeHeight: Math.max(MIN_SCOPE, Math.min(room - picture.height, window.height * MAX_SCOPE)),
  };
}
