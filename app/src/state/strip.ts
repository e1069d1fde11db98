import { LONG_FRAMES } from '@inkavo/core/model/facts';
import { useBench, type BenchState, type Trim } from './bench';
import type { StripSpan } from './bench/place';

/** Room beside what is kept, as a share of it, and at least so many frames. */
const BESIDE = { share: 0.25, least: 12 };
/** A long clip of which no more than this share is kept opens with that part on the strip. */
const SMALL = 0.25;

/** What is kept of a clip of so many frames, with room beside it; null: that is all of it. */
export function keptSpan(frames: number, { inFrame, outFrame }: Trim): StripSpan | null {
  const room = Math.max(BESIDE.least, Math.round((outFrame - inFrame + 1) * BESIDE.share));
  const span = { first: Math.max(0, inFrame - room), last: Math.min(frames - 1, outFrame + room) };
  return span.last - span.first < frames - 1 ? span : null;
}

const framesOf = ({ opened }: BenchState): number => opened?.clip.facts.frames ?? 1;

/** What the strip shows. While a handle is dragged it stands still. */
export const shownStrip = (s: BenchState): StripSpan => s.strip ?? { first: 0, last: framesOf(s) - 1 };

const holds = ({ first, last }: StripSpan, frame: number): boolean => frame >= first && frame <= last;

/** Shows what is kept on the strip, where the playhead goes then, or the whole recording. */
export function showOnStrip(what: 'kept' | 'whole'): void {
  const state = useBench.getState();
  const strip = what === 'kept' ? keptSpan(framesOf(state), state.trim) : null;
  state.set({ strip, ...(strip && !holds(strip, state.frame) ? { frame: state.trim.inFrame, playing: false } : {}) });
}

// Of a long clip of which little is kept, the strip shows that: at the start, and after a cut.
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
// A place beside it that is gone to by other means: all is shown, and stays so.
useBench.subscribe(
  (s) => !holds(shownStrip(s), s.frame),
  (beside) => beside && showOnStrip('whole'),
);
