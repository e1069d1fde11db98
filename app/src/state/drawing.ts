import { create } from 'zustand';

const KEY = 'inkavo-drawing';

/** Renderer of the picture: the GPU if there is one, or always the one chosen. */
export type Drawing = 'auto' | 'gpu' | 'cpu';

/** Renderer of the picture, stored on this device. */
export const useDrawing = create<{ drawing: Drawing; setDrawing(drawing: Drawing): void }>((set) => {
  const kept = localStorage.getItem(KEY);
  return {
    drawing: kept === 'gpu' || kept === 'cpu' ? kept : 'auto',
    setDrawing(drawing) {
      localStorage.setItem(KEY, drawing);
      set({ drawing });
    },
  };
});
