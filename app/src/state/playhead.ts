import { useBench } from './bench';

/** Goes to a frame of the open clip, within it. */
export function goTo(frame: number): void {
  const { opened, set } = useBench.getState();
  const last = (opened?.clip.facts.frames ?? 1) - 1;
  set({ playing: false, frame: Math.min(last, Math.max(0, Math.round(frame))) });
}

/** Sets in to the playhead; it does not pass out. */
export function startHere(): void {
  const { frame, trim, setTrim } = useBench.getState();
  setTrim({ inFrame: Math.min(frame, trim.outFrame) });
}

/** Sets out to the playhead; it does not pass in. */
export function endHere(): void {
  const { frame, trim, setTrim } = useBench.getState();
  setTrim({ outFrame: Math.max(frame, trim.inFrame) });
}
