import equal from 'fast-deep-equal';
import { create } from 'zustand';
import { changeOf, sidesOf, type StepsState } from '@inkavo/core/model/change';
import type { StepLists } from '@inkavo/core/model/lists';
import { mergeLists, type Side } from '@inkavo/core/model/merge';
import { api, type ClipOpened } from '../api/client';
import { useBench } from './bench';
import { onReconnect } from './connection';
import { deviceLog, messageOf, newChangeId, nextTime, TAB, type Entry } from './deviceLog';
import { rebaseHistory } from './history';
import { listsOf } from './lists';
import { dropMessage, tell } from './messages';
import { sendChange } from './sendChange';
import { isOpen } from './tabs';

interface KeepState {
  /**
   * kept: saved by the server. keeping: in progress. waiting: the server cannot accept it now; retried automatically.
   * asked: conflict with a change elsewhere. refused: rejected by the server.
   */
  state: 'kept' | 'keeping' | 'waiting' | 'asked' | 'refused';
  /** Why it waits or is refused. */
  reason: string;
  /** Pending changes are in this device's storage; false: they are lost with the page. */
  onDevice: boolean;
  /** The conflict that the user has to resolve. */
  question: Entry | null;
}
export const useKeep = create<KeepState>(() => ({ state: 'kept', reason: '', onDevice: true, question: null }));

const DELAY_MS = 150;
/** Retry delays, doubling up to the maximum. */
const RETRY_MS = { first: 2000, longest: 15_000 };

export const stateOf = (opened: ClipOpened): StepsState => ({
  lists: listsOf(opened),
  revisions: { clip: opened.clip.revision, camera: opened.camera.revision, outing: opened.outing.revision },
});

/** A change with both sides as whole lists. */
interface Queued extends Entry {
  base: StepLists;
  next: StepLists;
}
const queued = (entry: Omit<Queued, 'change'>): Queued => ({
  ...entry,
  change: changeOf(entry.id, entry.base, entry.next),
});

/** Writes a change to the device, as a difference. */
function write({ base: _base, next: _next, ...entry }: Queued): void {
  deviceLog.write(entry);
}

/**
 * Saves the steps of the open clip on the server as they change. Each change is first written to this device, sent in
 * order, merged with changes by others, and deleted from the device when the server confirms that very change.
 */
class Keeper {
  clipId: string | null = null;
  private server: StepsState = { lists: useBench.getState().lists, revisions: { clip: 0, camera: 0, outing: 0 } };
  /** The server's lists with the queued changes applied. */
  private covered: StepLists = useBench.getState().lists;
  private queue: Queued[] = [];
  /** Changes that may have been sent: a further edit is another change. */
  private readonly fixed = new Set<string>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private retryMs = RETRY_MS.first;
  private busy: Promise<void> | undefined;

  /** Opens a clip from the server with this device's pending changes applied. Returns the lists to show. */
  begin(opened: ClipOpened): ClipOpened {
    this.leave();
    this.clipId = opened.clip.id;
    this.server = stateOf(opened);
    let { lists } = this.server;
    const entries = deviceLog.ofClip(opened.clip.id).map((entry): Queued => {
      const sides = sidesOf(entry.change, lists);
      ({ lists } = mergeLists(sides.base, sides.next, lists));
      return { ...entry, ...sides };
    });
    this.covered = lists;
    this.queue = entries.filter((e) => e.tab === TAB);
    for (const entry of entries) {
      this.fixed.add(entry.id);
      dropMessage(messageOf(entry));
    }
    void this.adopt(
      opened.clip.id,
      entries.filter((e) => e.tab !== TAB),
    );
    this.show();
    if (this.queue.length > 0) this.schedule(0);
    return {
      clip: { ...opened.clip, steps: lists.clip, overrides: lists.overrides },
      camera: { ...opened.camera, steps: lists.camera },
      outing: { ...opened.outing, steps: lists.outing },
    };
  }

