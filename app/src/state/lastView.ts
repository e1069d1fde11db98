import { findStep } from './stepLists';
import { useBench, type BenchState } from './bench';
import { measured } from './bench/measured';

const KEY = 'inkavo-views';
/** Number of clips whose view is remembered. */
const MOST = 200;

type LastView = Pick<BenchState, 'frame' | 'inHand' | 'scopeView'>;

function all(): Record<string, LastView> {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '{}') as Record<string, LastView>;
  } catch {
    return {};
  }
}

/** The last clip opened on this device. */
export const lastClip = (): string | undefined => Object.keys(all()).at(-1);

/** Restores the view of a clip on this device: place, step in hand, scope. */
export function loadView(clipId: string): void {
  const view = all()[clipId];
  const { opened, lists, inHand } = useBench.getState();
  if (!view || opened?.clip.id !== clipId) return;
  useBench.setState({
    frame: Math.min(Math.max(0, view.frame), opened.clip.facts.frames - 1),
    inHand: findStep(lists, view.inHand) ? view.inHand : inHand,
    scopeView: view.scopeView,
  });
}

/** Stores the view of the open clip. */
export function keepView(): void {
  const { opened, frame, inHand, scopeView } = useBench.getState();
  if (opened) keep(opened.clip.id, { frame, inHand, scopeView });
}

/** Sets the frame that a closed clip shows when opened. */
export function openAt(clipId: string, frame: number): void {
  const before: LastView | undefined = all()[clipId];
  keep(clipId, { ...(before ?? { inHand: null, scopeView: measured.scopeView }), frame });
}

function keep(id: string, view: LastView): void {
  const others = Object.entries(all()).filter(([clipId]) => clipId !== id);
  const entries = [...others, [id, view] as const].slice(-MOST);
  try {
    localStorage.setItem(KEY, JSON.stringify(Object.fromEntries(entries)));
  } catch {
    // Without storage it opens in its default view.
  }
}
if (typeof window !== 'undefined') window.addEventListener('pagehide', keepView);
