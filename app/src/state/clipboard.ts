import { create } from 'zustand';
import { stepsSchema, type Step } from '@inkavo/core/model/grade';

const KEY = 'inkavo-steps';

interface Clipboard {
  steps: Step[];
  /** The clip that they were copied from. */
  from: string | null;
}

function remembered(): Clipboard {
  try {
    const { steps, from } = JSON.parse(localStorage.getItem(KEY) ?? '') as Clipboard;
    return { steps: stepsSchema.parse(steps), from };
  } catch {
    return { steps: [], from: null };
  }
}

/** Steps that were copied, to be put into this clip or others; remembered on this device, known to its other pages. */
export const useClipboard = create<Clipboard & { copy(steps: Step[], from: string): void }>((set) => ({
  ...remembered(),
  copy(steps, from) {
    set({ steps, from });
    try {
      localStorage.setItem(KEY, JSON.stringify({ steps, from }));
    } catch {
      // No room: they are known as long as this page is open.
    }
  },
}));
if (typeof window !== 'undefined')
  window.addEventListener('storage', (e) => e.key === KEY && useClipboard.setState(remembered()));
