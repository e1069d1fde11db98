import type { Band, Statistics } from './statistics';

/** One of the four parts of the tonal range. */
export type Mark = 'shadows' | 'midtones' | 'highlights' | 'overall';

/** One sentence with numbers, the part it speaks of, and the step kind that would mend it when something is off. */
export interface Reading {
  mark: Mark;
  text: string;
  mend?: string;
}

const percent = (v: number, digits = 0): string => `${(v * 100).toFixed(digits)} %`.replace('-', '−');

/** Shares below this are called nothing. */
const NOTHING = 0.0005;

/** What clipping costs: lost in the file, and by the grade. */
export function clippingReading({ lostInFile, lostByGrade }: Statistics): Reading {
  const say = (v: number) => (v < NOTHING ? 'nothing' : percent(v, 1));
  const text =
    lostInFile < NOTHING && lostByGrade < NOTHING
      ? 'Nothing is clipped.'
      : `${say(lostInFile)} of the frame lost in the file, ${say(lostByGrade)} by the grade.`;
  const sentence = text.charAt(0).toUpperCase() + text.slice(1);
  return { mark: 'overall', text: sentence, ...(lostByGrade >= 0.005 ? { mend: 'range' } : {}) };
}

/** Where the trace begins and ends. */
export function rangeReading({ luma }: Statistics): Reading {
  const ends = `Shadows at ${percent(luma.low)}, highlights at ${percent(luma.high)}`;
  // A trace bunched in the middle is what a flat or log profile gives before it is converted (common practice).
  if (luma.high < 0.8 && luma.low > 0.08) return { mark: 'overall', text: `${ends}: flat.`, mend: 'convert' };
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

/** The cast of the bands, the largest first; bands with under 0.5 % of the frame are left out. */
export function castReadings({ bands }: Statistics): Reading[] {
  const marks = ['highlights', 'midtones', 'shadows'] as const;
  return marks
    .filter((m) => bands[m].share >= 0.005)
    .map((m) => bandReading(m, bands[m]))
    .sort((a, b) => b.size - a.size)
    .map((r) => r.reading);
}

/** How much colour there is. */
export function saturationReading({ chroma }: Statistics): Reading {
  const text = `Colour reaches ${percent(chroma.high)} of the radius, ${percent(chroma.mean)} on average.`;
  return { mark: 'overall', text, ...(chroma.high < 0.15 ? { mend: 'saturation' } : {}) };
}
