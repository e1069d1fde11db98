import { temporal } from 'zundo';
import { create } from 'zustand';
import { subscribeWithSelector } from 'zustand/middleware';
import { useShallow } from 'zustand/react/shallow';
import type { Aspect } from '@inkavo/core/model/delivery';
import { secondsOf } from '@inkavo/core/model/facts';
import type { ClipDive } from '@inkavo/core/model/diveLog';
import type { Retime } from '@inkavo/core/model/retime';
import { isKeyframed, withKey } from '@inkavo/core/regions/keyframes';
import { newStep, type Override, type Step } from '@inkavo/core/model/grade';
import type { Owner } from '@inkavo/core/model/lists';
import type { HoldReport } from '@inkavo/core/reading/holdCheck';
import type { Mark } from '@inkavo/core/scopes/readings';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import type { ClipOpened } from '../api/client';
import { WHOLE, type View } from '../engine/look';
import { listsOf } from './lists';
import type { ColourReading, ScopeResult } from '../engine/worker';
import { leaveRegion } from './regions';
import { tellShared } from './shared';
import { type StepLists } from '@inkavo/core/model/lists';
import {
  addCopies,
  addStep,
  changeStep,
  findStep,
  giveStep,
  moveStep,
  overrideStep,
  putInPlace,
  placeStep,
  ownedSteps,
  removeStep,
  takeSteps,
  resetClipSteps,
  type OwnedStep,
} from './stepLists';

export type ScopeView = 'luma' | 'parade' | 'pad' | 'histogram';

/** A place in the picture that goes on reading. */
export interface Pin {
  id: string;
  area: Area;
  reading: ColourReading | null;
}

/** What is known of the spot that was touched last. */
export interface Spot {
  area: Area;
  reading: ColourReading | null;
  /** A refusal or an answer to "this is neutral". */
  note?: { text: string; refused: boolean };
}

/** First and last frame that are kept of a clip. */
export interface Trim {
  inFrame: number;
  outFrame: number;
}

/** How a clip is played. */
export interface Playing {
  /** Times the recorded speed. */
  speed: number;
  /** Round and round between in and out. */
  loop: boolean;
}

/** What {@link BenchState.set} may change: what is shown, never the steps. */
type Shown =
  | 'frame'
  | 'playing'
  | 'play'
  | 'full'
  | 'reading'
  | 'untouched'
  | 'atRest'
  | 'picking'
  | 'keying'
  | 'hold'
  | 'stem'
  | 'spot'
  | 'scopeView'
  | 'padZoom'
  | 'view'
  | 'mark'
  | 'group'
  | 'overlay'
  | 'guide'
  | 'split'
  | 'eyeRest'
  | 'compareWith'
  | 'beside'
  | 'kept'
  | 'keptTitle'
  | 'keptTraces'
  | 'pins'
  | 'scope'
  | 'opened'
  | 'sheet';

export interface BenchState {
  opened: ClipOpened | null;
  /** The steps as they are kept. These, in and out, the dive log and the speed are undone and redone. */
  lists: StepLists;
  trim: Trim;
  dive: ClipDive | null;
  /** How fast it is delivered; null: as recorded. */
  retime: Retime | null;
  /** In and out while a finger moves one of them; on lifting they become `trim`. */
  trimming: Trim | null;
  /** The steps while a finger is down; on lifting they become `lists`. */
  live: StepLists | null;
  inHand: string | null;
  /** The step whose sheet is open. */
  sheet: string | null;
  frame: number;
  playing: boolean;
  play: Playing;
  /** The picture has the whole window. */
  full: boolean;
  /** Which of the frame's readings is said; counted on without end. */
  reading: number;
  /** Shows the picture as recorded, while it is held. */
  untouched: boolean;
  /** The frame on the screen is the one at rest, from the original. */
  atRest: boolean;
  /** What the next tap on the picture is for, by the name that a kind's controls give it. */
  picking: string | null;
  /** Whether a number's keyframes are shown in place of the rulers, and which number's. */
  keying: string | null;
  /** What the last hold check found, and for which steps. */
  hold: { report: HoldReport; lists: StepLists } | null;
  /** The stem in hand on the hue band. */
  stem: number;
  spot: Spot | null;
  scopeView: ScopeView;
  /** The part of the picture that is shown. */
  view: View;
  /** How far the pad is magnified. */
  padZoom: number;
  /** The mark in hand on the pad. */
  mark: Mark;
  /** The group of numbers that is shown of the step in hand. */
  group: string;
  /** What is drawn over the picture. */
  overlay: 'none' | 'zones' | 'clipping';
  /** What a cut to this shape would take away is covered; of all clips that are opened. */
  guide: Aspect | null;
  /** Left of this share of the picture's width it is as recorded; null: no split. */
  split: number | null;
  /** What the grade is held against: the file, the grade without the step in hand or all steps in its region, or a kept frame. */
  compareWith: 'recorded' | 'step' | 'region' | 'kept';
  /** What it is compared with stands beside the picture. */
  beside: boolean;
  /** A picture that was kept of this clip, as an address of the browser's. */
  kept: string | null;
  /** What it is a picture of, where it is not of this clip. */
  keptTitle: string | null;
  /** Its traces, while it is shown. */
  keptTraces: Pick<ScopeResult, 'main' | 'pad'> | null;
  /** Places that go on reading. */
  pins: Pin[];
  /** A neutral field in place of the picture, for a moment; then the picture as recorded, then as graded. */
  eyeRest: 'field' | 'before' | null;
  scope: ScopeResult | null;

