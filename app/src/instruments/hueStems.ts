import { stemSchema, type Stem } from '@inkavo/core/steps/hues';

/** Size of the hue band in pixels. */
export interface BandBox {
  width: number;
  height: number;
}

export const STRIP = 16;
/** Centres of the rows of head and collar in neutral position, and their range. */
const HEAD = { middle: 0.24, reach: 0.18 };
const COLLAR = { middle: 0.6, reach: 0.14 };
const MAX_LIGHTNESS = 0.4;

export interface StemPoints {
  x: number;
  head: number;
  collar: number;
  foot: number;
  skirt: readonly [number, number];
}

const wrap = (turns: number): number => ((turns % 1) + 1) % 1;
const hold = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v));

/** Positions of the parts of a stem on the band, in pixels. */
export function stemPoints(stem: Stem, { width, height }: BandBox): StemPoints {
  const plot = height - STRIP;
  return {
    x: stem.hue * width,
    head: plot * (HEAD.middle - (hold(stem.saturation, 0, 2) - 1) * HEAD.reach),
    collar: plot * (COLLAR.middle - (stem.lightness / MAX_LIGHTNESS) * COLLAR.reach),
    foot: (stem.hue + stem.turn) * width,
    skirt: [(stem.hue - stem.reach) * width, (stem.hue + stem.reach) * width],
  };
}

export type StemPart = 'head' | 'collar' | 'foot' | 'skirt' | 'stem';
const GRAB = 22;

/** The part of a stem under a pointer, if any. */
export function partUnder(stem: Stem, x: number, y: number, box: BandBox): { part: StemPart; distance: number } | null {
  const p = stemPoints(stem, box);
  const plot = box.height - STRIP;
  // The band wraps around.
  const across = (to: number): number => Math.min(...[-1, 0, 1].map((k) => Math.abs(x - to + k * box.width)));
  const places: [StemPart, number][] = [
    ['head', Math.hypot(across(p.x), y - p.head)],
    ['collar', Math.hypot(across(p.x), y - p.collar)],
    ['foot', Math.hypot(across(p.foot), y - (plot + STRIP / 2))],
    ['skirt', Math.min(...p.skirt.map((s) => Math.hypot(across(s), y - plot * 0.88)))],
    ['stem', y < plot ? across(p.x) + 8 : Infinity],
  ];
  const [part, distance] = places.reduce((a, b) => (b[1] < a[1] ? b : a));
  return distance <= GRAB ? { part, distance } : null;
}

/** The stem with one part moved by this many pixels. */
export function moveStem(stem: Stem, part: StemPart, dx: number, dy: number, { width, height }: BandBox): Stem {
  const plot = height - STRIP;
  switch (part) {
    case 'head':
      return { ...stem, saturation: hold(stem.saturation - dy / (plot * HEAD.reach), 0, 4) };
    case 'collar':
      return {
        ...stem,
        lightness: hold(stem.lightness - (dy / (plot * COLLAR.reach)) * MAX_LIGHTNESS, -MAX_LIGHTNESS, MAX_LIGHTNESS),
      };
    case 'foot':
      return { ...stem, turn: hold(stem.turn + dx / width, -0.25, 0.25) };
    case 'skirt':
      return { ...stem, reach: hold(stem.reach + dx / width, 0.01, 0.5) };
    case 'stem':
      return { ...stem, hue: wrap(stem.hue + dx / width) };
  }
}

export const newStem = (hue: number): Stem => stemSchema.parse({ hue: wrap(hue) });
