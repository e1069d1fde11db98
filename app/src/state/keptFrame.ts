import { get, set as store } from 'idb-keyval';
import { api } from '../api/client';
import { useBench } from './bench';

/** Width of a kept frame's picture, in pixels. */
const WIDTH = 1280;

const keyOf = (clipId: string): string => `inkavo-kept-${clipId}`;

/** Keeps a picture of the clip for later comparison; stored on this device. */
export async function keepFrame(blob: Blob): Promise<void> {
  const { opened, set } = useBench.getState();
  if (!opened) return;
  await store(keyOf(opened.clip.id), blob);
  show(blob);
  set({ compareWith: 'kept', split: 0.5 });
}

/** Compares this clip with a frame kept on the server, of this or another clip. */
export async function compareWithKept(id: string): Promise<void> {
  const clipId = useBench.getState().opened?.clip.id;
  const blob = await api.keptPicture(id, WIDTH);
  const { opened, set } = useBench.getState();
  if (opened?.clip.id !== clipId) return;
  show(blob);
  set({ compareWith: 'kept', split: 0.5 });
}

/** Shows another picture beside this clip for comparison; `title` describes it. Not stored. */
export function showBeside(blob: Blob, title: string): void {
  show(blob, title);
  useBench.getState().set({ compareWith: 'kept', split: null, beside: true });
}

/** Restores the kept frame of a clip. */
export async function loadKeptFrame(clipId: string): Promise<void> {
  const blob = await get<Blob>(keyOf(clipId)).catch(() => undefined);
  if (useBench.getState().opened?.clip.id === clipId) show(blob);
}

function show(blob: Blob | undefined, title: string | null = null): void {
  const { kept, set } = useBench.getState();
  if (kept) URL.revokeObjectURL(kept);
  set({ kept: blob ? URL.createObjectURL(blob) : null, keptTitle: title });
}
