import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';
import type { ClipState } from '@inkavo/core/model/outing';

/** How the clips of an outing are shown. */
export interface Arrangement {
  by: 'camera' | 'order';
  tiles: 'large' | 'small';
  /** Only clips in this state; null: all. */
  state: ClipState | null;
  search: string;
}

/** How outings are shown on this device. What is searched for is not remembered. */
export const useArrangement = create<Arrangement & { set(part: Partial<Arrangement>): void }>()(
  persist((set) => ({ by: 'camera', tiles: 'large', state: null, search: '', set: (part) => set(part) }), {
    name: 'inkavo-arrangement',
    storage: createJSONStorage(() => localStorage),
    partialize: ({ by, tiles }) => ({ by, tiles }),
  }),
);
