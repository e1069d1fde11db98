import { hasNoEffect, type Step } from '../model/grade';
import { SKIN_ANGLE } from '../steps/saturation';
import type { Band, Statistics } from './statistics';
import { barTargets, FULL_CHROMA, type Chroma, type MarkColour } from './vectorscope';

/** A part of the tonal range. */
export type Mark = 'shadows' | 'midtones' | 'highlights' | 'overall';

/** A sentence with numbers, the part of the range it describes, and the step kind that mends it if something is off. */
export interface Reading {
  mark: Mark;
  text: string;
  mend?: string;
}

const percent = (v: number, digits = 0): string => `${(v * 100).toFixed(digits)} %`.replace('-', '−');

/** Smaller shares are reported as nothing. */
const NOTHING = 0.0005;

/** Share of the frame pressed flat from which a mend is offered. By judgement: a sun with its glow may be less. */
export const MUCH_PRESSED = 0.05;

/** Clipping: lost in the file, lost by the grade, pressed flat; and values out of range in the file. */
export function clippingReading({ lostInFile, lostByGrade, outOfRange, pressed }: Statistics): Reading {
  const say = (v: number) => (v < NOTHING ? 'nothing' : percent(v, 1));
  const parts = [
    ...(lostInFile < NOTHING && lostByGrade < NOTHING
      ? []
      : [`${say(lostInFile)} of the frame lost in the file, ${say(lostByGrade)} by the grade`]),
    ...(pressed < NOTHING ? [] : [`${percent(pressed, 1)} pressed flat at the ends`]),
    ...(outOfRange < NOTHING ? [] : [`${percent(outOfRange, 1)} beyond black or white in the file, not lost`]),
  ];
  const text = parts.length === 0 ? 'Nothing is clipped.' : `${parts.join('; ')}.`;
  const mends = lostByGrade >= 0.005 || pressed >= MUCH_PRESSED || outOfRange >= 0.005;
  return { mark: 'overall', text: text.charAt(0).toUpperCase() + text.slice(1), ...(mends ? { mend: 'range' } : {}) };
}

/** Steps that deal with a flat recording; after them, only the range remains to be set. */
const UNFLATTEN = new Set(['convert', 'haze', 'water']);
export const isUnflattened = (steps: readonly Step[]): boolean =>
  steps.some((s) => UNFLATTEN.has(s.kind) && !hasNoEffect(s));

/** Whether steps keep the colour of open water, which then counts towards the mean colours of the bands. */
export const keepsOpenWater = (steps: readonly Step[]): boolean =>
  steps.some((s) => s.kind === 'water' && !hasNoEffect(s) && s.params.keepWater !== 0);

/** Ends of the tonal range. `unflattened`: whether the grade includes a step that deals with a flat recording. */
export function rangeReading({ luma }: Statistics, unflattened: boolean): Reading {
  const ends = `Shadows at ${percent(luma.low)}, highlights at ${percent(luma.high)}`;
  // A narrow trace in the middle indicates a flat or log profile before conversion (common practice).
  if (luma.high < 0.8 && luma.low > 0.08)
    return unflattened
      ? { mark: 'overall', text: `${ends}: room at both ends.`, mend: 'range' }
      : { mark: 'overall', text: `${ends}: flat.`, mend: 'convert' };
  if (luma.high < 0.8) return { mark: 'highlights', text: `${ends}: room above.`, mend: 'range' };
  if (luma.low > 0.1) return { mark: 'shadows', text: `${ends}: room below.`, mend: 'range' };
  return { mark: 'overall', text: `${ends}.` };
}

const CHANNELS = ['red', 'green', 'blue'] as const;

/** Difference between the highest and the lowest channel below which a band counts as neutral. */
export const NEUTRAL_BAND = 0.02;

function bandReading(mark: Exclude<Mark, 'overall'>, band: Band): { reading: Reading; size: number } {
  const order = [...CHANNELS].sort((a, b) => band[b] - band[a]);
  const size = band[order[0]] - band[order[2]];
  const name = mark.charAt(0).toUpperCase() + mark.slice(1);
  if (size < NEUTRAL_BAND)
    return { size, reading: { mark, text: `${name}: neutral within ${percent(Math.max(size, 0.01))}.` } };
  return { size, reading: { mark, text: `${name}: ${order[0]} ${percent(size)} above ${order[2]}.`, mend: 'balance' } };
}

/**
 * The cast of each band, the largest first; bands with under 0.5 % of the frame are omitted. `coloured`: the picture shows
 * large areas that are not neutral on purpose, such as kept open water, so that no mend is offered.
 */
