import { create } from 'zustand';

const KEY = 'inkavo-hints';
/** What a first visit is told, one after the other. */
export const HINTS = ['trace', 'chips', 'hold'] as const;
export type HintName = (typeof HINTS)[number];

interface Hints {
  done: HintName[];
  /** It was used, or closed: it does not come again. */
  finish(name: HintName): void;
  /** All of them again. */
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
    // They come again at the next visit.
  }
  return { done };
}

/** Hints about where to touch, remembered on this device. */
export const useHints = create<Hints>((set, get) => ({
  done: remembered(),
  finish(name) {
    if (!get().done.includes(name)) set(keep([...get().done, name]));
  },
  again: () => set(keep([])),
}));
