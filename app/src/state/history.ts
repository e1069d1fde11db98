import { get, set as store } from 'idb-keyval';
import { useBench } from './bench';
import type { StepLists } from '@inkavo/core/model/lists';

interface History {
  /** The steps that the history leads to: with others it is of no use. */
  present: string;
  past: { lists: StepLists }[];
  future: { lists: StepLists }[];
}

const keyOf = (clipId: string): string => `inkavo-history-${clipId}`;
const DELAY_MS = 300;
let timer: ReturnType<typeof setTimeout> | undefined;

/** Brings back what could be undone and redone when the clip was last open on this device, if it still fits. */
export async function loadHistory(clipId: string): Promise<void> {
  const history = await get<History>(keyOf(clipId)).catch(() => undefined);
  const { opened, lists } = useBench.getState();
  const { pastStates, futureStates } = useBench.temporal.getState();
  const fresh = pastStates.length === 0 && futureStates.length === 0;
  if (!history || opened?.clip.id !== clipId || !fresh || JSON.stringify(lists) !== history.present) return;
  useBench.temporal.setState({ pastStates: history.past, futureStates: history.future });
}

/** Brings what can be undone and redone onto other lists, so that undoing never takes back what others changed. */
export function rebaseHistory(onto: (lists: StepLists) => StepLists): void {
  const { pastStates, futureStates } = useBench.temporal.getState();
  const moved = (states: { lists?: StepLists }[]) => states.map((s) => (s.lists ? { ...s, lists: onto(s.lists) } : s));
  useBench.temporal.setState({ pastStates: moved(pastStates), futureStates: moved(futureStates) });
}

function save(): void {
  const { opened, lists } = useBench.getState();
  if (!opened) return;
  const { pastStates, futureStates } = useBench.temporal.getState();
  const history: History = {
    present: JSON.stringify(lists),
    past: pastStates as History['past'],
    future: futureStates as History['future'],
  };
  // Where the browser has no room or no store, undo works as long as the page is open.
  void store(keyOf(opened.clip.id), history).catch(() => undefined);
}

useBench.subscribe(
  (s) => s.lists,
  (_lists, before) => {
    clearTimeout(timer);
    if (before && useBench.getState().opened) timer = setTimeout(save, DELAY_MS);
  },
);
if (typeof window !== 'undefined')
  window.addEventListener('pagehide', () => {
    clearTimeout(timer);
    save();
  });
