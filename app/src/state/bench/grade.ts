import type { ClipDive } from '@inkavo/core/model/diveLog';
import { secondsOf } from '@inkavo/core/model/facts';
import { newStep, type Override, type Step } from '@inkavo/core/model/grade';
import type { Owner, StepLists } from '@inkavo/core/model/lists';
import type { Retime } from '@inkavo/core/model/retime';
import { isKeyframed, withKey } from '@inkavo/core/regions/keyframes';
import { tellShared } from '../shared';
import {
  addCopies,
  addStep,
  changeStep,
  moveToOwner,
  moveStep,
  overrideStep,
  ownedSteps,
  placeStep,
  putInPlace,
  removeStep,
  resetClipSteps,
  takeSteps,
} from '../stepLists';
import type { GetBench, SetBench } from './store';

/** First and last kept frame of a clip. */
export interface Trim {
  inFrame: number;
  outFrame: number;
}

/** The steps, and what is saved along with them. */
export interface Grade {
  /** The steps as saved. These, in and out, the dive log and the speed are undoable. */
  lists: StepLists;
  trim: Trim;
  dive: ClipDive | null;
  /** Retiming; null: as recorded. */
  retime: Retime | null;
  /** In and out during a drag; on release they become `trim`. */
  trimming: Trim | null;
  /** The steps during a drag; on release they become `lists`. */
  live: StepLists | null;
  /** Proposed steps: previewed, and never saved. */
  offer: Offer | null;
}

/** The steps including the proposed ones. */
export interface Offer {
  lists: StepLists;
  /** Shown without them, for comparison. */
  without: boolean;
}

export interface GradeActions {
  /** Changes parameters of a step; `live` during a drag. */
  setParams(id: string, params: Record<string, unknown>, live?: boolean): void;
  /** Sets a parameter as given, bypassing keyframes. */
  setParam(id: string, key: string, value: unknown): void;
  setStep(id: string, part: Partial<Pick<Step, 'on' | 'strength' | 'label'>>, live?: boolean): void;
  /** This clip's override of an inherited step. */
  overrideStep(id: string, here: Override, live?: boolean): void;
  /** Changes the lists as one undoable change; `live` during a drag. */
  edit(f: (lists: StepLists) => StepLists, live?: boolean): void;
  /** Commits live changes as one undoable change. */
  settle(): void;
  setTrim(part: Partial<Trim>, live?: boolean): void;
  /** Sets or removes a dive log; `params` of a step change with it. */
  setDive(dive: ClipDive | null, follow?: { id: string; params: Record<string, unknown> }): void;
  setRetime(retime: Retime | null): void;
  addStep(kind: string): void;
  /** Previews proposed steps, or hides them (`without`); null: ends the preview. */
  offerLists(lists: StepLists | null, without?: boolean): void;
  /** Takes steps of a first pass into the clip; `off`: ids of those that are switched off for them. */
  takeSteps(steps: readonly Step[], off?: readonly string[]): void;
  /** Changes the clip's steps as one undoable change. */
  setClipSteps(steps: Step[]): void;
  /** Inserts copies of steps into the clip; `beside`: in addition to existing ones instead of replacing them. */
  pasteSteps(steps: readonly Step[], beside: boolean): void;
  placeStep(id: string, at: string): void;
  removeStep(id: string): void;
  resetStep(id: string): void;
  giveStep(id: string, owner: Owner): void;
  moveStep(id: string, by: -1 | 1): void;
  resetAll(): void;
}

/** New parameters; a plain number for a keyframed parameter becomes a key at the playhead. */
function atPlayhead(
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

export function grade(set: SetBench, get: GetBench): Grade & GradeActions {
  const change = (id: string, f: (step: Step) => Step, live: boolean): void => {
    const { lists: before } = get();
    const next = changeStep(get().live ?? before, id, f);
    set(live ? { live: next } : { lists: next, live: null });
    if (!live) tellShared(get().opened, before, next, get().edit);
  };
  return {
    lists: NONE,
    live: null,
    offer: null,
    trim: { inFrame: 0, outFrame: 0 },
    trimming: null,
    dive: null,
    retime: null,

    setParams(id, params, live = false) {
      const { opened, frame } = get();
      const seconds = opened ? secondsOf(opened.clip.facts, frame) : 0;
      change(id, (s) => ({ ...s, params: { ...s.params, ...atPlayhead(s.params, params, seconds) } }), live);
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
    offerLists: (lists, without = false) => set({ offer: lists && { lists, without } }),
    takeSteps(steps, off) {
      const { lists, id } = takeSteps(get().lists, steps, off);
      set({ lists, offer: null, inHand: id ?? get().inHand });
    },
    setClipSteps: (clip) => set({ lists: { ...get().lists, clip }, offer: null }),
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
      const given = moveToOwner(get().lists, id, owner);
      set({ lists: given.lists, inHand: given.id, sheet: get().sheet === id ? given.id : get().sheet });
    },
    moveStep: (id, by) => set({ lists: moveStep(get().lists, id, by) }),
    resetAll: () => set({ lists: resetClipSteps(get().lists) }),
  };
}
