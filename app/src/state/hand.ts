import { create } from 'zustand';

const KEY = 'inkavo-hand';

/** The hand in use: handles and the tray's values are on its side. */
export type Hand = 'right' | 'left';

/** Right or left, stored on this device. */
export const useHand = create<{ hand: Hand; setHand(hand: Hand): void }>((set) => ({
  hand: localStorage.getItem(KEY) === 'left' ? 'left' : 'right',
  setHand(hand) {
    localStorage.setItem(KEY, hand);
    set({ hand });
  },
}));
