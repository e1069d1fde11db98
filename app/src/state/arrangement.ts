import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';
import type { ClipState } from '@inkavo/core/model/outing';

/** Display options of an outing's clips. */
export interface Arrangement {
  by: 'camera' | 'order';
  tiles: 'large' | 'small';
  /** Only clips in this state; null: all. */
  state: ClipState | null;
  search: string;
}

/** Display options of outings on this device. The search text is not stored. */
export const useArrangement = create<Arrangement & { set(part: Partial<Arrangement>): void }>()(
  persist((set) => ({ by: 'camera', tiles: 'large', state: null, search: '', set: (part) => set(part) }), {
    name: 'inkavo-arrangement',
    storage: createJSONStorage(() => localStorage),
    partialize: ({ by, tiles }) => ({ by, tiles }),
  }),
);