  /** Adopts pending changes of pages that are closed by now. */
  private async adopt(clipId: string, entries: Queued[]): Promise<void> {
    for (const entry of entries) {
      const open = await isOpen(entry.tab);
      if (open || clipId !== this.clipId || !deviceLog.has(entry.id)) continue;
      this.queue = [...this.queue, entry].sort((a, b) => a.at - b.at);
      this.show();
      this.schedule(0);
    }
  }

  /** The clip is being closed; pending changes are sent in the background. */
  leave(): void {
    clearTimeout(this.timer);
    this.clipId = null;
    this.queue = [];
    useKeep.setState({ state: 'kept', reason: '', onDevice: true, question: null });
  }

  /** Called whenever the steps have changed. */
  changed(lists: StepLists): void {
    const { opened, frame } = useBench.getState();
    if (!this.clipId || opened?.clip.id !== this.clipId || equal(lists, this.covered)) return;
    const last = this.queue.at(-1);
    // A refused change is not on the server; one missing from the device was sent by another page.
    const open =
      last !== undefined && (last.refused !== undefined || !this.fixed.has(last.id)) && deviceLog.has(last.id);
    const base = open ? last.base : this.covered;
    this.covered = lists;
    if (open) this.queue.pop();
    if (!equal(base, lists)) {
      const entry = queued({
        id: newChangeId(),
        clipId: this.clipId,
        clipName: opened.clip.name,
        frame,
        tab: TAB,
        at: nextTime(),
        base,
        next: lists,
      });
      this.queue.push(entry);
      write(entry);
    }
    // Only now, so that the device always holds one of them.
    if (open) deviceLog.remove(last.id);
    this.show();
    this.schedule(DELAY_MS);
  }

