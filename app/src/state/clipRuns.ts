import { create } from 'zustand';
import { createJSONStorage, persist, type StateStorage } from 'zustand/middleware';
import { api, isUnanswered } from '../api/client';
import { keepTrying } from './keepTrying';
import { tell } from './messages';

/** Identification of a clip. */
export interface Named {
  id: string;
  name: string;
}

/** A reading of several clips of an outing: progress and findings. */
export interface ClipRun<Clip extends Named, Found extends Named> {
  /** All clips to read, in order. */
  clips: Clip[];
  found: Found[];
  failed: (Named & { why: string })[];
  /** A further message. */
  notes: string[];
  /** Stopped by the user. */
  stopped: boolean;
}

interface Runs<Clip extends Named, Found extends Named> {
  /** By outing. */
  runs: Record<string, ClipRun<Clip, Found>>;
  /** Outings whose clips are being read; `away`: the server is unreachable, to be resumed later. */
  going: Record<string, 'reading' | 'away'>;
}

interface Asked<Clip, Found> {
  /** Storage key for this tab. */
  key: string;
  /** Message shown on other screens when a run is complete. */
  told: string;
  readOne(clip: Clip, signal: AbortSignal): Promise<Found>;
}

const storage: StateStorage = {
  getItem: (key) => sessionStorage.getItem(key),
  setItem(key, value) {
    try {
      sessionStorage.setItem(key, value);
    } catch {
      // Storage is full: later findings are kept while the page is open.
    }
  },
  removeItem: (key) => sessionStorage.removeItem(key),
};

const without = <T>(all: Record<string, T>, key: string): Record<string, T> =>
  Object.fromEntries(Object.entries(all).filter(([k]) => k !== key));

/** Clips that were neither read nor failed. */
const leftOf = <Clip extends Named>({ clips, found, failed }: ClipRun<Clip, Named>): Clip[] =>
  clips.filter(({ id }) => !found.some((c) => c.id === id) && !failed.some((c) => c.id === id));

/** Findings in the order of the clips. */
const inOrderOf = <Found extends Named>(clips: readonly Named[], found: readonly Found[]): Found[] => {
  const byId = new Map(found.map((one) => [one.id, one]));
  return clips.flatMap(({ id }) => byId.get(id) ?? []);
};

/** Whether all of its clips were read, or failed. */
export const isRead = (run: ClipRun<Named, Named>): boolean => leftOf(run).length === 0;

/** Resolves once the server responds again, or `signal` aborts. */
const reachable = (signal: AbortSignal): Promise<void> =>
  new Promise((resolve) => {
    const stop = keepTrying(async () => {
      const answered = await api.outings().then(
        () => true,
        (error: unknown) => !isUnanswered(error),
      );
      if (answered) end();
    });
    const end = (): void => {
      stop();
      resolve();
    };
    signal.addEventListener('abort', end, { once: true });
  });

/** Consecutive connection losses with one clip after which it counts as failed: the others get their turn. */
const MOST_LOST = 3;
/** Clips read at a time: one is decoded while another is measured. */
const AT_ONCE = 2;

/**
 * Reads several clips, in order and a few at a time, on any screen: it pauses while the server is unreachable, and
 * findings are kept in this tab until dismissed, including across reloads.
 */
export class ClipRuns<Clip extends Named, Found extends Named> {
  readonly use;
  private readonly controllers = new Map<string, AbortController>();

  constructor(private readonly asked: Asked<Clip, Found>) {
    this.use = create<Runs<Clip, Found>>()(
      persist((): Runs<Clip, Found> => ({ runs: {}, going: {} }), {
        name: asked.key,
        storage: createJSONStorage(() => storage),
        partialize: ({ runs }) => ({ runs }),
      }),
    );
  }

  /** Starts over with these clips. */
  begin(outingId: string, clips: Clip[], notes: string[] = []): void {
    this.drop(outingId);
    const run: ClipRun<Clip, Found> = { clips, found: [], failed: [], notes, stopped: false };
    this.use.setState(({ runs }) => ({ runs: { ...runs, [outingId]: run } }));
    void this.goOn(outingId);
  }

  /** Reads the remaining clips, until done or stopped. */
  async goOn(outingId: string): Promise<void> {
    if (this.controllers.has(outingId)) return;
    const controller = new AbortController();
    const { signal } = controller;
    this.controllers.set(outingId, controller);
    this.change(outingId, () => ({ stopped: false }));
    const taken = new Set<string>();
    await Promise.all(Array.from({ length: AT_ONCE }, () => this.readOnes(outingId, taken, signal)));
    if (this.controllers.get(outingId) !== controller) return;
    this.end(outingId);
    const run = this.run(outingId);
    // The outing itself shows it.
    if (run && isRead(run) && window.location.pathname !== `/outing/${outingId}`)
      tell({ key: this.asked.key, text: this.asked.told, fades: true });
  }

  /** Reads one clip after another, except those that are `taken` by another call. */
  private async readOnes(outingId: string, taken: Set<string>, signal: AbortSignal): Promise<void> {
    for (;;) {
      const run = this.run(outingId);
      const clip = run && leftOf(run).find(({ id }) => !taken.has(id));
      if (!clip || signal.aborted) return;
      taken.add(clip.id);
      await this.readClip(outingId, clip, signal);
    }
  }

  private async readClip(outingId: string, clip: Clip, signal: AbortSignal): Promise<void> {
    for (let lost = 1; ; lost += 1) {
      this.setGoing(outingId, 'reading');
      try {
        const one = await this.asked.readOne(clip, signal);
        if (!signal.aborted)
          this.change(outingId, ({ clips, found }) => ({ found: inOrderOf(clips, [...found, one]) }));
        return;
      } catch (error) {
        if (signal.aborted) return;
        if (!isUnanswered(error) || lost === MOST_LOST) {
          const { id, name } = clip;
          const why = (error as Error).message;
          return this.change(outingId, ({ failed }) => ({ failed: [...failed, { id, name, why }] }));
        }
        this.setGoing(outingId, 'away');
        await reachable(signal);
        if (signal.aborted) return;
      }
    }
  }

  /** Stops reading; findings are kept. */
  stop(outingId: string): void {
    this.change(outingId, () => ({ stopped: true }));
    this.end(outingId);
  }

  /** Retries the failed clips. */
  readFailedAgain(outingId: string): void {
    this.change(outingId, () => ({ failed: [] }));
    void this.goOn(outingId);
  }

  /** Dismisses the findings. */
  drop(outingId: string): void {
    this.end(outingId);
    this.use.setState(({ runs }) => ({ runs: without(runs, outingId) }));
  }

  private run(outingId: string): ClipRun<Clip, Found> | undefined {
    return this.use.getState().runs[outingId];
  }

  private change(outingId: string, changed: (run: ClipRun<Clip, Found>) => Partial<ClipRun<Clip, Found>>): void {
    const run = this.run(outingId);
    if (run) this.use.setState(({ runs }) => ({ runs: { ...runs, [outingId]: { ...run, ...changed(run) } } }));
  }

  private setGoing(outingId: string, how: 'reading' | 'away'): void {
    this.use.setState(({ going }) => ({ going: { ...going, [outingId]: how } }));
  }

  private end(outingId: string): void {
    this.controllers.get(outingId)?.abort();
    this.controllers.delete(outingId);
    this.use.setState(({ going }) => ({ going: without(going, outingId) }));
  }
}
