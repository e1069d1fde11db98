import { create } from 'zustand';

const KEY = 'inkavo-drawing';

/** What draws the picture: the GPU where there is one, or always one of the two. */
export type Drawing = 'auto' | 'gpu' | 'cpu';

/** What draws the picture, remembered on this device. */
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
