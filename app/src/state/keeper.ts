import { create } from 'zustand';
import type { GradeChange, Owner } from '@inkavo/core/model/outing';
import { api, ApiError, type ClipOpened } from '../api/client';
import { listsOf, useBench } from './bench';
import { OWNERS, type StepLists } from '@inkavo/core/model/lists';

interface KeepState {
  /** kept: on the server's disk. keeping: under way. waiting: the server cannot be reached. conflict: changed elsewhere. */
  state: 'kept' | 'keeping' | 'waiting' | 'conflict';
}
export const useKeep = create<KeepState>(() => ({ state: 'kept' }));

const DELAY_MS = 150;
const RETRY_MS = 2000;
const draftKey = (clipId: string): string => `inkavo-draft-${clipId}`;

interface Draft {
  lists: StepLists;
  revisions: Record<Owner, number>;
}

/**
 * Keeps the steps of the open clip on the server as they change. What the server has not confirmed also lies in this
 * browser's storage, so that a reload or a lost connection costs nothing.
 */
class Keeper {
  private clipId: string | null = null;
  private revisions: Record<Owner, number> = { clip: 0, camera: 0, outing: 0 };
  private kept: StepLists = { clip: [], camera: [], outing: [], overrides: {} };
  private timer: ReturnType<typeof setTimeout> | undefined;
  private busy: Promise<void> | undefined;

  /** Takes up a clip as the server has it; changes that it never got are put on top. Gives what to show. */
  begin(opened: ClipOpened): ClipOpened {
    this.clipId = opened.clip.id;
    this.revisions = { clip: opened.clip.revision, camera: opened.camera.revision, outing: opened.outing.revision };
    this.kept = listsOf(opened);
    useKeep.setState({ state: 'kept' });
    const draft = this.draft();
    const current = draft && OWNERS.every((o) => draft.revisions[o] === this.revisions[o]);
    if (!current) {
      localStorage.removeItem(draftKey(this.clipId));
      return opened;
    }
    const { camera, clip, outing, overrides = {} } = draft.lists;
    this.schedule(0);
    return {
      clip: { ...opened.clip, steps: clip, overrides },
      camera: { ...opened.camera, steps: camera },
      outing: { ...opened.outing, steps: outing },
    };
  }

  private draft(): Draft | undefined {
    const text = localStorage.getItem(draftKey(this.clipId!));
    try {
      return text ? (JSON.parse(text) as Draft) : undefined;
    } catch {
      return undefined;
    }
  }

  /** Called whenever the steps have changed. */
  changed(lists: StepLists): void {
    if (!this.clipId || useKeep.getState().state === 'conflict') return;
    if (!this.busy && OWNERS.every((o) => !this.differs(lists, o))) return this.allKept();
    useKeep.setState({ state: 'keeping' });
    localStorage.setItem(draftKey(this.clipId), JSON.stringify({ lists, revisions: this.revisions } satisfies Draft));
    this.schedule(DELAY_MS);
  }

  private differs(lists: StepLists, owner: Owner): boolean {
    return lists[owner] !== this.kept[owner] || (owner === 'clip' && lists.overrides !== this.kept.overrides);
  }

  private allKept(): void {
    clearTimeout(this.timer);
    localStorage.removeItem(draftKey(this.clipId!));
    useKeep.setState({ state: 'kept' });
  }

  private schedule(ms: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.flush(), ms);
  }

  /** Sends what is not kept, and waits for what is under way. Also when the clip is being left at this moment. */
  async flush(): Promise<void> {
    clearTimeout(this.timer);
    const { clipId } = this;
    const shown = () => (useBench.getState().opened?.clip.id === clipId ? useBench.getState().lists : undefined);
    const leaving = shown();
    await this.busy;
    const lists = shown() ?? leaving;
    if (!clipId || clipId !== this.clipId || !lists) return;
    const changed = OWNERS.filter((o) => this.differs(lists, o));
    if (changed.length === 0) return this.allKept();
    const change: GradeChange = Object.fromEntries(
      changed.map((o) => [
        o,
        {
          revision: this.revisions[o],
          steps: lists[o],
          ...(o === 'clip' ? { overrides: lists.overrides } : {}),
        },
      ]),
    );
    this.busy = this.send(clipId, change, lists).finally(() => (this.busy = undefined));
    await this.busy;
  }

  private async send(clipId: string, change: GradeChange, lists: StepLists): Promise<void> {
    try {
      const { revisions } = await api.keepSteps(clipId, change, { keepalive: JSON.stringify(change).length < 60_000 });
      if (clipId !== this.clipId) return;
      Object.assign(this.revisions, revisions);
      this.kept = lists;
      this.busy = undefined;
      this.changed(useBench.getState().opened?.clip.id === clipId ? useBench.getState().lists : lists);
    } catch (error) {
      const { status, message } = error as ApiError;
      if (status === 409) useKeep.setState({ state: 'conflict' });
      else if (status >= 400 && status < 500) useBench.getState().set({ trouble: message });
      else {
        useKeep.setState({ state: 'waiting' });
        this.schedule(RETRY_MS);
      }
    }
  }

  /** After a conflict: takes the steps as they are on the server, or puts the ones from here over them. */
  async resolve(keepMine: boolean): Promise<void> {
    const { opened, lists } = useBench.getState();
    if (!opened) return;
    const theirs = await api.clip(opened.clip.id);
    localStorage.removeItem(draftKey(opened.clip.id));
    this.begin(theirs);
    if (keepMine) this.changed(lists);
    else useBench.setState({ lists: listsOf(theirs), live: null });
  }
}

export const keeper = new Keeper();
useBench.subscribe(
  (s) => s.lists,
  (lists) => keeper.changed(lists),
);
if (typeof window !== 'undefined') window.addEventListener('pagehide', () => void keeper.flush());
