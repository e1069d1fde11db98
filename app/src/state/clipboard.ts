import { create } from 'zustand';
import { stepSchema, type Step } from '@inkavo/core/model/grade';

const KEY = 'inkavo-step';

function remembered(): Step | null {
  try {
    return stepSchema.parse(JSON.parse(localStorage.getItem(KEY) ?? 'null'));
  } catch {
    return null;
  }
}

/** A step that was copied, to be put into this clip or another one; remembered on this device. */
export const useClipboard = create<{ step: Step | null; copy(step: Step): void }>((set) => ({
  step: remembered(),
  copy(step) {
    localStorage.setItem(KEY, JSON.stringify(step));
    set({ step });
  },
}));