  open(opened: ClipOpened): void;
  set(part: Partial<Pick<BenchState, Shown>>): void;
  take(id: string): void;
  /** Changes parameters of a step; `live` while a finger is down. */
  setParams(id: string, params: Record<string, unknown>, live?: boolean): void;
  /** Sets one parameter as it is given, keyframes or not. */
  setParam(id: string, key: string, value: unknown): void;
  setStep(id: string, part: Partial<Pick<Step, 'on' | 'strength' | 'label'>>, live?: boolean): void;
  /** What this clip changes about a step it inherits. */
  overrideStep(id: string, here: Override, live?: boolean): void;
  /** The lists with a change, as one thing to undo; `live` while a finger is down. */
  edit(f: (lists: StepLists) => StepLists, live?: boolean): void;
  /** Makes what was changed live count, as one thing to undo. */
  settle(): void;
  setTrim(part: Partial<Trim>, live?: boolean): void;
  /** Takes a dive log, or takes it away; `params` of a step follow it in the same change. */
  setDive(dive: ClipDive | null, follow?: { id: string; params: Record<string, unknown> }): void;
  setRetime(retime: Retime | null): void;
  addStep(kind: string): void;
  /** Takes steps of a first pass into the clip. */
  takeSteps(steps: readonly Step[]): void;
  /** The clip's steps with a change, as one thing to undo. */
  setClipSteps(steps: Step[]): void;
  /** Puts copies of steps into the clip; `beside`: next to those that are there, not in their place. */
  pasteSteps(steps: readonly Step[], beside: boolean): void;
  placeStep(id: string, at: string): void;
  removeStep(id: string): void;
  resetStep(id: string): void;
  giveStep(id: string, owner: Owner): void;
  moveStep(id: string, by: -1 | 1): void;
  resetAll(): void;
}

/** New parameters; a plain number for one that changes over the clip becomes a key where the needle stands. */
function atNeedle(
  old: Record<string, unknown>,
  next: Record<string, unknown>,
  seconds: number,
): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(next).map(([key, value]) => {
      const before = old[key];
      return [key, isKeyframed(before) && typeof value === 'number' ? withKey(before, seconds, value) : value];
    }),
  );
}

const NONE: StepLists = { camera: [], clip: [], outing: [], overrides: {} };

