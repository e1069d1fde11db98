import { LONG_FRAMES } from '@inkavo/core/model/facts';
import { useBench, type BenchState, type Trim } from './bench';
import type { StripSpan } from './bench/place';

/** Margin around the kept range, as a share of it, and its minimum in frames. */
const BESIDE = { share: 0.25, least: 12 };
/** A long clip opens zoomed to its kept range if that is at most this share. */
const SMALL = 0.25;

/** The kept range of a clip with this many frames, with margins; null: that is everything. */
export function keptSpan(frames: number, { inFrame, outFrame }: Trim): StripSpan | null {
  const room = Math.max(BESIDE.least, Math.round((outFrame - inFrame + 1) * BESIDE.share));
  const span = { first: Math.max(0, inFrame - room), last: Math.min(frames - 1, outFrame + room) };
  return span.last - span.first < frames - 1 ? span : null;
}

const framesOf = ({ opened }: BenchState): number => opened?.clip.facts.frames ?? 1;

/** The visible range of the strip. Frozen while a handle is dragged. */
export const shownStrip = (s: BenchState): StripSpan => s.strip ?? { first: 0, last: framesOf(s) - 1 };

const holds = ({ first, last }: StripSpan, frame: number): boolean => frame >= first && frame <= last;

/** Shows the kept range on the strip and moves the playhead there, or shows the whole recording. */
export function showOnStrip(what: 'kept' | 'whole'): void {
  const state = useBench.getState();
  const strip = what === 'kept' ? keptSpan(framesOf(state), state.trim) : null;
  state.set({ strip, ...(strip && !holds(strip, state.frame) ? { frame: state.trim.inFrame, playing: false } : {}) });
}

// Long clips with a short kept range are shown zoomed: at the start, and after a split.
useBench.subscribe(
  (s) => [s.opened?.clip.id, s.trim] as const,
  () => {
    const state = useBench.getState();
    const frames = framesOf(state);
    const { inFrame, outFrame } = state.trim;
    const isSmall = frames > LONG_FRAMES && outFrame - inFrame + 1 <= SMALL * frames;
    const shown = shownStrip(state);
    const within = inFrame >= shown.first && outFrame <= shown.last;
    const kept = isSmall ? keptSpan(frames, state.trim) : null;
    if (!state.strip || !within) state.set({ strip: kept && holds(kept, state.frame) ? kept : null });
  },
  { equalityFn: (a, b) => a[0] === b[0] && a[1] === b[1], fireImmediately: true },
);
// If the playhead leaves the range by other means, everything is shown from then on.
useBench.subscribe(
  (s) => !holds(shownStrip(s), s.frame),
  (beside) => beside && showOnStrip('whole'),
);
