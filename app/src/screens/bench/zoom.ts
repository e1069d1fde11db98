import type { Area } from '@inkavo/core/scopes/sampleArea';
import { WHOLE, type View } from '../../engine/picture/look';
import { useBench } from '../../state/bench';

/** Maximum magnification. */
export const MAX_ZOOM = 8;

const hold = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v));

/** Zooms about a screen position (shares of the picture's box), which stays fixed. */
export function zoomAt(view: View, x: number, y: number, factor: number): View {
  const size = hold(view.width / factor, 1 / MAX_ZOOM, 1);
  if (size > 0.995) return WHOLE;
  const place = (from: number, span: number, at: number): number => hold(from + at * span - at * size, 0, 1 - size);
  return { x: place(view.x, view.width, x), y: place(view.y, view.height, y), width: size, height: size };
}

/** Pans by shares of the picture's box. */
export const panBy = (view: View, dx: number, dy: number): View => ({
  ...view,
  x: hold(view.x - dx * view.width, 0, 1 - view.width),
  y: hold(view.y - dy * view.height, 0, 1 - view.height),
});

/** Maps an area of the screen to the picture. */
export const toPicture = (area: Area, view: View): Area => ({
  x: view.x + area.x * view.width,
  y: view.y + area.y * view.height,
  width: area.width * view.width,
  height: area.height * view.height,
});

/** Maps an area of the picture to the screen; it may be outside. */
export const toScreen = (area: Area, view: View): Area => ({
  x: (area.x - view.x) / view.width,
  y: (area.y - view.y) / view.height,
  width: area.width / view.width,
  height: area.height / view.height,
});

/** The centred 1:1 view of a file `across` pixels wide on a screen with `width`. */
export function pixelView(view: View, across: number, width: number): View {
  const size = Math.min(1, width / across);
  if (size >= 1) return WHOLE;
  const place = (from: number, span: number): number => hold(from + span / 2 - size / 2, 0, 1 - size);
  return { x: place(view.x, view.width), y: place(view.y, view.height), width: size, height: size };
}

/** Shows the file at 1:1, about the centre of the current view. */
export function zoomToPixels(width: number | undefined): void {
  const { opened, view, set } = useBench.getState();
  if (opened && width) set({ view: pixelView(view, opened.clip.facts.width, width), spot: null });
}
