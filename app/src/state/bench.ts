import { temporal } from 'zundo';
import { create } from 'zustand';
import { subscribeWithSelector } from 'zustand/middleware';
import { useShallow } from 'zustand/react/shallow';
import { newStep, type Override, type Step } from '@inkavo/core/model/grade';
import type { Owner } from '@inkavo/core/model/outing';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import type { ClipOpened } from '../api/client';
import type { ColourReading, ScopeResult } from '../engine/worker';
import {
  addStep,
  changeStep,
  findStep,
  giveStep,
  moveStep,
  overrideStep,
  ownedSteps,
  removeStep,
  resetClipSteps,
  type OwnedStep,
  type StepLists,
} from './stepLists';

export type ScopeView = 'luma' | 'parade';

/** What is known of the spot that was touched last. */
export interface Spot {
  area: Area;
  reading: ColourReading | null;
  /** A refusal or an answer to "this is neutral". */
  note?: { text: string; refused: boolean };
}

/** What {@link BenchState.set} may change: what is shown, never the steps. */
type Shown =
  | 'frame'
  | 'playing'
  | 'untouched'
  | 'atRest'
  | 'picking'
  | 'spot'
  | 'scopeView'
  | 'scope'
  | 'trouble'
  | 'opened'
  | 'sheet';

export interface BenchState {
  opened: ClipOpened | null;
  /** The steps as they are kept. Only this is undone and redone. */
  lists: StepLists;
  /** The steps while a finger is down; on lifting they become `lists`. */
  live: StepLists | null;
  inHand: string | null;
  /** The step whose sheet is open. */
  sheet: string | null;
  frame: number;
  playing: boolean;
  /** Shows the picture as recorded, while it is held. */
  untouched: boolean;
  /** The frame on the screen is the one at rest, from the original. */
  atRest: boolean;
  picking: boolean;
  spot: Spot | null;
  scopeView: ScopeView;
  scope: ScopeResult | null;
  /** A sentence about something that does not work, or null. */
  trouble: string | null;

  open(opened: ClipOpened): void;
  set(part: Partial<Pick<BenchState, Shown>>): void;
  take(id: string): void;
  /** Changes parameters of a step; `live` while a finger is down. */
  setParams(id: string, params: Record<string, unknown>, live?: boolean): void;
  setStep(id: string, part: Partial<Pick<Step, 'on' | 'strength' | 'label'>>, live?: boolean): void;
  /** What this clip changes about a step it inherits. */
  overrideStep(id: string, here: Override, live?: boolean): void;
  /** Makes what was changed live count, as one thing to undo. */
  settle(): void;
  addStep(kind: string): void;
  removeStep(id: string): void;
  resetStep(id: string): void;
  giveStep(id: string, owner: Owner): void;
  moveStep(id: string, by: -1 | 1): void;
  resetAll(): void;
}

const NONE: StepLists = { camera: [], clip: [], outing: [], overrides: {} };

export const listsOf = ({ clip, camera, outing }: ClipOpened): StepLists => ({
  camera: camera.steps,
  clip: clip.steps,
  outing: outing.steps,
  overrides: clip.overrides,
});

/** The bench: one clip, its steps, and what is in hand. */
export const useBench = create<BenchState>()(
  temporal(
    subscribeWithSelector((set, get) => {
      const change = (id: string, f: (step: Step) => Step, live: boolean): void => {
        const next = changeStep(get().live ?? get().lists, id, f);
        set(live ? { live: next } : { lists: next, live: null });
      };
      return {
        opened: null,
        lists: NONE,
        live: null,
        inHand: null,
        sheet: null,
        frame: 0,
        playing: false,
        untouched: false,
        atRest: false,
        picking: false,
        spot: null,
        scopeView: 'luma',
        scope: null,
        trouble: null,

        open(opened) {
          const lists = listsOf(opened);
          const first = ownedSteps(lists)[0]?.step.id ?? null;
          set({
            opened,
            lists,
            live: null,
            inHand: findStep(lists, get().inHand) ? get().inHand : first,
            frame: opened.clip.referenceFrame,
            playing: false,
            atRest: false,
            spot: null,
            picking: false,
            sheet: null,
            scope: null,
            trouble: null,
          });
          useBench.temporal.getState().clear();
        },
        set: (part) => set(part),
        take: (id) => set({ inHand: id, picking: false, ...(id === get().inHand ? {} : { spot: null }) }),
        setParams: (id, params, live = false) =>
          change(id, (s) => ({ ...s, params: { ...s.params, ...params } }), live),
        setStep: (id, part, live = false) => change(id, (s) => ({ ...s, ...part }), live),
        overrideStep(id, here, live = false) {
          const next = overrideStep(get().live ?? get().lists, id, here);
          set(live ? { live: next } : { lists: next, live: null });
        },
        settle() {
          const { live } = get();
          if (live) set({ lists: live, live: null });
        },
        addStep(kind) {
          const { lists, id } = addStep(get().lists, kind);
          set({ lists, inHand: id });
        },
        removeStep(id) {
          const lists = removeStep(get().lists, id);
          set({ lists, inHand: ownedSteps(lists)[0]?.step.id ?? null });
        },
        resetStep: (id) => change(id, (s) => newStep(s.kind, s.id), false),
        giveStep(id, owner) {
          const given = giveStep(get().lists, id, owner);
          set({ lists: given.lists, inHand: given.id, sheet: get().sheet === id ? given.id : get().sheet });
        },
        moveStep: (id, by) => set({ lists: moveStep(get().lists, id, by) }),
        resetAll: () => set({ lists: resetClipSteps(get().lists) }),
      };
    }),
    {
      partialize: ({ lists }) => ({ lists }),
      equality: (a, b) => a.lists === b.lists,
    },
  ),
);

/** The steps that are shown: while a finger is down, the live ones. */
export const shownLists = (s: BenchState): StepLists => s.live ?? s.lists;

/** A step, and whose it is, as it is shown. */
export const useOwnedStep = (id: string | null): OwnedStep | undefined =>
  useBench(useShallow((s) => findStep(shownLists(s), id)));
