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

/** Dusk or Noon, remembered on this device. */
export const useMode = create<ModeState>((set) => {
  const mode: Mode = localStorage.getItem(KEY) === 'noon' ? 'noon' : 'dusk';
  show(mode);
  return {
    mode,
    setMode(next) {
      localStorage.setItem(KEY, next);
      show(next);
      set({ mode: next });
    },
  };
});