/** The bench: one clip, its steps, and what is in hand. */
export const useBench = create<BenchState>()(
  temporal(
    subscribeWithSelector((set, get) => {
      const change = (id: string, f: (step: Step) => Step, live: boolean): void => {
        const { lists: before } = get();
        const next = changeStep(get().live ?? before, id, f);
        set(live ? { live: next } : { lists: next, live: null });
        if (!live) tellShared(get().opened, before, next, get().edit);
      };
      return {
        opened: null,
        lists: NONE,
        live: null,
        trim: { inFrame: 0, outFrame: 0 },
        dive: null,
        retime: null,
        trimming: null,
        play: { speed: 1, loop: true },
        full: false,
        reading: 0,
        inHand: null,
        sheet: null,
        frame: 0,
        playing: false,
        untouched: false,
        atRest: false,
        picking: null,
        keying: null,
        hold: null,
        stem: 0,
        spot: null,
        scopeView: 'luma',
        view: WHOLE,
        padZoom: 1.5,
        mark: 'midtones',
        group: '',
        overlay: 'none',
        guide: null,
        split: null,
        eyeRest: null,
        compareWith: 'recorded',
        beside: false,
        kept: null,
        keptTitle: null,
        keptTraces: null,
        pins: [],
        scope: null,

        open(opened) {
          leaveRegion();
          const lists = listsOf(opened);
          const first = ownedSteps(lists)[0]?.step.id ?? null;
          set({
            pins: [],
            view: WHOLE,
            split: null,
            overlay: 'none',
            compareWith: 'recorded',
            beside: false,
            eyeRest: null,
            keying: null,
            hold: null,
            opened,
            lists,
            live: null,
            trim: { inFrame: opened.clip.inFrame, outFrame: opened.clip.outFrame },
            dive: opened.clip.dive,
            retime: opened.clip.retime,
            trimming: null,
            full: false,
            reading: 0,
            inHand: findStep(lists, get().inHand) ? get().inHand : first,
            frame: opened.clip.referenceFrame,
            playing: false,
            atRest: false,
            spot: null,
            picking: null,
            sheet: null,
            scope: null,
          });
          useBench.temporal.getState().clear();
        },
        set: (part) => set(part),
        take: (id) => {
          if (id !== get().inHand) leaveRegion();
          set({
            inHand: id,
            picking: null,
            ...(id === get().inHand ? {} : { keying: null }),
            ...(id === get().inHand ? {} : { spot: null }),
          });
        },
        setParams(id, params, live = false) {
          const { opened, frame } = get();
          const seconds = opened ? secondsOf(opened.clip.facts, frame) : 0;
          change(id, (s) => ({ ...s, params: { ...s.params, ...atNeedle(s.params, params, seconds) } }), live);
        },
        setParam: (id, key, value) => change(id, (s) => ({ ...s, params: { ...s.params, [key]: value } }), false),
        setStep: (id, part, live = false) => change(id, (s) => ({ ...s, ...part }), live),
        overrideStep(id, here, live = false) {
          const next = overrideStep(get().live ?? get().lists, id, here);
          set(live ? { live: next } : { lists: next, live: null });
        },
        edit(f, live = false) {
          const next = f(get().live ?? get().lists);
          set(live ? { live: next } : { lists: next, live: null });
        },
        settle() {
          const { live, lists: before, trimming } = get();
          if (live) {
            set({ lists: live, live: null });
            tellShared(get().opened, before, live, get().edit);
          }
          if (trimming) set({ trim: trimming, trimming: null });
        },
        setTrim(part, live = false) {
          const { trim, trimming, opened } = get();
          const last = (opened?.clip.facts.frames ?? 1) - 1;
          const next = { ...(trimming ?? trim), ...part };
          const inFrame = Math.min(Math.max(0, next.inFrame), last);
          const outFrame = Math.min(Math.max(0, next.outFrame), last);
          if (inFrame > outFrame) return;
          set(live ? { trimming: { inFrame, outFrame } } : { trim: { inFrame, outFrame }, trimming: null });
        },
        setDive(dive, follow) {
          const { lists } = get();
          const into = (step: Step): Step => ({ ...step, params: { ...step.params, ...follow?.params } });
          set({ dive, ...(follow ? { lists: changeStep(lists, follow.id, into) } : {}) });
        },
        setRetime: (retime) => set({ retime }),
        addStep(kind) {
          const { lists, id } = addStep(get().lists, kind);
          set({ lists, inHand: id });
        },
        takeSteps(steps) {
          const { lists, id } = takeSteps(get().lists, steps);
          set({ lists, inHand: id ?? get().inHand });
        },
        setClipSteps: (clip) => set({ lists: { ...get().lists, clip } }),
        pasteSteps(copies, beside) {
          const { lists, inHand } = get();
          const { steps, ids } = (beside ? addCopies : putInPlace)(lists.clip, copies);
          set({ lists: { ...lists, clip: steps }, inHand: ids[0] ?? inHand });
        },
        placeStep: (id, at) => set({ lists: placeStep(get().lists, id, at) }),
        removeStep(id) {
          const lists = removeStep(get().lists, id);
          set({ lists, inHand: ownedSteps(lists)[0]?.step.id ?? null });
        },
        resetStep: (id) =>
          change(id, (s) => ({ ...newStep(s.kind, s.id), ...(s.region ? { region: s.region } : {}) }), false),
        giveStep(id, owner) {
          const given = giveStep(get().lists, id, owner);
          set({ lists: given.lists, inHand: given.id, sheet: get().sheet === id ? given.id : get().sheet });
        },
        moveStep: (id, by) => set({ lists: moveStep(get().lists, id, by) }),
        resetAll: () => set({ lists: resetClipSteps(get().lists) }),
      };
    }),
    {
      partialize: ({ lists, trim, dive, retime }) => ({ lists, trim, dive, retime }),
      equality: (a, b) => a.lists === b.lists && a.trim === b.trim && a.dive === b.dive && a.retime === b.retime,
    },
  ),
);

/** The steps that are shown: while a finger is down, the live ones. */
export const shownLists = (s: BenchState): StepLists => s.live ?? s.lists;

/** In and out as they are shown. */
export const shownTrim = (s: BenchState): Trim => s.trimming ?? s.trim;

/** A step, and whose it is, as it is shown. */
export const useOwnedStep = (id: string | null): OwnedStep | undefined =>
  useBench(useShallow((s) => findStep(shownLists(s), id)));
