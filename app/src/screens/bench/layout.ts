import { createContext, useContext } from 'react';
import { useWindowDimensions } from 'react-native';

interface Size {
  width: number;
  height: number;
}

/**
 * Layouts: stacked; wide, with steps and tray at both sides of the picture; low (a phone in landscape), with everything
 * except picture and trace on the right.
 */
export type BenchForm = 'tall' | 'low' | 'wide';

/** Positions and sizes on the bench, in pixels. */
export interface BenchLayout {
  form: BenchForm;
  picture: Size;
  scopeHeight: number;
  /** Width of the column of picture and trace. */
  column: number;
  /** The scrub strip in a single row. */
  oneRow: boolean;
  /** Height of the tray, which scrolls if its controls need more. On a wide screen it takes the remaining height. */
  tray: number;
}

const LayoutContext = createContext<BenchLayout | null>(null);
export const BenchLayoutProvider = LayoutContext.Provider;

/** Position of a sheet beside the picture: below it, or on its right; `most`: its maximum width there. */
export function useBesidePicture(): { top: number; right: boolean; most?: number } {
  const layout = useContext(LayoutContext);
  const window = useWindowDimensions();
  if (!layout || layout.form === 'tall') return { top: BAR + (layout?.picture.height ?? 0), right: false };
  return { top: BAR, right: true, most: layout.form === 'low' ? window.width - layout.column : SIDE };
}

/** Width of the strip of steps, where they are not in a column. */
export function useStripWidth(): number {
  const layout = useContext(LayoutContext);
  const { width } = useWindowDimensions();
  return layout?.form === 'low' ? width - layout.column : width;
}

/** Minimum width for steps in a column on the left and the tray on the right. */
const WIDE_FROM = 1000;
/** Maximum height for the low layout: everything stacked would not fit. */
const LOW_BELOW = 560;
/** Height of the bar at the top. */
export const BAR = 48;
const READING = 44;
const STRIP = 64;
const SCRUB = 90;
const COLUMN = 204;
const SIDE = 336;
/** Width of both side columns on a wide screen. */
export const WIDE_SIDES = COLUMN + SIDE;
const MIN_SCOPE = 96;
const MIN_PICTURE = 120;
/** A scrolling tray shows at least the region row and one number. */
const MIN_TRAY = 96;
/** For short windows (a phone in portrait, with the browser's bars visible): the minimum of the trace … */
const SHORT_SCOPE = 84;
/** … and the height that a moderately sized picture may have as long as the tray shows two numbers. */
const SHORT_PICTURE = 144;
const SHORT_TRAY = 192;
/** Height up to which the scrub strip is a single row there. */
const ONE_ROW_BELOW = 600;
/** Height of the scrub strip in a single row. */
const SCRUB_ROW = 56;
/** For low windows: the maximum share of the width for picture and trace, and the minimum for a line of readings. */
const LOW_COLUMN = { most: 0.56, least: 280 };
/** Share of the remaining height for the trace on a wide screen. */
const WIDE_SCOPE = 0.28;
/**
 * Maximum height of the trace as a share of the window, where the tray can use what is left; and on a wide screen,
 * where nothing else can.
 */
const MAX_SCOPE = 0.28;
const MAX_WIDE_SCOPE = 0.42;

/** The largest size of an aspect ratio within a width and a height. */
export const fit = (aspect: number, width: number, height: number): Size => {
  const w = Math.floor(Math.min(width, height * aspect));
  return { width: w, height: Math.floor(w / aspect) };
};

/**
 * Computes the bench's layout: the picture as large as possible, the trace exactly as wide, everything within the
 * window. `tray`: height that the controls of the step in hand need. `below`: height of other parts between trace and
 * scrub strip on a wide screen.
 */
export function layoutBench(window: Size, clip: Size, tray: number, below = 0): BenchLayout {
  const aspect = clip.width / clip.height;
  if (window.height < LOW_BELOW && window.width > window.height) return layoutLow(window, aspect);
  if (window.width >= WIDE_FROM) {
    const room = window.height - BAR - READING - SCRUB - below;
    const column = window.width - COLUMN - SIDE;
    const picture = fit(aspect, column, room * (1 - WIDE_SCOPE));
    const scopeHeight = Math.max(MIN_SCOPE, Math.min(room - picture.height, window.height * MAX_WIDE_SCOPE));
    return { form: 'wide', picture, scopeHeight, column, oneRow: false, tray };
  }
  const oneRow = window.height < ONE_ROW_BELOW;
  const all = window.height - BAR - READING - STRIP - (oneRow ? SCRUB_ROW : SCRUB);
  const isShort = all < tray + MIN_PICTURE + MIN_SCOPE;
  const least = isShort ? SHORT_SCOPE : MIN_SCOPE;
  const shortPicture = Math.max(MIN_PICTURE, Math.min(SHORT_PICTURE, all - least - Math.min(tray, SHORT_TRAY)));
  const shown = isShort ? Math.min(tray, Math.max(MIN_TRAY, all - shortPicture - least)) : tray;
  const room = all - shown;
  const picture = fit(aspect, window.width, Math.max(MIN_PICTURE, room - least));
  const scopeHeight = Math.max(least, Math.min(room - picture.height, window.height * MAX_SCOPE));
  return { form: 'tall', picture, scopeHeight, column: window.width, oneRow, tray: shown };
}

function layoutLow(window: Size, aspect: number): BenchLayout {
  const room = window.height - BAR - READING;
  const picture = fit(aspect, window.width * LOW_COLUMN.most, Math.max(MIN_PICTURE, room - SHORT_SCOPE));
  return {
    form: 'low',
    picture,
    scopeHeight: Math.max(SHORT_SCOPE, room - picture.height),
    column: Math.max(LOW_COLUMN.least, picture.width),
    oneRow: true,
    tray: Math.max(MIN_TRAY, window.height - BAR - STRIP - SCRUB_ROW),
  };
}
