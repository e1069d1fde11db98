import { create } from 'zustand';

const KEY = 'inkavo-hand';

/** The hand that works: handles and the tray's values lie on its side. */
export type Hand = 'right' | 'left';

/** Right or left, remembered on this device. */
export const useHand = create<{ hand: Hand; setHand(hand: Hand): void }>((set) => ({
  hand: localStorage.getItem(KEY) === 'left' ? 'left' : 'right',
  setHand(hand) {
    localStorage.setItem(KEY, hand);
    set({ hand });
  },
}));
