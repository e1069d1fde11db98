import { temporal } from 'zundo';
import { create } from 'zustand';
import { subscribeWithSelector } from 'zustand/middleware';
import { useShallow } from 'zustand/react/shallow';
import type { StepLists } from '@inkavo/core/model/lists';
import type { ClipOpened } from '../../api/client';
import { listsOf } from '../lists';
import { leaveRegion } from '../regions';
import { findStep, ownedSteps, type OwnedStep } from '../stepLists';
import { comparing, uncompared, type Comparing } from './comparing';
import { grade, type Grade, type GradeActions, type Trim } from './grade';
import { emptyHand, hand, type Hand, type HandActions } from './hand';
import { measured, unmeasured, type Measured } from './measured';
import { opening, place, type Place } from './place';

export type { Trim } from './grade';
export type { Spot } from './hand';
export type { Pin, ScopeView } from './measured';
export type { Playing } from './place';

/** Display state of a clip: everything but its grade. */
interface Shown extends Place, Hand, Comparing, Measured {
  opened: ClipOpened | null;
}

export interface BenchState extends Shown, Grade, GradeActions, HandActions {
  open(opened: ClipOpened): void;
  /** Changes the display state, never the steps. */
  set(part: Partial<Shown>): void;
}

/**
 * The bench: one clip, its steps, and what is in hand. Composed of the files of this folder; steps, in and out, the
 * dive log and the speed are undoable.
 */
export const useBench = create<BenchState>()(
  temporal(
    subscribeWithSelector((set, get) => ({
      opened: null,
      ...place,
      ...comparing,
      ...measured,
      ...hand(set, get),
      ...grade(set, get),

      open(opened) {
        leaveRegion();
        const lists = listsOf(opened);
        const first = ownedSteps(lists)[0]?.step.id ?? null;
        const { clip } = opened;
        set({
          opened,
          lists,
          live: null,
          offer: null,
          trim: { inFrame: clip.inFrame, outFrame: clip.outFrame },
          trimming: null,
          dive: clip.dive,
          retime: clip.retime,
          inHand: findStep(lists, get().inHand) ? get().inHand : first,
          ...opening(clip.referenceFrame),
          ...emptyHand,
          ...uncompared,
          ...unmeasured,
        });
        useBench.temporal.getState().clear();
      },
      set: (part) => set(part),
    })),
    {
      partialize: ({ lists, trim, dive, retime }) => ({ lists, trim, dive, retime }),
      equality: (a, b) => a.lists === b.lists && a.trim === b.trim && a.dive === b.dive && a.retime === b.retime,
    },
  ),
);

/** The displayed steps: live ones during a drag; including proposed ones during a preview. */
export const shownLists = ({ live, lists, offer }: BenchState): StepLists =>
  live ?? (offer && !offer.without ? offer.lists : lists);

/** The displayed in and out. */
export const shownTrim = (s: BenchState): Trim => s.trimming ?? s.trim;

/** A displayed step and its owner. */
export const useOwnedStep = (id: string | null): OwnedStep | undefined =>
  useBench(useShallow((s) => findStep(shownLists(s), id)));
