import { useBench } from './bench';

/** Moves the playhead of the open clip to a frame, clamped. */
export function goTo(frame: number): void {
  const { opened, set } = useBench.getState();
  const last = (opened?.clip.facts.frames ?? 1) - 1;
  set({ playing: false, frame: Math.min(last, Math.max(0, Math.round(frame))) });
}

/** Sets in to the playhead, at most to out. */
export function startHere(): void {
  const { frame, trim, setTrim } = useBench.getState();
  setTrim({ inFrame: Math.min(frame, trim.outFrame) });
}

/** Sets out to the playhead, at least to in. */
export function endHere(): void {
  const { frame, trim, setTrim } = useBench.getState();
  setTrim({ outFrame: Math.max(frame, trim.inFrame) });
}