export function castReadings({ bands }: Statistics, coloured = false): Reading[] {
  const marks = ['highlights', 'midtones', 'shadows'] as const;
  return marks
    .filter((m) => bands[m].share >= 0.005)
    .map((m) => bandReading(m, bands[m]))
    .sort((a, b) => b.size - a.size)
    .map(({ reading: { mend, ...said } }) => (mend && !coloured ? { ...said, mend } : said));
}

/** Amount of colour. */
export function saturationReading({ chroma }: Statistics): Reading {
  const text = `Colour reaches ${percent(chroma.high)} of the radius, ${percent(chroma.mean)} on average.`;
  return { mark: 'overall', text, ...(chroma.high < 0.15 ? { mend: 'saturation' } : {}) };
}

/** The colour bar with the closest direction on the vectorscope. */
export function directionOf({ cb, cr }: Chroma): string {
  const angle = (c: Chroma): number => Math.atan2(c.cr, c.cb);
  const apart = (a: number, b: number): number => Math.abs(((a - b + 3 * Math.PI) % (2 * Math.PI)) - Math.PI);
  const here = angle({ cb, cr });
  return barTargets().reduce((best, t) => (apart(angle(t), here) < apart(angle(best), here) ? t : best)).name;
}

/** Position of a mark on the pad: distance from neutral as a share of the radius, and direction. */
export function markReading(mark: Mark, colour: MarkColour): Reading {
  const name = mark.charAt(0).toUpperCase() + mark.slice(1);
  if (colour.share < 0.002) return { mark, text: `${name}: none of this frame lies there.` };
  const size = Math.hypot(colour.cb, colour.cr) / FULL_CHROMA;
  const text =
    size < 0.01 ? `${name}: neutral within 1 %.` : `${name}: ${percent(size, 1)} towards ${directionOf(colour)}.`;
  return { mark, text };
}

/** Which zones the frame uses. */
export function zoneReading(zones: readonly number[]): Reading {
  const used = zones.flatMap((share, zone) => (share >= 0.005 ? [zone] : []));
  if (used.length === 0) return { mark: 'overall', text: 'No zone holds as much as half a percent.' };
  const most = zones.indexOf(Math.max(...zones));
  return {
    mark: 'overall',
    text: `Zones ${used[0]} to ${used.at(-1)}; most, ${percent(zones[most])}, in zone ${most}.`,
  };
}

/** Width, in turns, of the range of hues counted around the strongest one, and around the skin line. */
const NEIGHBOURS = 0.06;
const SKIN_TURN = SKIN_ANGLE / (2 * Math.PI);
/** Minimum share of the frame's colour around the skin line to count as skin. */
const LEAST_SKIN = 0.08;

/** The strongest hue, the share of colour around it, and the position of skin hues relative to the skin line. */
export function hueReading(hues: ArrayLike<number>): Reading {
  const n = hues.length;
  const at = (turn: number): number => ((Math.floor(turn * n) % n) + n) % n;
  let total = 0;
  for (let i = 0; i < n; i += 1) total += hues[i];
  if (total === 0) return { mark: 'overall', text: 'This frame has no colour.' };
  const reach = Math.round(NEIGHBOURS * n);
  /** Share of the colour around a bin, and its centroid as an offset in bins. */
  const around = (middle: number): { share: number; offset: number } => {
    let [sum, moment] = [0, 0];
    for (let k = -reach; k <= reach; k += 1) {
      const v = hues[(middle + k + n) % n];
      sum += v;
      moment += v * k;
    }
    return { share: sum / total, offset: sum > 0 ? moment / sum : 0 };
  };
  const strongest = Array.from({ length: n }, (_, i) => i).reduce((a, b) => (hues[b] > hues[a] ? b : a));
  const angle = ((strongest + 0.5) / n) * 2 * Math.PI;
  const name = directionOf({ cb: Math.cos(angle), cr: Math.sin(angle) });
  const first = `${percent(around(strongest).share)} of the colour around ${name}.`;
  const skin = around(at(SKIN_TURN));
  if (skin.share < LEAST_SKIN) return { mark: 'overall', text: first };
  const degrees = Math.round((skin.offset / n) * 360);
  const side =
    degrees === 0
      ? 'on the skin line'
      : `${Math.abs(degrees)}° from the skin line towards ${degrees > 0 ? 'yellow' : 'red'}`;
  return { mark: 'overall', text: `${first} Skin hues lie ${side}.` };
}
