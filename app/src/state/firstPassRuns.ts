import { create } from 'zustand';
import { createJSONStorage, persist, type StateStorage } from 'zustand/middleware';
import type { Step } from '@inkavo/core/model/grade';
import { joined } from '@inkavo/core/model/lists';
import type { ListedClip } from '@inkavo/core/model/outing';
import type { ClipClass } from '@inkavo/core/reading/estimate';
import type { Setting } from '@inkavo/core/reading/settings';
import { stepKind } from '@inkavo/core/steps';
import { api, ApiError } from '../api/client';
import { keepTrying } from './keepTrying';
import { isLikely } from './likely';
import { listsOf } from './lists';
import { tell } from './messages';
import { stepsBeside, takeSteps } from './stepLists';

/** A clip that was read, and what would be done with it. */
export interface Read {
  id: string;
  name: string;
  found: ClipClass;
  /** What it seems to be is likelier than all else together. */
  likely: boolean;
  /** Its own steps as they are, and as they would be; null where there is nothing to mend. */
  change: { from: Step[]; to: Step[] } | null;
  /** What its camera or its outing has, which would go on acting beside. */
  beside: string[];
}

/** A first pass on each of several clips of an outing: how far it is, and what was found. */
export interface FirstPassRun {
  /** All that are read, in order. */
  clips: { id: string; name: string; setting: Setting | null }[];
  read: Read[];
  failed: { id: string; name: string; why: string }[];
  /** Answers where a camera's clips were filmed that the server did not keep. */
  notKept: string[];
  /** A person has stopped it. */
  stopped: boolean;
}

interface Runs {
  /** By outing. */
  runs: Record<string, FirstPassRun>;
  /** Outings whose clips are read now; `away`: the server cannot be reached, and it goes on when it can. */
  going: Record<string, 'reading' | 'away'>;
}

const storage: StateStorage = {
  getItem: (key) => sessionStorage.getItem(key),
  setItem(key, value) {
    try {
      sessionStorage.setItem(key, value);
    } catch {
      // No room: what was found since is known as long as this page is open.
    }
  },
  removeItem: (key) => sessionStorage.removeItem(key),
};

/** What first passes on several clips have come to; in this tab, also over a reload. */
export const useFirstPassRuns = create<Runs>()(
  persist((): Runs => ({ runs: {}, going: {} }), {
    name: 'inkavo-first-passes',
    storage: createJSONStorage(() => storage),
    partialize: ({ runs }) => ({ runs }),
  }),
);

const without = <T>(all: Record<string, T>, key: string): Record<string, T> =>
  Object.fromEntries(Object.entries(all).filter(([k]) => k !== key));

const controllers = new Map<string, AbortController>();

function change(outingId: string, changed: (run: FirstPassRun) => Partial<FirstPassRun>): void {
  const { runs } = useFirstPassRuns.getState();
  const run = runs[outingId];
  if (run) useFirstPassRuns.setState({ runs: { ...runs, [outingId]: { ...run, ...changed(run) } } });
}
function setGoing(outingId: string, how: 'reading' | 'away'): void {
  useFirstPassRuns.setState(({ going }) => ({ going: { ...going, [outingId]: how } }));
}

/** The clip that is read next. */
const nextOf = ({ clips, read, failed }: FirstPassRun): FirstPassRun['clips'][number] | undefined =>
  clips.find(({ id }) => !read.some((c) => c.id === id) && !failed.some((c) => c.id === id));

/** Whether all of its clips were read, or could not be. */
export const isRead = (run: FirstPassRun): boolean => nextOf(run) === undefined;

