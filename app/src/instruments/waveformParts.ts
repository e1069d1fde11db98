import type { Mark } from '@inkavo/core/scopes/readings';
import type { Grab } from '@inkavo/core/scopes/solver';
import type { Spread } from '@inkavo/core/scopes/statistics';
import { TRACE_HIGH, TRACE_LOW } from '@inkavo/core/scopes/trace';
import type { ScopeResult } from '../engine/worker/scopes';

/** A part of a waveform that can be dragged vertically. */
export interface Part {
  /** A part known to the solver, or an edge of the bands. */
  id: Grab | 'lowEdge' | 'highEdge';
  label: string;
  mark?: Mark;
  /** Text on the handle if it has no mark. */
  text?: string;
  /** Its position, encoded. */
  level: number;
}

/** A strip of the waveform with a trace and handles of its own, in shares of the whole width. */
export interface Lane {
  left: number;
  width: number;
  parts: Part[];
}

const ENDS = [
  { end: 'top', level: 'high', mark: 'highlights' },
  { end: 'middle', level: 'mid', mark: 'midtones' },
  { end: 'bottom', level: 'low', mark: 'shadows' },
] as const satisfies readonly { end: string; level: keyof Spread; mark: Mark }[];
const LUMA_NAMES = { top: 'Highlights', middle: 'Midtones', bottom: 'Shadows' };

function channelParts(channel: 'red' | 'green' | 'blue', spread: Spread): Part[] {
  const name = channel[0].toUpperCase() + channel.slice(1);
  return ENDS.map(({ end, level, mark }) => ({
    id: `${channel}${(end[0].toUpperCase() + end.slice(1)) as 'Top'}`,
    label: `${name} ${end}`,
    mark,
    level: spread[level],
  }));
}

/** The lanes of a waveform view. `levels`: the five levels replace the three marks. */
export function lanesOf(scope: ScopeResult, view: 'luma' | 'parade', levels: boolean): Lane[] {
  const { statistics: s, heights } = scope;
  if (view === 'parade')
    return (['red', 'green', 'blue'] as const).map((c, i) => ({
      left: i / 3,
      width: 1 / 3,
      parts: channelParts(c, s[c]),
    }));
  if (levels && heights.length === 5) {
    const parts = heights.map((level, i): Part => {
      const text = `${i * 25}`;
      return { id: `level${i as 0}`, label: `Level at ${text} %`, text, level };
    });
    return [{ left: 0, width: 1, parts: parts.reverse() }];
  }
  const marks = ENDS.map(({ end, level, mark }): Part => ({
    id: end,
    label: LUMA_NAMES[end],
    mark,
    level: s.luma[level],
  }));
  return [{ left: 0, width: 1, parts: marks }];
}

/** The mark that moves everything: at the middle of the trace, on the other side. */
export const overallPart = ({ statistics }: ScopeResult): Part => ({
  id: 'all',
  label: 'Overall',
  mark: 'overall',
  level: statistics.luma.mid,
});

/** The band edges, if a bands step is in hand. */
export const edgeParts = ({ heights }: ScopeResult): Part[] =>
  heights.length === 2
    ? [
        { id: 'highEdge', label: 'Highlights begin', text: '↕', level: heights[1] },
        { id: 'lowEdge', label: 'Shadows end', text: '↕', level: heights[0] },
      ]
    : [];

const SPAN = TRACE_HIGH - TRACE_LOW;
export const heightOf = (level: number, height: number): number => ((TRACE_HIGH - level) / SPAN) * height;
export const levelOfPixels = (pixels: number, height: number): number => (pixels / height) * SPAN;

/** Vertical positions of equally high handles: each beside its level, without overlap, within the scope. */
export function handleTops(levels: readonly number[], height: number, handle: number): number[] {
  const tops = levels.map((l) => heightOf(l, height) - handle / 2);
  // In a low scope they overlap evenly.
  const gap = Math.min(handle + 2, (height - handle) / Math.max(1, levels.length - 1));
  for (let i = 1; i < tops.length; i += 1) tops[i] = Math.max(tops[i], tops[i - 1] + gap);
  let limit = height - handle;
  for (let i = tops.length - 1; i >= 0; i -= 1) {
    tops[i] = Math.max(0, Math.min(tops[i], limit));
    limit = tops[i] - gap;
  }
  return tops;
}

/** Index of the number nearest to a value; −1 if there are none. */
export function nearest(values: readonly number[], to: number): number {
  let best = -1;
  values.forEach((v, i) => {
    if (best < 0 || Math.abs(v - to) < Math.abs(values[best] - to)) best = i;
  });
  return best;
}
