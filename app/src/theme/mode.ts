import { create } from 'zustand';

export type Mode = 'dusk' | 'noon';

const KEY = 'inkavo-mode';

function show(mode: Mode): void {
  document.documentElement.dataset.mode = mode;
}

interface ModeState {
  mode: Mode;
  setMode(mode: Mode): void;
}

/** Dusk or Noon, stored on this device. */
export const useMode = create<ModeState>((set) => ({
  mode: localStorage.getItem(KEY) === 'noon' ? 'noon' : 'dusk',
  setMode(next) {
    localStorage.setItem(KEY, next);
    show(next);
    set({ mode: next });
  },
}));

/** Applies the stored colours before the first render, to avoid a flash. */
export const showRemembered = (): void => show(useMode.getState().mode);