  private schedule(ms: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.flush(), ms);
  }

  /**
   * Sends pending changes in order. Resolves when everything is saved, or the server cannot or will not accept more.
   */
  flush(): Promise<void> {
    clearTimeout(this.timer);
    this.busy ??= this.run().finally(() => (this.busy = undefined));
    return this.busy;
  }

  private async run(): Promise<void> {
    const { clipId } = this;
    while (clipId && clipId === this.clipId && this.queue.length > 0) {
      const [head] = this.queue;
      if (head.asked || head.refused) break;
      this.fixed.add(head.id);
      this.show();
      const outcome = await sendChange(head);
      if (outcome.is === 'stored') deviceLog.remove(head.id);
      if (outcome.is === 'asked') Object.assign(head, { asked: { clashes: outcome.clashes, theirs: outcome.theirs } });
      if (outcome.is === 'refused') head.refused = outcome.reason;
      if (outcome.is === 'asked' || outcome.is === 'refused') write(head);
      if (clipId !== this.clipId) return;
      if (outcome.is === 'later') {
        useKeep.setState({ state: 'waiting', reason: outcome.why });
        this.schedule(this.retryMs);
        this.retryMs = Math.min(RETRY_MS.longest, this.retryMs * 2);
        return;
      }
      this.retryMs = RETRY_MS.first;
      // Later edits may have fixed it: retried once, as one change.
      if (outcome.is === 'refused' && this.queue.length > 1) {
        this.foldQueue();
        continue;
      }
      if (outcome.is !== 'stored') break;
      this.queue.shift();
      this.server = outcome.answer;
      this.rebase(head.next, outcome.answer.lists, 'mine');
    }
    this.show();
  }

  /** Merges all queued changes into one. None of them is on the server. */
  private foldQueue(): void {
    const parts = this.queue;
    const folded = queued({ ...parts[0], refused: undefined, id: newChangeId(), next: parts[parts.length - 1].next });
    write(folded);
    for (const { id } of parts) deviceLog.remove(id);
    this.queue = [folded];
  }

  /** Rebases everything made on top of some lists onto others. */
  private rebase(from: StepLists, to: StepLists, prefer: Side): void {
    if (equal(from, to)) return;
    const onto = (lists: StepLists): StepLists => mergeLists(from, lists, to, prefer).lists;
    this.covered = onto(this.covered);
    this.queue = this.queue.map((entry) => {
      if (this.fixed.has(entry.id)) return entry;
      const moved = queued({ ...entry, id: newChangeId(), base: onto(entry.base), next: onto(entry.next) });
      write(moved);
      deviceLog.remove(entry.id);
      return moved;
    });
    const { lists, live } = useBench.getState();
    rebaseHistory(onto);
    useBench.temporal.getState().pause();
    useBench.setState({ lists: onto(lists), live: live && onto(live) });
    useBench.temporal.getState().resume();
    tell({ key: 'joined', text: 'A change that was made elsewhere has been joined with yours.', fades: true });
  }

  /** Publishes the state of saving. */
  private show(): void {
    const [head] = this.queue;
    const onDevice = this.queue.every((e) => deviceLog.onDevice(e.id));
    if (!head) useKeep.setState({ state: 'kept', reason: '', onDevice: true, question: null });
    else if (head.asked) {
      // Asked once automatically; if postponed, again on request.
      const question = useKeep.getState().state === 'asked' ? useKeep.getState().question : head;
      useKeep.setState({ state: 'asked', reason: '', onDevice, question });
    } else if (head.refused) useKeep.setState({ state: 'refused', reason: head.refused, onDevice, question: null });
    else if (useKeep.getState().state === 'waiting' && !this.busy) useKeep.setState({ onDevice });
    else useKeep.setState({ state: 'keeping', reason: '', onDevice, question: null });
  }

  /** Somebody else changed steps of this clip, its camera or its outing. */
  async changedElsewhere(): Promise<void> {
    const { clipId } = this;
    // The response to the current request brings the news.
    if (!clipId || this.queue.length > 0) return;
    const state = await api.clip(clipId).then(stateOf, () => undefined);
    if (!state || clipId !== this.clipId || this.queue.length > 0) return;
    const before = this.server.lists;
    this.server = state;
    this.rebase(before, state.lists, 'mine');
  }

  /** After a conflict: which side wins where both changed the same. Everything else is merged. */
  async resolve(side: Side): Promise<void> {
    const [head] = this.queue;
    const { clipId } = this;
    if (!clipId || !head?.asked) return;
    const theirs = stateOf(await api.clip(clipId));
    if (clipId !== this.clipId || head !== this.queue[0]) return;
    const { lists: mine } = useBench.getState();
    const { lists } = mergeLists(head.base, mine, theirs.lists, side);
    const done = this.queue;
    this.queue = [];
    this.server = theirs;
    this.covered = theirs.lists;
    const onto = (old: StepLists): StepLists => mergeLists(mine, old, lists, side).lists;
    rebaseHistory(onto);
    useBench.temporal.getState().pause();
    // The difference from theirs becomes a new change, based on theirs.
    useBench.setState({ lists, live: null });
    useBench.temporal.getState().resume();
    this.changed(lists);
    for (const { id } of done) deviceLog.remove(id);
    this.show();
    await this.flush();
  }

  /** Asks the open question again. */
  ask(): void {
    const [head] = this.queue;
    if (head?.asked) useKeep.setState({ question: head });
  }

  /** Drops a refused change: the steps return to the server's state. */
  async drop(): Promise<void> {
    const { clipId } = this;
    if (!clipId) return;
    const opened = await api.clip(clipId);
    if (clipId !== this.clipId) return;
    for (const { id } of this.queue) deviceLog.remove(id);
    this.queue = [];
    this.server = stateOf(opened);
    this.covered = this.server.lists;
    useBench.setState({ lists: this.covered, live: null });
    this.show();
  }
}

export const keeper = new Keeper();
useBench.subscribe(
  (s) => s.lists,
  (lists) => keeper.changed(lists),
);
if (typeof window !== 'undefined') {
  // A drag in progress when the page closes is saved too.
  const leaving = (): void => {
    useBench.getState().settle();
    void keeper.flush();
  };
  window.addEventListener('pagehide', leaving);
  document.addEventListener('visibilitychange', () => document.visibilityState === 'hidden' && leaving());
  window.addEventListener('online', () => void keeper.flush());
  onReconnect(() => void keeper.flush());
}