async function readOne({ id, name, setting }: FirstPassRun['clips'][number], signal: AbortSignal): Promise<Read> {
  const opened = await api.clip(id);
  const lists = listsOf(opened);
  const pass = await api.firstPass(id, { steps: joined(lists), setting: setting ?? undefined }, { signal });
  const [{ found, proposals }] = pass.explanations;
  const steps = proposals.map((p) => p.step);
  return {
    id,
    name,
    found,
    likely: isLikely(pass),
    change: steps.length ? { from: lists.clip, to: takeSteps(lists, steps).lists.clip } : null,
    beside: steps.length ? stepsBeside(lists, steps).map(({ step }) => step.label ?? stepKind(step.kind).title) : [],
  };
}

/** Resolves once the server answers again, or `signal` aborts. */
const reachable = (signal: AbortSignal): Promise<void> =>
  new Promise((resolve) => {
    const stop = keepTrying(async () => {
      const answered = await api.outings().then(
        () => true,
        (error: unknown) => error instanceof ApiError && error.status !== 0,
      );
      if (answered) end();
    });
    const end = (): void => {
      stop();
      resolve();
    };
    signal.addEventListener('abort', end, { once: true });
  });

/** So many lost connections in a row with one clip are no chance: the others have their turn. */
const MOST_LOST = 3;

/** Reads what has not been read, one clip after another, until it is done or stopped. */
export async function goOn(outingId: string): Promise<void> {
  if (controllers.has(outingId)) return;
  const controller = new AbortController();
  const { signal } = controller;
  controllers.set(outingId, controller);
  change(outingId, () => ({ stopped: false }));
  for (let lost = 0; ;) {
    const run = useFirstPassRuns.getState().runs[outingId];
    const clip = run && nextOf(run);
    if (!clip || signal.aborted) break;
    setGoing(outingId, 'reading');
    try {
      const one = await readOne(clip, signal);
      if (signal.aborted) break;
      change(outingId, ({ read }) => ({ read: [...read, one] }));
      lost = 0;
    } catch (error) {
      if (signal.aborted) break;
      lost = error instanceof ApiError && error.status === 0 ? lost + 1 : 0;
      if (lost > 0 && lost < MOST_LOST) {
        setGoing(outingId, 'away');
        await reachable(signal);
      } else {
        const { id, name } = clip;
        const why = (error as Error).message;
        change(outingId, ({ failed }) => ({ failed: [...failed, { id, name, why }] }));
        lost = 0;
      }
    }
  }
  if (controllers.get(outingId) !== controller) return;
  end(outingId);
  const run = useFirstPassRuns.getState().runs[outingId];
  // The outing itself shows it.
  if (run && isRead(run) && window.location.pathname !== `/outing/${outingId}`)
    tell({
      key: 'first-pass',
      text: 'The first pass on several clips is read: its outing shows what was found.',
      fades: true,
    });
}

function end(outingId: string): void {
  controllers.get(outingId)?.abort();
  controllers.delete(outingId);
  useFirstPassRuns.setState(({ going }) => ({ going: without(going, outingId) }));
}

/** Begins to read clips; `settings`: where those of a camera were filmed, by its id. */
export function beginRun(
  outingId: string,
  clips: readonly ListedClip[],
  settings: ReadonlyMap<string, Setting | null>,
  notKept: string[],
): void {
  dropRun(outingId);
  const asked = clips.map(({ id, name, cameraId }) => ({ id, name, setting: settings.get(cameraId) ?? null }));
  const run: FirstPassRun = { clips: asked, read: [], failed: [], notKept, stopped: false };
  useFirstPassRuns.setState(({ runs }) => ({ runs: { ...runs, [outingId]: run } }));
  void goOn(outingId);
}

/** Stops reading; what was found stays. */
export function stopRun(outingId: string): void {
  change(outingId, () => ({ stopped: true }));
  end(outingId);
}

/** Reads again what could not be read. */
export function readFailedAgain(outingId: string): void {
  change(outingId, () => ({ failed: [] }));
  void goOn(outingId);
}

/** Forgets what was found. */
export function dropRun(outingId: string): void {
  end(outingId);
  useFirstPassRuns.setState(({ runs }) => ({ runs: without(runs, outingId) }));
}
