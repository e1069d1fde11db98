import { create } from 'zustand';
import { stepsSchema, type Step } from '@inkavo/core/model/grade';

const KEY = 'inkavo-steps';

interface Clipboard {
  steps: Step[];
  /** The clip that they were copied from. */
  from: string | null;
  /** Ids of those whose depth followed the clip's dive log. */
  following: readonly string[];
}

function remembered(): Clipboard {
  try {
    const { steps, from, following = [] } = JSON.parse(localStorage.getItem(KEY) ?? '') as Clipboard;
    return { steps: stepsSchema.parse(steps), from, following };
  } catch {
    return { steps: [], from: null, following: [] };
  }
}

/** Copied steps, to be inserted into this or other clips; stored on this device, shared with its other pages. */
export const useClipboard = create<Clipboard & { copy(copied: Clipboard): void }>((set) => ({
  ...remembered(),
  copy(copied) {
    set(copied);
    try {
      localStorage.setItem(KEY, JSON.stringify(copied));
    } catch {
      // Storage is full: they are kept while the page is open.
    }
  },
}));
if (typeof window !== 'undefined')
  window.addEventListener('storage', (e) => e.key === KEY && useClipboard.setState(remembered()));
