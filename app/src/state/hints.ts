import { create } from 'zustand';

const KEY = 'inkavo-hints';
/** Hints for a first visit, in order. */
export const HINTS = ['trace', 'chips', 'hold'] as const;
export type HintName = (typeof HINTS)[number];

interface Hints {
  done: HintName[];
  /** Used or closed: not shown again. */
  finish(name: HintName): void;
  /** Shows all of them again. */
  again(): void;
}

function remembered(): HintName[] {
  try {
    const done = JSON.parse(localStorage.getItem(KEY) ?? '[]') as string[];
    return HINTS.filter((name) => done.includes(name));
  } catch {
    return [];
  }
}

function keep(done: HintName[]): { done: HintName[] } {
  try {
    localStorage.setItem(KEY, JSON.stringify(done));
  } catch {
    // They are shown again at the next visit.
  }
  return { done };
}

/** Hints about gestures, with their state stored on this device. */
export const useHints = create<Hints>((set, get) => ({
  done: remembered(),
  finish(name) {
    if (!get().done.includes(name)) set(keep([...get().done, name]));
  },
  again: () => set(keep([])),
}));
