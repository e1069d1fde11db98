import equal from 'fast-deep-equal';
import { create } from 'zustand';
import type { ClipDive } from '@inkavo/core/model/diveLog';
import type { Clip } from '@inkavo/core/model/outing';
import type { Retime } from '@inkavo/core/model/retime';
import { api, ApiError, type ClipOpened } from '../api/client';
import { useBench, type Trim } from './bench';
import { rebaseClipHistory } from './history';
import { dropMessage, tell, tellTrouble } from './messages';

/** Properties of a clip, other than its steps, that the server has not confirmed. */
interface Pending {
  trim?: Trim;
  dive?: ClipDive | null;
  retime?: Retime | null;
}

const KEY = 'inkavo-clips-pending';

function remembered(): Record<string, Pending> {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '{}') as Record<string, Pending>;
  } catch {
    return {};
  }
}

/**
 * In, out, dive logs and speeds that are not saved on the server yet, by clip; they survive the page. `failing`: the
 * last attempt failed.
 */
export const usePending = create<{ clips: Record<string, Pending>; failing: boolean }>(() => ({
  clips: remembered(),
  failing: false,
}));

function write(clips: Record<string, Pending>): void {
  usePending.setState({ clips });
  try {
    localStorage.setItem(KEY, JSON.stringify(clips));
  } catch {
    // The device's storage is full: sent from memory while the page is open.
  }
}

function note(clipId: string, part: Pending): void {
  const { clips } = usePending.getState();
  write({ ...clips, [clipId]: { ...clips[clipId], ...part } });
  void flushClips();
}

/** Removes what was sent, unless it has changed since. */
function settle(clipId: string, sent: Pending): void {
  const { [clipId]: now, ...others } = usePending.getState().clips;
  const rest: Pending = {
    ...(now?.trim && !equal(now.trim, sent.trim) ? { trim: now.trim } : {}),
    ...(now?.dive !== undefined && !equal(now.dive, sent.dive) ? { dive: now.dive } : {}),
    ...(now?.retime !== undefined && !equal(now.retime, sent.retime) ? { retime: now.retime } : {}),
  };
  write(Object.keys(rest).length ? { ...others, [clipId]: rest } : others);
}

async function send(clipId: string, { trim, dive, retime }: Pending): Promise<void> {
  if (trim || retime !== undefined)
    await api.changeClip(clipId, { ...trim, ...(retime === undefined ? {} : { retime }) }, true);
  if (dive !== undefined) await api.setDive(clipId, dive, true);
}

let busy: Promise<void> | undefined;

async function run(): Promise<void> {
  for (const [clipId, pending] of Object.entries(usePending.getState().clips)) {
    try {
      await send(clipId, pending);
      settle(clipId, pending);
      dropMessage('clip-refused');
    } catch (error) {
      // Unreachable or busy: it stays queued, and is retried automatically.
      if (!(error instanceof ApiError) || error.status === 0 || error.status >= 500)
        return usePending.setState({ failing: true });
      settle(clipId, pending);
      tellTrouble('clip-refused', `In, out, speed or dive log could not be kept: ${error.message}`);
    }
  }
  usePending.setState({ failing: false });
}

/** Sends what is not saved. Resolves when everything is saved, or the server cannot accept it now. */
export async function flushClips(): Promise<void> {
  busy ??= run().finally(() => (busy = undefined));
  await busy;
}

/** A clip from the server with this device's pending changes applied. */
export function withPending(opened: ClipOpened): ClipOpened {
  const { trim, dive, retime } = usePending.getState().clips[opened.clip.id] ?? {};
  const own = { ...(dive === undefined ? {} : { dive }), ...(retime === undefined ? {} : { retime }) };
  return { ...opened, clip: { ...opened.clip, ...trim, ...own } };
}

/** Applies in, out, speed and dive log set by others to the open clip, unless they are being changed here. */
export async function clipChangedElsewhere(): Promise<void> {
  const clipId = useBench.getState().opened?.clip.id;
  const ownNow = (): boolean =>
    useBench.getState().trimming !== null || usePending.getState().clips[clipId!] !== undefined;
  if (!clipId || ownNow()) return;
  const found = await api.clip(clipId).catch(() => undefined);
  if (!found || ownNow() || !takeIn(found.clip)) return;
  tell({
    key: 'clip-elsewhere',
    text: 'In, out, the speed or the dive log was set elsewhere, and is so here now.',
    fades: true,
  });
}

/** Applies a clip's properties set by a command of this page to the bench, if the clip is open there. */
export function takeClip(clip: Clip): void {
  if (usePending.getState().clips[clip.id]) return;
  takeIn(clip);
  // The server event may have arrived first.
  dropMessage('clip-elsewhere');
}

/** Applies in, out, speed and dive log from the server to the open clip. Returns whether anything differed. */
function takeIn({ id, inFrame, outFrame, ...theirs }: Clip): boolean {
  const { opened, trim, dive, retime } = useBench.getState();
  const next = { trim: { inFrame, outFrame }, dive: theirs.dive, retime: theirs.retime };
  if (opened?.clip.id !== id || equal(next, { trim, dive, retime })) return false;
  const { clip } = opened;
  // The undo history is rebased onto what others set.
  rebaseClipHistory({ trim, dive, retime }, next);
  useBench.temporal.getState().pause();
  useBench.setState({
    opened: { ...opened, clip: { ...clip, ...next.trim, dive: next.dive, retime: next.retime } },
    ...next,
  });
  useBench.temporal.getState().resume();
  return true;
}

useBench.subscribe(
  (s) => s.trim,
  (trim) => {
    const { opened } = useBench.getState();
    if (!opened || equal(trim, { inFrame: opened.clip.inFrame, outFrame: opened.clip.outFrame })) return;
    useBench.setState({ opened: { ...opened, clip: { ...opened.clip, ...trim } } });
    note(opened.clip.id, { trim });
  },
);
for (const key of ['dive', 'retime'] as const)
  useBench.subscribe(
    (s) => s[key],
    (value) => {
      const { opened } = useBench.getState();
      if (!opened || equal(value, opened.clip[key])) return;
      useBench.setState({ opened: { ...opened, clip: { ...opened.clip, [key]: value } } });
      note(opened.clip.id, { [key]: value });
    },
  );
