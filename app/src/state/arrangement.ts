import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';
import type { Arrangement } from '../screens/outing/arrange';

/** How outings are shown on this device. What is searched for is not remembered. */
export const useArrangement = create<Arrangement & { set(part: Partial<Arrangement>): void }>()(
  persist((set) => ({ by: 'camera', tiles: 'large', state: null, search: '', set: (part) => set(part) }), {
    name: 'inkavo-arrangement',
    storage: createJSONStorage(() => localStorage),
    partialize: ({ by, tiles }) => ({ by, tiles }),
  }),
);
