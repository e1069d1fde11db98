import { askedNoise } from './frames/askedNoise';
import { shownLists, useBench, type BenchState } from '../state/bench';

/** Reactions of the engine to state changes of the bench. */
export interface Watcher {
  /** Steps have changed, or a drag has ended: a full table may be baked again. */
  steps(): void;
  frame(): void;
  /** Frames are requested with different noise reduction. */
  noise(): void;
  playing(playing: boolean): void;
  /** Another part of the picture is shown, or display options changed. */
  look(): void;
  /** Another part is shown, or of another frame. */
  part(): void;
  /** The comparison's reference has changed. */
  compared(): void;
  /** The scopes show something else. */
  scopes(): void;
  /** The playback speed has changed. */
  speed(): void;
}

const alike = (a: readonly unknown[], b: readonly unknown[]): boolean =>
  a.length === b.length && a.every((v, i) => v === b[i]);

/** Watches the bench's state until unsubscribed. */
export function watchBench(on: Watcher): () => void {
  const watch = (what: (s: BenchState) => readonly unknown[], then: () => void): (() => void) =>
    useBench.subscribe(what, then, { equalityFn: alike });
  const stops = [
    watch((s) => [shownLists(s)], on.steps),
    watch((s) => [s.live === null], on.steps),
    watch((s) => [s.frame], on.frame),
    watch((s) => [askedNoise(s, 'graded')], on.noise),
    watch(
      (s) => [s.playing],
      () => on.playing(useBench.getState().playing),
    ),
    watch((s) => [s.view, s.untouched, s.split, s.overlay, s.eyeRest, s.beside], on.look),
    watch((s) => [s.view, s.frame, s.atRest], on.part),
    watch(
      (s) => (s.compareWith === 'step' || s.compareWith === 'region' ? [s.inHand, s.lists] : [s.compareWith]),
      on.compared,
    ),
    watch((s) => [s.scopeView, s.padZoom, s.inHand], on.scopes),
    watch((s) => [s.play.speed, s.opened?.clip.retime?.factor], on.speed),
  ];
  return () => stops.forEach((stop) => stop());
}
