import { create } from 'zustand';
import { stepsSchema, type Step } from '@inkavo/core/model/grade';

const KEY = 'inkavo-steps';

interface Clipboard {
  steps: Step[];
  /** The clip that they were copied from. */
  from: string | null;
  /** Ids of those whose depth was that of its dive log. */
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

/** Steps that were copied, to be put into this clip or others; remembered on this device, known to its other pages. */
export const useClipboard = create<Clipboard & { copy(copied: Clipboard): void }>((set) => ({
  ...remembered(),
  copy(copied) {
    set(copied);
    try {
      localStorage.setItem(KEY, JSON.stringify(copied));
    } catch {
      // No room: they are known as long as this page is open.
    }
  },
}));
if (typeof window !== 'undefined')
  window.addEventListener('storage', (e) => e.key === KEY && useClipboard.setState(remembered()));
