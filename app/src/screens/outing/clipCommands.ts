import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import { api } from '../../api/client';
import { act } from '../../state/commands';
import { tellTrouble } from '../../state/messages';
import type { ChosenCamera } from './CameraChoice';

const named = (clips: readonly ListedClip[]): string => (clips.length === 1 ? clips[0].name : `${clips.length} clips`);

/** Moves clips of an outing to one of its cameras, or to a new one. Resolves with whether that succeeded. */
export async function moveToCamera(
  clips: readonly ListedClip[],
  cameras: readonly Camera[],
  to: ChosenCamera,
): Promise<boolean> {
  if (clips.length === 0) return false;
  const { outingId } = clips[0];
  try {
    const camera = 'id' in to ? cameras.find((c) => c.id === to.id)! : await api.newCamera(outingId, { name: to.name });
    return await act({
      place: outingId,
      what: `${named(clips)} to ${camera.name}`,
      done: clips.map((c) => ({ on: 'clip', id: c.id, patch: { cameraId: camera.id } })),
      undone: clips.map((c) => ({ on: 'clip', id: c.id, patch: { cameraId: c.cameraId } })),
    });
  } catch (error) {
    tellTrouble('command', (error as Error).message);
    return false;
  }
}

/** Removes clips from their outing; they can be restored. */
export const removeClips = (clips: readonly ListedClip[]): Promise<boolean> =>
  act(
    {
      place: clips[0].outingId,
      what: `removal of ${named(clips)}`,
      done: [{ on: 'remove', kind: 'clip', ids: clips.map((c) => c.id) }],
      undone: [{ on: 'back', kind: 'clip', ids: clips.map((c) => c.id) }],
    },
    `${named(clips)} ${clips.length === 1 ? 'was' : 'were'} removed.`,
  );

/** Marks clips as done or not done. */
export const setChecked = (clips: readonly ListedClip[], checked: boolean): Promise<boolean> =>
  act({
    place: clips[0].outingId,
    what: `${named(clips)} ${checked ? 'checked' : 'not checked'}`,
    done: clips.map((c) => ({ on: 'clip', id: c.id, patch: { checked } })),
    undone: clips.map((c) => ({ on: 'clip', id: c.id, patch: { checked: c.checked } })),
  });
