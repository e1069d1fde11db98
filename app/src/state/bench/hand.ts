import type { Mark } from '@inkavo/core/scopes/readings';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import type { ColourReading } from '../../engine/worker/areas';
import { leaveRegion } from '../regions';
import type { GetBench, SetBench } from './store';

/** Values of the last touched spot. */
export interface Spot {
  area: Area;
  reading: ColourReading | null;
  /** A response to "this is neutral". */
  note?: { text: string; refused: boolean };
}

/** Open parts of the step in hand. */
export interface Hand {
  /** The step whose sheet is open. */
  sheet: string | null;
  /** Purpose of the next tap on the picture, by the name that a kind's controls use. */
  picking: string | null;
  /** Whether keyframes are shown instead of the rulers, and of which number. */
  keying: string | null;
  spot: Spot | null;
  /** The visible group of numbers. */
  group: string;
  /** The selected stem on the hue band. */
  stem: number;
  /** The selected mark on the pad. */
  mark: Mark;
}

export interface HandActions {
  inHand: string | null;
  take(id: string): void;
}

/** Initial state for an opened clip. */
export const emptyHand: Omit<Hand, 'group' | 'stem' | 'mark'> = {
  sheet: null,
  picking: null,
  keying: null,
  spot: null,
};

export const hand = (set: SetBench, get: GetBench): Hand & HandActions => ({
  ...emptyHand,
  group: '',
  stem: 0,
  mark: 'midtones',
  inHand: null,
  take(id) {
    const another = id !== get().inHand;
    if (another) leaveRegion();
    set({ inHand: id, picking: null, ...(another ? { keying: null, spot: null } : {}) });
  },
});
