import equal from 'fast-deep-equal';
import { get, set as store } from 'idb-keyval';
import type { StepLists } from '@inkavo/core/model/lists';
import { useBench, type BenchState, type Trim } from './bench';

/** An undoable state. Parts may be missing if stored by an earlier version. */
type Moment = Partial<Pick<BenchState, 'lists' | 'trim' | 'dive' | 'retime'>>;

interface History {
  /** The state that the history leads to: it is invalid for any other. */
  present: string;
  past: Moment[];
  future: Moment[];
}

const keyOf = (clipId: string): string => `inkavo-history-${clipId}`;
/** The history of the last closed page: written synchronously, since a closing page does not wait. */
const LEFT = 'inkavo-history-left';
/** Limits of stored history: states, and characters, of which browsers allow a page some five million in total. */
const LEFT_MOST = { moments: 30, characters: 2e6 };
const DELAY_MS = 300;
let timer: ReturnType<typeof setTimeout> | undefined;

const presentOf = ({ lists, trim, dive, retime }: BenchState): string => JSON.stringify([lists, trim, dive, retime]);

function leftOf(clipId: string): History | undefined {
  try {
    const left = JSON.parse(localStorage.getItem(LEFT) ?? '') as { clipId: string; history: History };
    return left.clipId === clipId ? left.history : undefined;
  } catch {
    return undefined;
  }
}

/** Restores the undo history of a clip's last session on this device, if it still matches. */
export async function loadHistory(clipId: string): Promise<void> {
  const stored = await get<History>(keyOf(clipId)).catch(() => undefined);
  const state = useBench.getState();
  const present = presentOf(state);
  const history = [leftOf(clipId), stored].find((h) => h?.present === present);
  const { pastStates, futureStates } = useBench.temporal.getState();
  const fresh = pastStates.length === 0 && futureStates.length === 0;
  if (!history || state.opened?.clip.id !== clipId || !fresh) return;
  useBench.temporal.setState({ pastStates: history.past, futureStates: history.future });
}

/** Rebases the undo history onto other lists, so that undoing never reverts changes by others. */
export function rebaseHistory(onto: (lists: StepLists) => StepLists): void {
  const { pastStates, futureStates } = useBench.temporal.getState();
  const moved = (states: Moment[]) => states.map((s) => (s.lists ? { ...s, lists: onto(s.lists) } : s));
  useBench.temporal.setState({ pastStates: moved(pastStates), futureStates: moved(futureStates) });
}

/**
 * Updates in, out, dive log and speed in the undo history to what others set: states with the old value get the new
 * one.
 */
export function rebaseClipHistory(
  was: Pick<BenchState, 'trim' | 'dive' | 'retime'>,
  now: Pick<BenchState, 'trim' | 'dive' | 'retime'>,
): void {
  const end = (trim: Trim, key: keyof Trim): number => (trim[key] === was.trim[key] ? now.trim[key] : trim[key]);
  const moved = (states: Moment[]) =>
    states.map((s) => ({
      ...s,
      ...(s.trim ? { trim: { inFrame: end(s.trim, 'inFrame'), outFrame: end(s.trim, 'outFrame') } } : {}),
      ...(s.dive !== undefined && equal(s.dive, was.dive) ? { dive: now.dive } : {}),
      ...(s.retime !== undefined && equal(s.retime, was.retime) ? { retime: now.retime } : {}),
    }));
  const { pastStates, futureStates } = useBench.temporal.getState();
  useBench.temporal.setState({ pastStates: moved(pastStates), futureStates: moved(futureStates) });
}

function historyNow(): { clipId: string; history: History } | undefined {
  const state = useBench.getState();
  if (!state.opened) return undefined;
  const { pastStates, futureStates } = useBench.temporal.getState();
  return {
    clipId: state.opened.clip.id,
    history: { present: presentOf(state), past: pastStates, future: futureStates },
  };
}

function save(): void {
  const now = historyNow();
  // Without storage, undo works while the page is open.
  if (now) void store(keyOf(now.clipId), now.history).catch(() => undefined);
}

function saveAtOnce(): void {
  const now = historyNow();
  if (!now) return;
  const { present, past, future } = now.history;
  // Each state is about as large as the current one, and half of them are past ones.
  const room = Math.floor(LEFT_MOST.characters / Math.max(1, present.length));
  const count = Math.min(LEFT_MOST.moments, Math.floor(room / 2));
  if (count === 0) return localStorage.removeItem(LEFT);
  const history = { present, past: past.slice(-count), future: future.slice(-count) };
  try {
    localStorage.setItem(LEFT, JSON.stringify({ clipId: now.clipId, history }));
  } catch {
    localStorage.removeItem(LEFT);
  }
}

useBench.subscribe(
  (s) => [s.lists, s.trim, s.dive, s.retime],
  () => {
    clearTimeout(timer);
    if (useBench.getState().opened) timer = setTimeout(save, DELAY_MS);
  },
  { equalityFn: (a, b) => a.every((v, i) => v === b[i]) },
);
if (typeof window !== 'undefined')
  window.addEventListener('pagehide', () => {
    clearTimeout(timer);
    // A drag in progress is included; states stay as they are once settled.
    useBench.getState().settle();
    saveAtOnce();
    save();
  });
