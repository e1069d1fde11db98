import type { Mark } from '@inkavo/core/scopes/readings';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import type { ColourReading } from '../../engine/worker/areas';
import { leaveRegion } from '../regions';
import type { GetBench, SetBench } from './store';

/** What is known of the spot that was touched last. */
export interface Spot {
  area: Area;
  reading: ColourReading | null;
  /** A refusal or an answer to "this is neutral". */
  note?: { text: string; refused: boolean };
}

/** What of the step in hand is open. */
export interface Hand {
  /** The step whose sheet is open. */
  sheet: string | null;
  /** What the next tap on the picture is for, by the name that a kind's controls give it. */
  picking: string | null;
  /** Whether a number's keyframes are shown in place of the rulers, and which number's. */
  keying: string | null;
  spot: Spot | null;
  /** The group of numbers that is shown. */
  group: string;
  /** The stem in hand on the hue band. */
  stem: number;
  /** The mark in hand on the pad. */
  mark: Mark;
}

export interface HandActions {
  inHand: string | null;
  take(id: string): void;
}

/** What a clip that opens begins with. */
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
